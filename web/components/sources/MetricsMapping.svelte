<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Panel from '../ui/Panel.svelte'
  import Button from '../ui/Button.svelte'
  import Checkbox from '../ui/Checkbox.svelte'
  import Input from '../ui/Input.svelte'
  import { untrack } from 'svelte'
  import { formatReading } from '#core/catalogue'
  import {
    byMetric,
    labelsApart,
    type MappingLine,
    mapSeries,
    suggestLines,
    type ToldSeries,
  } from '#core/sources'
  import { formatNumber } from '#core/units'
  import KindSelect from '../gear/KindSelect.svelte'
  import MeasureSelect from '../readings/MeasureSelect.svelte'

  /** What each metric of a far side means here: edited line by line, with what comes of it beside each. */
  let {
    checkId,
    address,
    series,
    kept,
    nowMs,
  }: {
    checkId: string
    address: string
    series: readonly ToldSeries[]
    kept: readonly MappingLine[]
    nowMs: number
  } = $props()

  interface Draft extends Omit<MappingLine, 'where'> {
    where: string
  }
  const draftOf = (line: MappingLine): Draft => ({
    ...line,
    where: Object.entries(line.where)
      .map(([label, value]) => `${label}=${value}`)
      .join(', '),
  })
  const lineOf = (draft: Draft): MappingLine => ({
    ...draft,
    scale: Number(draft.scale) || 1,
    where: Object.fromEntries(
      draft.where
        .split(',')
        .map((word) => word.trim())
        .filter((word) => word.includes('='))
        .map((word) => [word.slice(0, word.indexOf('=')).trim(), word.slice(word.indexOf('=') + 1).trim()]),
    ),
  })

  let drafts = $state<Draft[]>(untrack(() => kept.map(draftOf)))
  const lines = $derived(drafts.map(lineOf))
  const mapped = $derived(mapSeries(series, lines, nowMs))
  const values = $derived(mapped.findings.readings.length + (mapped.findings.counters?.length ?? 0))
  const suggested = $derived(suggestLines(series, host()))

  const unread = $derived(byMetric(series.filter((_, index) => mapped.lines[index] === null)))
  const metrics = $derived(
    [...byMetric(series)].map(([name, own]) => ({ name, own, open: unread.get(name)?.length ?? 0 })),
  )
  let filter = $state('')
  const words = $derived(filter.trim().toLowerCase())
  const open = $derived(
    metrics.filter(
      ({ name, own, open }) => open > 0 && `${name} ${own[0]!.help}`.toLowerCase().includes(words),
    ),
  )
  const SHOWN = 60

  function host(): string {
    try {
      return new URL(address).hostname
    } catch {
      return address
    }
  }
  function add(own: readonly ToldSeries[]): void {
    const first = own[0]!
    const [likely] = suggestLines(own, host())
    drafts.push(
      draftOf(
        likely ?? {
          metric: first.name,
          where: {},
          gear: drafts.at(-1)?.gear ?? host(),
          kind: drafts.at(-1)?.kind ?? 'host',
          part: labelsApart(own)
            .map((label) => `{${label}}`)
            .join(' '),
          partKind: 'sensor',
          measure: 'hw.temperature',
          scale: 1,
          isCount: first.type === 'counter',
        },
      ),
    )
  }
  const taken = (index: number): number => mapped.lines.filter((line) => line === index).length
  /** What the first series of a line comes to. */
  function example(index: number): string {
    const at = mapped.lines.indexOf(index)
    const line = lines[index]!
    if (at === -1)
      return series.some((each) => each.name === line.metric) ? 'nothing left for it' : 'not told of now'
    const told = series[at]!
    if (told.value === null) return 'no number now'
    if (line.isCount) return `${formatNumber(told.value, 0)} so far; its growth a second is read`
    return formatReading(line.measure, told.value * line.scale)
  }
  const exampleOf = (own: readonly ToldSeries[]): string => {
    const value = own.find((each) => each.value !== null)?.value ?? null
    return value === null ? 'no number now' : formatNumber(value, 2)
  }
  const labelsOf = (own: readonly ToldSeries[]): string =>
    [...new Set(own.flatMap((each) => Object.keys(each.labels)))].join(', ')
</script>

<Panel
  title="Metric mapping"
  note={`${series.length} series of ${metrics.length} metrics; ${values} readings by ${drafts.length} ${drafts.length === 1 ? 'line' : 'lines'}`}
  id="mapping"
  data-testid="mapping"
>
  {#each mapped.problems as problem (problem)}<p class="text-crit mb-1">{problem}</p>{/each}
  {#each drafts as draft, index (index)}
    <fieldset class="border-rule-2 grid gap-1 border-t py-2" data-testid="mapping-line">
      <legend class="sr-only">Line {index + 1}</legend>
      <div class="flex items-baseline justify-between gap-2">
        <code class="font-mono text-[11px] break-all">{draft.metric}</code>
        <span class="text-ink-2 text-xs whitespace-nowrap" data-testid="example">
          {taken(index)} series · {example(index)}
          <Button look="link" class="ml-1" type="button" onclick={() => drafts.splice(index, 1)}
            >Remove</Button
          >
        </span>
      </div>
      <div class="grid grid-cols-[1fr_104px_1fr_112px] gap-1.5">
        <Input label="Gear" bind:value={draft.gear} />
        <KindSelect of="gear" label="Kind of gear" bind:value={draft.kind} />
        <Input label="Part" placeholder="the gear itself" bind:value={draft.part} />
        <KindSelect of="part" label="Kind of part" bind:value={draft.partKind} />
      </div>
      <div class="grid grid-cols-[1fr_84px_1fr_auto] items-end gap-1.5">
        <MeasureSelect label="Measure" bind:value={draft.measure} />
        <Input label="Times" type="number" step="any" bind:value={draft.scale} />
        <Input label="Labels" placeholder="any" bind:value={draft.where} />
        <Checkbox label="Counter" bind:checked={draft.isCount} />
      </div>
    </fieldset>
  {/each}
  <div class="border-rule-2 flex flex-wrap items-center gap-2 border-t pt-2">
    <Form action="?/map">
      <input type="hidden" name="check" value={checkId} />
      <input type="hidden" name="map" value={JSON.stringify(lines)} />
      <Button look="strong" disabled={values === 0}>Use these lines</Button>
    </Form>
    {#if drafts.length === 0 && suggested.length > 0}
      <Button type="button" onclick={() => (drafts = suggested.map(draftOf))}
        >Add {suggested.length} suggested {suggested.length === 1 ? 'line' : 'lines'}</Button
      >
    {/if}
    <p class="text-ink-2 text-xs">Gear and part may hold a label in braces, as {'{host}'}.</p>
  </div>
  <h3 class="mt-3 mb-1 flex items-baseline gap-2 font-[640]">
    Not read <Input class="w-56 font-normal" placeholder="Search by name or help" bind:value={filter} />
  </h3>
  {#each open.slice(0, SHOWN) as { name, own } (name)}
    <div
      class="border-rule-2 grid grid-cols-[minmax(0,1fr)_auto_auto] items-baseline gap-2 border-t py-0.5"
      data-testid="told-metric"
    >
      <span class="min-w-0">
        <code class="font-mono text-[11px] break-all">{name}</code>
        <span class="text-ink-2 text-xs">{[own[0]!.help, labelsOf(own)].filter(Boolean).join(' · ')}</span>
      </span>
      <span class="text-ink-2 text-xs whitespace-nowrap">{own.length} × e.g. {exampleOf(own)}</span>
      <Button look="link" type="button" onclick={() => add(own)}>Add line</Button>
    </div>
  {:else}
    <p class="text-ink-2 text-xs">
      {words === '' ? 'Everything that it tells of is read.' : 'Nothing of that name.'}
    </p>
  {/each}
  {#if open.length > SHOWN}<p class="text-ink-2 text-xs">
      {open.length - SHOWN} more; give a word to find them.
    </p>{/if}
</Panel>
