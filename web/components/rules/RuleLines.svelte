<script lang="ts">
  import { MEASURE_GROUPS, type MeasureKey, measureOf } from '#core/catalogue'
  import type { RuleKind } from '#core/rules'
  import { symbolOf } from '#core/units'
  import Combobox from '../ui/Combobox.svelte'
  import Input from '../ui/Input.svelte'
  import Notice from '../ui/Notice.svelte'
  import Select from '../ui/Select.svelte'

  /** Where a rule has its lines, and for how long they must be crossed. */
  let {
    kind,
    measure,
    keys,
    fields = $bindable(),
    problems,
  }: {
    kind: RuleKind
    measure: MeasureKey
    /** Measures that such a rule can have. */
    keys: readonly MeasureKey[]
    /** As they are typed; written to. */
    fields: Record<string, string>
    problems: Readonly<Record<string, string>>
  } = $props()
  const states = $derived(Object.entries(measureOf(measure).states ?? {}))
  const unit = $derived(symbolOf(measureOf(measure).unit))
  const hasLines = $derived(kind === 'level' || kind === 'rate')
  const hasPersistence = $derived(['level', 'band', 'rate', 'state', 'pair', 'count'].includes(kind))
  const hasSeverity = $derived(['change', 'pair', 'text', 'noData', 'silent'].includes(kind))
</script>

{#snippet measures(name: string, label: string)}
  <Combobox
    {label}
    class="w-64"
    {name}
    bind:value={() => fields[name] ?? '', (value) => (fields[name] = value)}
    error={problems[name]}
    options={MEASURE_GROUPS.flatMap((group) =>
      keys
        .filter((key) => measureOf(key).group === group)
        .map((key) => ({ value: key, label: measureOf(key).label, group })),
    )}
  />
{/snippet}
{#snippet text(name: string, label: string, width = 'w-28', placeholder = '')}
  <Input
    {label}
    class={width}
    {name}
    {placeholder}
    bind:value={() => fields[name] ?? '', (value) => (fields[name] = value)}
    error={problems[name]}
  />
{/snippet}
{#snippet choice(name: string, label: string, all: readonly (readonly [string, string])[])}
  <Select
    {label}
    {name}
    bind:value={() => fields[name] ?? '', (value) => (fields[name] = value)}
    error={problems[name]}
    options={all.map(([value, word]) => ({ value, label: word }))}
  />
{/snippet}
{#snippet severity()}
  {@render choice('severity', 'Severity', [
    ['warning', 'warning'],
    ['critical', 'critical'],
  ])}
{/snippet}

<div class="flex flex-wrap items-start gap-2.5">
  {#if kind === 'level'}
    {@render choice('direction', 'Direction', [
      ['above', 'above'],
      ['below', 'below'],
    ])}
  {/if}
  {#if kind === 'rate'}
    {@render choice('rateDirection', 'Direction', [
      ['rising', 'rising'],
      ['falling', 'falling'],
    ])}
    {@render text('within', 'Within', 'w-24', '10 min')}
  {/if}
  {#if hasLines}
    {@render text('warning', 'Warning line', 'w-28', unit)}
    {@render text('warningBack', 'Clears at', 'w-28', 'the same')}
    {@render text('critical', 'Critical line', 'w-28', unit)}
    {@render text('criticalBack', 'Clears at', 'w-28', 'the same')}
  {:else if kind === 'band'}
    {@render text('warningLow', 'Warning below', 'w-28', unit)}
    {@render text('warningHigh', 'Warning above', 'w-28', unit)}
    {@render text('criticalLow', 'Critical below', 'w-28', unit)}
    {@render text('criticalHigh', 'Critical above', 'w-28', unit)}
    {@render text('margin', 'Clears inside by', 'w-28')}
  {:else if kind === 'state' || (kind === 'count' && states.length > 0)}
    {#each states as [value, word] (value)}
      {@render choice(`state.${value}`, word, [
        ['', 'well'],
        ['warning', kind === 'count' ? 'counts' : 'warning'],
        ...(kind === 'count' ? [] : ([['critical', 'critical']] as const)),
      ])}
    {/each}
    {#if problems['states'] !== undefined}<Notice kind="problem" class="text-xs">{problems['states']}</Notice
      >{/if}
    {#if kind === 'state'}
      {@render choice('after', 'Previous state', [['', 'any'], ...states])}
    {/if}
  {:else if kind === 'change'}
    {@render text('hold', 'Shown for', 'w-24', '1 h')}
  {:else if kind === 'pair'}
    {@render choice('firstDirection', 'First is', [
      ['above', 'above'],
      ['below', 'below'],
    ])}
    {@render text('firstAt', 'First line', 'w-28', unit)}
    {@render measures('secondMeasure', 'Second measure')}
    {@render choice('secondDirection', 'Second is', [
      ['below', 'below'],
      ['above', 'above'],
    ])}
    {@render text('secondAt', 'Second line', 'w-28')}
  {:else if kind === 'ahead'}
    {@render text('warningDays', 'Warning below (days)', 'w-36', '30')}
    {@render text('criticalDays', 'Critical below (days)', 'w-36', '7')}
  {:else if kind === 'silent'}
    {@render text('afterSpan', 'Not heard for', 'w-24', '10 min')}
  {:else if kind === 'text'}
    {@render text('pattern', 'Text (* stands for anything)', 'w-64', 'link * down')}
    {@render choice('atMost', 'Severity at least', [
      ['7', 'any'],
      ['4', 'warning'],
      ['3', 'error'],
      ['2', 'critical'],
      ['1', 'alert'],
    ])}
    {@render text('count', 'Count', 'w-20')}
    {@render text('window', 'Within', 'w-24', '15 min')}
  {:else if kind === 'noData'}
    {@render text('intervals', 'Missed intervals', 'w-20')}
  {/if}
  {#if kind === 'count'}
    {#if states.length === 0}
      {@render choice('direction', 'Members', [
        ['above', 'above'],
        ['below', 'below'],
      ])}
      {@render text('memberAt', 'Member line', 'w-28', unit)}
    {/if}
    {@render text('leastWarning', 'Warning from (members)', 'w-24')}
    {@render text('leastCritical', 'Critical from (members)', 'w-24')}
  {/if}
  {#if hasSeverity}{@render severity()}{/if}
</div>
{#if hasPersistence}
  <div class="flex flex-wrap items-start gap-2.5">
    {@render choice('persistence', 'Persistence', [
      ['count', 'readings out of the last'],
      ['duration', 'without a break'],
    ])}
    {#if fields['persistence'] === 'duration'}
      {@render text('duration', 'For', 'w-28', '12 min')}
      {@render text('bridge', 'Gaps ignored up to', 'w-28', '5 min')}
    {:else}
      {@render text('k', 'Readings', 'w-20')}
      {@render text('n', 'Out of the last', 'w-20')}
    {/if}
  </div>
{/if}
