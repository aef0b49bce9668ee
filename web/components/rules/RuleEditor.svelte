<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Panel from '../ui/Panel.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Notice from '../ui/Notice.svelte'
  import Combobox from '../ui/Combobox.svelte'
  import Input from '../ui/Input.svelte'
  import { untrack } from 'svelte'
  import {
    GEAR_KINDS,
    isMeasureKey,
    MEASURE_GROUPS,
    measureKeys,
    type MeasureKey,
    measureOf,
    PART_KINDS,
    SENSOR_ROLES,
  } from '#core/catalogue'
  import { FINITE_MEASURES } from '#core/forecast'
  import { kindWords, RULE_KINDS, ruleFromFields, ruleWords, type RuleKind, type Severity } from '#core/rules'
  import { writeAmount } from '#core/units'
  import type { RuleOptions } from '$lib/server/rules/rules'
  import PatternTrial from '../logs/PatternTrial.svelte'
  import AheadRehearsal from './AheadRehearsal.svelte'
  import RuleRehearsal from './RuleRehearsal.svelte'
  import RuleLines from './RuleLines.svelte'
  import ScopeField, { choicesOf } from './ScopeField.svelte'

  let {
    fields: given,
    options,
    insteadOf,
    mayChange,
    message = null,
    problems: refused = {},
    timeZone,
    save,
    isShipped = false,
  }: {
    fields: Readonly<Record<string, string>>
    options: RuleOptions & { readonly parts?: readonly { readonly id: number; readonly name: string }[] }
    /** The rule that this one takes the place of. */
    insteadOf: number | null
    mayChange: boolean
    message?: string | null | undefined
    problems?: Readonly<Record<string, string>> | undefined
    timeZone: string
    save: string
    /** It begins as a shipped rule, which stays. */
    isShipped?: boolean
  } = $props()

  let fields = $state<Record<string, string>>(untrack(() => ({ ...given })))
  let isTried = $state(false)
  const filled = $derived(ruleFromFields(fields))
  const problems = $derived<Readonly<Record<string, string>>>(
    isTried && filled.kind === 'problems' ? filled.problems : isTried ? {} : refused,
  )
  const kind = $derived((fields['kind'] ?? 'level') as RuleKind)
  const measure = $derived<MeasureKey>(
    isMeasureKey(fields['measure'] ?? '') ? (fields['measure'] as MeasureKey) : 'hw.temperature',
  )
  const hasMeasure = $derived(kind !== 'text' && kind !== 'noData')
  /** Attributes of drives are too many to choose from: the one that was come with is among them. */
  const known = untrack(() => {
    const own = given['measure'] ?? ''
    const all = measureKeys()
    return !isMeasureKey(own) || all.includes(own) ? all : [...all, own]
  })
  const keys = $derived(
    known.filter((key) => {
      const isState = measureOf(key).kind === 'state'
      if (kind === 'state') return isState
      if (kind === 'ahead') return FINITE_MEASURES.includes(key)
      return kind === 'change' || kind === 'count' || kind === 'silent' ? true : !isState
    }),
  )
  // A measure that this kind cannot have makes way for the first that it can.
  $effect(() => {
    if (hasMeasure && !keys.includes(measure)) fields['measure'] = keys[0]!
  })
  const WHERES = [
    ['everywhere', 'everywhere'],
    ['tag', 'with the tag'],
    ['room', 'in the room'],
    ['rack', 'in the rack'],
    ['cluster', 'of the cluster'],
    ['group', 'of the group'],
    ['gear', 'of this gear'],
    ['part', 'of this part'],
  ] as const
  const placeName = $derived(
    choicesOf(options, fields['whereKind'] ?? '').find(({ value }) => value === fields['whereValue'])?.name ??
      '',
  )
  /** What becomes of the shipped rule when its copy is for one place only. */
  const narrowed = $derived.by(() => {
    const place = WHERES.find(([key]) => key === fields['whereKind'])
    if (!isShipped || place === undefined || place[0] === 'everywhere' || placeName === '') return null
    return `Only ${place[1]} ${placeName}; elsewhere the shipped rule stays.`
  })
  const sentence = $derived.by(() => {
    if (filled.kind === 'problems') return null
    const { rule } = filled
    const subject = hasMeasure
      ? `${measureOf(measure).label} of ${kindWords(rule.scope)}`
      : kindWords(rule.scope)
    const where = WHERES.find(([key]) => key === rule.scope.where.kind)![1]
    return `${subject}${rule.scope.where.kind === 'everywhere' ? '' : ` ${where} ${placeName}`}: ${ruleWords(rule)}.`
  })

  function setLine(severity: Severity, at: number): void {
    const { unit: of } = measureOf(measure)
    const old =
      filled.kind === 'rule' && filled.rule.kind === 'level'
        ? filled.rule.lines.find((line) => line.severity === severity)
        : undefined
    const rounded = Number(at.toPrecision(4))
    fields[severity] = writeAmount(rounded, of)
    if (old?.back != null)
      fields[`${severity}Back`] = writeAmount(Number((old.back + rounded - old.at).toPrecision(6)), of)
  }
</script>

{#snippet measures(name: string, label: string)}
  <Combobox
    {label}
    class="w-64"
    {name}
    bind:value={fields[name]}
    error={problems[name]}
    options={MEASURE_GROUPS.flatMap((group) =>
      keys
        .filter((key) => measureOf(key).group === group)
        .map((key) => ({ value: key, label: measureOf(key).label, group })),
    )}
  />
{/snippet}
{#snippet text(name: string, label: string, width = 'w-28', placeholder = '')}
  <Input {label} class={width} {name} {placeholder} bind:value={fields[name]} error={problems[name]} />
{/snippet}
{#snippet choice(name: string, label: string, all: readonly (readonly [string, string])[])}
  <Select
    {label}
    {name}
    bind:value={fields[name]}
    error={problems[name]}
    options={all.map(([value, word]) => ({ value, label: word }))}
  />
{/snippet}
<Form
  action={save}
  class="grid gap-3.5"
  submit={({ cancel }) => {
    isTried = true
    if (filled.kind === 'problems') cancel()
    return async ({ update }) => update({ reset: false })
  }}
>
  <Panel aria-label="The rule">
    <p
      class="border-rule-2 bg-sheet sticky top-12 z-10 -mx-3.5 -mt-3 mb-3 border-b px-3.5 py-3 text-[15px] font-[560]"
      data-testid="rule-sentence"
      aria-live="polite"
    >
      {#if sentence !== null}{sentence}{:else}<span class="text-ink-3 font-[450]"
          >Incomplete: {filled.kind === 'problems' ? Object.values(filled.problems)[0] : ''}</span
        >{/if}
    </p>
    {#if message != null}<Notice kind="problem" class="mb-2">{message}</Notice>{/if}
    <fieldset disabled={!mayChange} class="grid gap-3">
      <div class="flex flex-wrap items-start gap-2.5">
        {@render text('name', 'Name', 'w-80')}
      </div>
      <div class="border-rule-2 flex flex-wrap items-start gap-2.5 border-t pt-3">
        {@render choice('kind', 'Rule kind', Object.entries(RULE_KINDS))}
        {#if hasMeasure}{@render measures('measure', 'Measure')}{/if}
        {#if kind === 'level' || kind === 'band' || kind === 'rate'}
          {@render choice('how', 'Compare', [
            ['', 'by itself'],
            ['difference', 'less another'],
            ['ratio', 'by another'],
          ])}
          {#if fields['how'] === 'difference' || fields['how'] === 'ratio'}
            {@render measures('otherMeasure', 'Other measure')}
          {/if}
        {/if}
      </div>
      <div class="border-rule-2 flex flex-wrap items-start gap-2.5 border-t pt-3">
        {@render choice('gearKind', 'Gear', [
          ['', 'any kind of gear'],
          ...Object.entries(GEAR_KINDS).map(([key, { label }]) => [key, label] as const),
        ])}
        {#if hasMeasure}
          {@render choice('partKind', 'Part', [
            ['', 'any part, or itself'],
            ...Object.entries(PART_KINDS).map(([key, { label }]) => [key, label] as const),
          ])}
          {@render choice('role', 'Sensor', [
            ['', 'any place in it'],
            ...Object.entries(SENSOR_ROLES).map(([key, { label }]) => [key, label] as const),
          ])}
        {/if}
        <ScopeField
          label="Scope"
          kinds={WHERES}
          places={options}
          bind:kind={() => fields['whereKind'] ?? 'everywhere', (kind) => (fields['whereKind'] = kind)}
          bind:value={() => fields['whereValue'] ?? '', (value) => (fields['whereValue'] = value)}
          problem={problems['whereValue'] ?? problems['whereKind']}
        />
      </div>
      <div class="border-rule-2 grid gap-3 border-t pt-3">
        <RuleLines {kind} {measure} {keys} bind:fields {problems} />
      </div>
      <div class="border-rule-2 flex flex-wrap items-start gap-2.5 border-t pt-3">
        {@render text('why', 'Reason for this line', 'w-[34rem]')}
      </div>
      {#if mayChange}
        <div class="flex items-center gap-3">
          <Button look="strong">Save rule</Button>
          {#if narrowed !== null}<p data-testid="narrowed">{narrowed}</p>{/if}
        </div>
      {/if}
    </fieldset>
  </Panel>
</Form>
{#if kind === 'text'}
  <PatternTrial {fields} {timeZone} />
{:else if kind === 'ahead' && mayChange}
  <AheadRehearsal {fields} {insteadOf} {timeZone} />
{:else if mayChange}
  <RuleRehearsal
    rule={filled.kind === 'rule' ? filled.rule : null}
    {fields}
    {insteadOf}
    {timeZone}
    {setLine}
  />
{/if}
