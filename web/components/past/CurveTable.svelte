<script lang="ts">
  import { sayShown, type CurveStatistics } from '#core/past'
  import { formatNumber } from '#core/units'
  import type { PastCurve } from '$lib/server/past/past'
  import { colourOf } from '../readings/timeChartOption'
  import DataTable from '../ui/DataTable.svelte'
  import { type Column, sortRows } from '../ui/dataTable'

  /** The legend of curves as a table: every statistic of each, sorted at a click. */
  let {
    curves,
    sort = $bindable(''),
    point,
    exact,
    line,
  }: {
    curves: readonly PastCurve[]
    sort?: string
    /** The curve that is pointed at, by its key. */
    point: (key: string | null) => void
    /** Whether percentiles are of every reading. */
    exact: boolean
    /** The line beyond which time is counted, in words; `null` where there is none. */
    line: string | null
  } = $props()
  const statistic = (key: keyof CurveStatistics, label: string, width = 'w-20'): Column<PastCurve> => ({
    key,
    label,
    width,
    isNumber: true,
    value: ({ statistics }) => statistics[key],
    text: ({ statistics, shows }) => (statistics[key] === null ? '' : sayShown(shows, statistics[key])),
  })
  const COLUMNS: readonly Column<PastCurve>[] = $derived([
    { key: 'name', label: 'Curve', width: 'w-44 grow', value: ({ name }) => name },
    statistic('last', 'Last'),
    statistic('min', 'Least'),
    statistic('mean', 'Mean'),
    statistic('max', 'Most'),
    statistic('p95', exact ? '95 %' : '95 % ≈'),
    statistic('p99', exact ? '99 %' : '99 % ≈'),
    ...(line === null
      ? []
      : [
          {
            key: 'beyond',
            label: 'Beyond the line',
            width: 'w-28',
            isNumber: true,
            value: ({ statistics }) =>
              statistics.beyond === null ? null : Math.round(statistics.beyond * 1000) / 10,
            text: ({ statistics }) =>
              statistics.beyond === null ? '' : `${formatNumber(statistics.beyond * 100, 1)} % of the time`,
          } satisfies Column<PastCurve>,
        ]),
  ])
  /** Curves in the order that the table shows. */
  export const sorted = (all: readonly PastCurve[]): readonly PastCurve[] => sortRows(all, COLUMNS, sort)
</script>

<DataTable
  name="Curves"
  rows={curves}
  columns={COLUMNS}
  idOf={(row) => curves.indexOf(row)}
  bind:sort
  says={`${curves.length} ${curves.length === 1 ? 'curve' : 'curves'}; ${exact ? 'percentiles of every reading' : 'percentiles to within 2 %, from sketches of days'}${line === null ? '' : `; the line is ${line}`}`}
  empty="No curve is picked."
  height="max-h-[40vh]"
  rowPx={27}
  rowTestid="curve-row"
  onpoint={(row) => point(row?.key ?? null)}
  cells={{ name: named }}
/>

{#snippet named(row: PastCurve)}
  {#if row.colour !== null}
    <svg width="14" height="8" class="mr-1 inline" aria-hidden="true"
      ><path
        d="M0 4h14"
        stroke={colourOf(row.colour)}
        stroke-width="3"
        stroke-dasharray={row.colour >= 6 ? '4 2' : undefined}
      /></svg
    >{/if}{#if row.gearId === null}{row.name}{:else}<a class="hover:underline" href="/gear/{row.gearId}"
      >{row.name}</a
    >{/if}
{/snippet}
