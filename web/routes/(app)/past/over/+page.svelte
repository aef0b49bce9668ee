<script lang="ts">
  import { page } from '$app/state'
  import { measureOf, SENSOR_ROLES } from '#core/catalogue'
  import { OVER_BY, READY, sayShown, showsOf } from '#core/past'
  import { formatElapsed, formatNumber, spanWords, writeAmount, writeSpan } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { ask } from '$lib/client/picked'
  import Course from '$lib/components/past/Course.svelte'
  import PastTabs from '$lib/components/past/PastTabs.svelte'
  import MeasureSelect from '$lib/components/readings/MeasureSelect.svelte'
  import ScopeField from '$lib/components/rules/ScopeField.svelte'
  import DataTable from '$lib/components/ui/DataTable.svelte'
  import type { Column } from '$lib/components/ui/dataTable'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Notice from '$lib/components/ui/Notice.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Segments from '$lib/components/ui/Segments.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  type Row = (typeof data.rows)[number]
  let sort = $state('')
  const WHERES = [
    ['everywhere', 'everywhere'],
    ['room', 'in the room'],
    ['rack', 'in the rack'],
    ['cluster', 'of the cluster'],
    ['tag', 'with the tag'],
    ['group', 'of the group'],
    ['gear', 'of this gear'],
  ] as const
  const question = $derived(data.question)
  const shows = $derived(showsOf(question.measure, null))
  const unit = $derived(measureOf(question.measure).unit)
  const isReady = (ready: (typeof READY)[number]): boolean =>
    ready.measure === question.measure &&
    ready.role === question.role &&
    ready.direction === question.direction &&
    ready.by === question.by &&
    ready.at === question.at
  const READIES = $derived(
    READY.map((ready) => {
      const stays = ['w', 'from', 'to', 'whereKind', 'whereValue'].flatMap((name): [string, string][] => {
        const value = page.url.searchParams.get(name)
        return value === null ? [] : [[name, value]]
      })
      const asked = new URLSearchParams([
        ...stays,
        ['m', ready.measure],
        ...(ready.role === null ? [] : [['role', ready.role]]),
        ['at', writeAmount(ready.at, measureOf(ready.measure).unit)],
        ['dir', ready.direction],
        ['by', ready.by],
      ])
      return { label: ready.name, href: `/past/over?${asked}`, isCurrent: isReady(ready) }
    }),
  )
  const ends = $derived.by(() => {
    let [low, high] = [question.at, question.at]
    for (const { tiny } of data.rows)
      for (const value of tiny)
        if (value !== null) {
          low = Math.min(low, value)
          high = Math.max(high, value)
        }
    return { low, high }
  })
  const amount = (key: 'min' | 'mean' | 'max' | 'p95' | 'p99', label: string): Column<Row> => ({
    key,
    label,
    width: 'w-18',
    isNumber: true,
    value: (row) => row[key],
    text: (row) => (row[key] === null ? '' : sayShown(shows, row[key])),
  })
  const COLUMNS: readonly Column<Row>[] = $derived([
    {
      key: 'gear',
      label: 'Gear',
      width: 'w-32 grow',
      value: ({ gear }) => gear,
      // As they come, several parts of one gear stand together under its name.
      text: ({ gear, isFurther }) => (isFurther && sort === '' ? '' : gear),
    },
    { key: 'part', label: 'Part', width: 'w-28', value: ({ part }) => part },
    { key: 'tiny', label: 'Course', width: 'w-34', value: () => null },
    amount('min', 'Least'),
    amount('mean', 'Mean'),
    amount('p95', data.exact ? '95 %' : '95 % ≈'),
    amount('p99', data.exact ? '99 %' : '99 % ≈'),
    amount('max', 'Most'),
    {
      key: 'beyond',
      label: 'Of the time',
      width: 'w-20',
      isNumber: true,
      value: ({ beyond }) => (beyond === null ? null : Math.round(beyond * 1000) / 10),
      text: ({ beyond }) => (beyond === null ? '' : `${formatNumber(beyond * 100, 1)} %`),
    },
    {
      key: 'longest',
      label: 'Longest',
      width: 'w-20',
      isNumber: true,
      value: ({ longestMs }) => longestMs,
      text: ({ longestMs }) => (longestMs === null || longestMs === 0 ? '' : formatElapsed(longestMs)),
    },
  ])
  const curves = $derived(
    `/past?s=${data.rows
      .slice(0, 200)
      .map(({ seriesId }) => seriesId)
      .join(',')}&from=${Math.round(data.window.fromMs)}&to=${Math.round(data.window.toMs)}`,
  )
  const where = $derived(
    new URLSearchParams({
      whereKind: page.url.searchParams.get('whereKind') ?? 'everywhere',
      whereValue: page.url.searchParams.get('whereValue') ?? '',
    }),
  )
  const rule = $derived(
    `/alerts/rules/new?${where}&${new URLSearchParams({
      measure: question.measure,
      role: question.role ?? '',
      direction: question.direction,
      warning: writeAmount(question.at, unit),
    })}`,
  )
</script>

<svelte:head><title>Over the line · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{data.sentence}</h1>
<PastTabs />
<div class="mb-3"><Segments label="Often asked" items={READIES} /></div>
{#each data.problems as problem (problem)}<Notice kind="problem" class="mb-2">{problem}</Notice>{/each}
<Panel aria-label="What is asked" class="mb-4">
  <div class="flex flex-wrap items-start gap-2.5">
    <div class="w-64">
      <MeasureSelect
        label="Measure"
        hasUnits={false}
        bind:value={() => question.measure, (m) => m !== question.measure && ask({ m, at: '', role: '' })}
      />
    </div>
    <Select
      label="Sensor"
      value={question.role ?? ''}
      options={[
        { value: '', label: 'any place' },
        ...Object.entries(SENSOR_ROLES).map(([value, { label }]) => ({ value, label })),
      ]}
      onchange={(role) => ask({ role })}
    />
    <Select
      label="Direction"
      value={question.direction}
      options={[
        { value: 'above', label: 'above' },
        { value: 'below', label: 'below' },
      ]}
      onchange={(dir) => ask({ dir })}
    />
    <Input
      label="Line"
      class="w-28"
      value={writeAmount(question.at, unit)}
      onchange={(event) => ask({ at: event.currentTarget.value })}
    />
    <Select
      label="Told by"
      value={question.by}
      options={Object.entries(OVER_BY).map(([value, label]) => ({ value, label }))}
      onchange={(by) => ask({ by })}
    />
    {#if question.by === 'share'}
      <Input
        label="At least"
        class="w-24"
        value={writeAmount(question.share, 'ratio')}
        onchange={(event) => ask({ share: event.currentTarget.value })}
      />
    {:else if question.by === 'longest'}
      <Input
        label="At least"
        class="w-24"
        value={writeSpan(question.stretchMs)}
        onchange={(event) => ask({ stretch: event.currentTarget.value })}
      />
    {/if}
    <ScopeField
      label="Where"
      kinds={WHERES}
      places={data.places}
      bind:kind={
        () => page.url.searchParams.get('whereKind') ?? 'everywhere',
        (whereKind) => ask({ whereKind, whereValue: '' })
      }
      bind:value={() => page.url.searchParams.get('whereValue') ?? '', (whereValue) => ask({ whereValue })}
    />
  </div>
</Panel>
<Panel aria-label="What was found">
  <DataTable
    name="Over the line"
    rows={data.rows}
    columns={COLUMNS}
    idOf={(row) => row.seriesId}
    hrefOf={(row) =>
      `/past?s=${row.seriesId}&from=${Math.round(data.window.fromMs)}&to=${Math.round(data.window.toMs)}`}
    bind:sort
    says={`${data.rows.length} of ${data.of} in ${spanWords(data.window, live.nowMs, timeZone)}; ${data.exact ? 'percentiles of every reading' : 'percentiles to within 2 %, from sketches of days'}`}
    empty="Nothing was beyond this line."
    cells={{ tiny }}
    rowTestid="over-row"
  >
    {#snippet tools()}
      {#if data.rows.length > 0}
        <Link href={curves}>See the curves</Link>
        {#if data.mayAdminister}· <Link href={rule}>Make a rule of it</Link>{/if}
        {#if data.mayOperate}· <Link href="/alerts/quiet?{where}">Quiet what is here</Link>{/if}
      {/if}
    {/snippet}
  </DataTable>
</Panel>

{#snippet tiny(row: Row)}
  <Course values={row.tiny} {...ends} line={question.at} label="How {row.name} went" />
{/snippet}
