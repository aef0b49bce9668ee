<script lang="ts">
  import { untrack } from 'svelte'
  import {
    GEAR_KINDS,
    isMeasureKey,
    MEASURE_GROUPS,
    MEASURES,
    type MeasureKey,
    measureOf,
    PART_KINDS,
    SENSOR_ROLES,
  } from '#core/catalogue'
  import { kindWords, RULE_KINDS, ruleFromFields, ruleWords, type RuleKind, type Severity } from '#core/rules'
  import { UNITS, writeAmount } from '#core/units'
  import { enhance } from '$lib/client/forms'
  import type { RuleOptions } from '$lib/server/rules/rules'
  import PatternTrial from '../logs/PatternTrial.svelte'
  import RuleRehearsal from './RuleRehearsal.svelte'
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
  const states = $derived(Object.entries(measureOf(measure).states ?? {}))
  const unit = $derived(UNITS[measureOf(measure).unit].symbol)
  const hasLines = $derived(kind === 'level' || kind === 'rate')
  const hasPersistence = $derived(['level', 'band', 'rate', 'state', 'pair', 'count'].includes(kind))
  const hasSeverity = $derived(['change', 'pair', 'text', 'noData', 'silent'].includes(kind))
  const hasMeasure = $derived(kind !== 'text' && kind !== 'noData')
  const keys = $derived(
    (Object.keys(MEASURES) as MeasureKey[]).filter((key) => {
      const isState = measureOf(key).kind === 'state'
      if (kind === 'state') return isState
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
  <label class="muted grid gap-0.5"
    >{label}
    <select class="field w-64" {name} bind:value={fields[name]}>
      {#each MEASURE_GROUPS as group (group)}
        {@const own = keys.filter((key) => measureOf(key).group === group)}
        {#if own.length > 0}
          <optgroup label={group}>
            {#each own as key (key)}<option value={key}>{measureOf(key).label}</option>{/each}
          </optgroup>
        {/if}
      {/each}
    </select>
    {@render problem(name)}
  </label>
{/snippet}
{#snippet text(name: string, label: string, width = 'w-28', placeholder = '')}
  <label class="muted grid gap-0.5"
    >{label}
    <input
      class="field {width}"
      {name}
      {placeholder}
      bind:value={fields[name]}
      aria-invalid={problems[name] !== undefined}
    />
    {@render problem(name)}
  </label>
{/snippet}
{#snippet choice(name: string, label: string, all: readonly (readonly [string, string])[])}
  <label class="muted grid gap-0.5"
    >{label}
    <select class="field" {name} bind:value={fields[name]}>
      {#each all as [value, word] (value)}<option {value}>{word}</option>{/each}
    </select>
    {@render problem(name)}
  </label>
{/snippet}
{#snippet problem(name: string)}
  {#if problems[name] !== undefined}<span class="text-crit max-w-64">{problems[name]}</span>{/if}
{/snippet}
{#snippet severity()}
  {@render choice('severity', 'it is', [
    ['warning', 'a warning'],
    ['critical', 'critical'],
  ])}
{/snippet}

<form
  method="POST"
  action={save}
  class="grid gap-3.5"
  use:enhance={({ cancel }) => {
    isTried = true
    if (filled.kind === 'problems') cancel()
    return async ({ update }) => update({ reset: false })
  }}
>
  <section class="panel" aria-label="The rule">
    <p class="mb-3 text-[15px] font-[560]" data-testid="rule-sentence">
      {#if sentence !== null}{sentence}{:else}<span class="text-ink-3 font-[450]"
          >Not a rule yet: {filled.kind === 'problems' ? Object.values(filled.problems)[0] : ''}</span
        >{/if}
    </p>
    {#if message != null}<p class="text-crit mb-2" role="alert">{message}</p>{/if}
    <fieldset disabled={!mayChange} class="grid gap-3">
      <div class="flex flex-wrap items-start gap-2.5">
        {@render choice('kind', 'It looks at', Object.entries(RULE_KINDS))}
        {#if hasMeasure}{@render measures('measure', 'of')}{/if}
        {#if kind === 'level' || kind === 'band' || kind === 'rate'}
          {@render choice('how', 'compared', [
            ['', 'by itself'],
            ['difference', 'less another'],
            ['ratio', 'by another'],
          ])}
          {#if fields['how'] === 'difference' || fields['how'] === 'ratio'}
            {@render measures('otherMeasure', 'the other')}
          {/if}
        {/if}
      </div>
      <div class="flex flex-wrap items-start gap-2.5">
        {#if kind === 'level'}
          {@render choice('direction', 'when it is', [
            ['above', 'above'],
            ['below', 'below'],
          ])}
        {/if}
        {#if kind === 'rate'}
          {@render choice('rateDirection', 'when it is', [
            ['rising', 'rising'],
            ['falling', 'falling'],
          ])}
          {@render text('within', 'within', 'w-24', '10 min')}
        {/if}
        {#if hasLines}
          {@render text('warning', 'warn at', 'w-28', unit)}
          {@render text('warningBack', 'back at', 'w-28', 'the same')}
          {@render text('critical', 'critical at', 'w-28', unit)}
          {@render text('criticalBack', 'back at', 'w-28', 'the same')}
        {:else if kind === 'band'}
          {@render text('warningLow', 'warn below', 'w-28', unit)}
          {@render text('warningHigh', 'or above', 'w-28', unit)}
          {@render text('criticalLow', 'critical below', 'w-28', unit)}
          {@render text('criticalHigh', 'or above', 'w-28', unit)}
          {@render text('margin', 'back inside by', 'w-28')}
        {:else if kind === 'state' || (kind === 'count' && states.length > 0)}
          {#each states as [value, word] (value)}
            {@render choice(`state.${value}`, word, [
              ['', 'is well'],
              ['warning', kind === 'count' ? 'counts' : 'a warning'],
              ...(kind === 'count' ? [] : ([['critical', 'critical']] as const)),
            ])}
          {/each}
          {@render problem('states')}
          {#if kind === 'state'}
            {@render choice('after', 'only after', [['', 'anything'], ...states])}
          {/if}
        {:else if kind === 'change'}
          {@render text('hold', 'shown for', 'w-24', '1 h')}
        {:else if kind === 'pair'}
          {@render choice('firstDirection', 'is', [
            ['above', 'above'],
            ['below', 'below'],
          ])}
          {@render text('firstAt', 'the line of', 'w-28', unit)}
          {@render measures('secondMeasure', 'while')}
          {@render choice('secondDirection', 'is', [
            ['below', 'below'],
            ['above', 'above'],
          ])}
          {@render text('secondAt', 'the line of', 'w-28')}
        {:else if kind === 'silent'}
          {@render text('afterSpan', 'not heard for', 'w-24', '10 min')}
        {:else if kind === 'text'}
          {@render text('pattern', 'a line with, * for anything between', 'w-64', 'link * down')}
          {@render choice('atMost', 'as grave as', [
            ['7', 'any'],
            ['4', 'warning'],
            ['3', 'error'],
            ['2', 'critical'],
            ['1', 'alert'],
          ])}
          {@render text('count', 'so many of them', 'w-20')}
          {@render text('window', 'within', 'w-24', '15 min')}
        {:else if kind === 'noData'}
          {@render text('intervals', 'for intervals', 'w-20')}
        {/if}
        {#if kind === 'count'}
          {#if states.length === 0}
            {@render choice('direction', 'that are', [
              ['above', 'above'],
              ['below', 'below'],
            ])}
            {@render text('memberAt', 'the line of', 'w-28', unit)}
          {/if}
          {@render text('leastWarning', 'warn at so many', 'w-24')}
          {@render text('leastCritical', 'critical at', 'w-24')}
        {/if}
        {#if hasSeverity}{@render severity()}{/if}
      </div>
      {#if hasPersistence}
        <div class="flex flex-wrap items-start gap-2.5">
          {@render choice('persistence', 'and it is so', [
            ['count', 'in some of the last readings'],
            ['duration', 'for a time'],
          ])}
          {#if fields['persistence'] === 'duration'}
            {@render text('duration', 'without a break for', 'w-28', '12 min')}
            {@render text('bridge', 'bridging gaps of', 'w-28', '5 min')}
          {:else}
            {@render text('k', 'in so many', 'w-20')}
            {@render text('n', 'of the last readings', 'w-20')}
          {/if}
        </div>
      {/if}
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
      <div class="border-rule-2 flex flex-wrap items-start gap-2.5 border-t pt-3">
        {@render text('name', 'Name', 'w-80')}
        {@render text('why', 'Why the line sits where it sits', 'w-[34rem]')}
      </div>
      {#if mayChange}
        <div class="flex items-center gap-3">
          <button class="btn btn-strong">Save rule</button>
          {#if narrowed !== null}<p data-testid="narrowed">{narrowed}</p>{/if}
        </div>
      {/if}
    </fieldset>
  </section>
</form>
{#if kind === 'text'}
  <PatternTrial {fields} {timeZone} />
{:else if mayChange}
  <RuleRehearsal
    rule={filled.kind === 'rule' ? filled.rule : null}
    {fields}
    {insteadOf}
    {timeZone}
    {setLine}
  />
{/if}
