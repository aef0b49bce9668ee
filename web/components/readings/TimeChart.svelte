<script lang="ts">
  import Link from '../ui/Link.svelte'
  import Table from '../ui/Table.svelte'
  import { listNames } from '#core/rules'
  import type { ChartView } from '$lib/server/readings/charts'
  import Chart from './Chart.svelte'
  import { colourOf, timeChartOption } from './timeChartOption'

  let {
    chart,
    window,
    timeZone,
    zoom,
  }: {
    chart: ChartView
    window: { readonly fromMs: number; readonly toMs: number }
    timeZone: string
    /** A stretch of the time axis that was dragged over. */
    zoom: (fromMs: number, toMs: number) => void
  } = $props()

  const spoken = $derived(
    `${chart.title}: ${chart.curves.map((curve) => `${curve.label} ${curve.summary === null ? 'without readings' : `last ${curve.summary.last}, from ${curve.summary.min} to ${curve.summary.max}`}`).join('; ')}`,
  )

  /** Each rule once, with the curves it is in force on. */
  const inForce = $derived(
    [...new Set(chart.rules.map(({ id }) => id))].map((id) => {
      const own = chart.rules.filter((rule) => rule.id === id)
      return { key: id, labels: own.map(({ label }) => label), rule: own[0]! }
    }),
  )
</script>

<section
  class="border-rule-2 grid grid-cols-1 gap-3 border-t py-2 first:border-t-0 lg:grid-cols-[minmax(0,1fr)_320px]"
  data-testid="chart"
>
  <div>
    <h3 class="text-[11px] font-[640]">
      {chart.title}
      {#if chart.madeOf === 'hours'}<span class="text-ink-3 font-normal">· min and max of whole hours</span
        >{/if}
    </h3>
    <Chart option={() => timeChartOption({ chart, window, timeZone })} {spoken} class="h-36" {zoom} />
    <ul class="text-ink-2 mt-0.5 text-xs" data-testid="in-force">
      {#each inForce as { key, labels, rule } (key)}
        <li>
          {#if chart.curves.length > 1}{listNames(labels, 4)}:{/if}
          {rule.words}
          <span class="text-ink-3"
            >by the {rule.isDefault ? 'shipped' : 'own'} rule
            <Link href="/alerts/rules/{rule.id}">{rule.name}</Link>, for {rule.scope}{rule.overrides
              .length === 0
              ? ''
              : `, in place of ${listNames(rule.overrides)}`}</span
          >
          {#if labels.length === 1}<Link
              class="text-ink-3"
              href="/alerts/rules/new?series={rule.seriesId}&like={rule.id}">set another line</Link
            >{/if}
        </li>
      {:else}
        <li class="text-ink-3">
          No line is in force here.
          {#if chart.curves[0] !== undefined}<Link href="/alerts/rules/new?series={chart.curves[0].seriesId}"
              >Set one</Link
            >{/if}
        </li>
      {/each}
    </ul>
  </div>
  <Table class="self-start text-[11px]">
    <thead>
      <tr class="text-ink-3 text-right">
        <th class="text-left font-medium"><span class="sr-only">Curve</span></th>
        <th class="pl-2 text-right! font-medium">last</th>
        <th class="pl-2 text-right! font-medium">min</th>
        <th class="pl-2 text-right! font-medium">mean</th>
        <th class="pl-2 text-right! font-medium">max</th>
      </tr>
    </thead>
    <tbody>
      {#each chart.curves as curve, index (curve.seriesId)}
        <tr class="text-right">
          <td class="max-w-28 text-left font-semibold break-words">
            <svg width="10" height="10" class="mr-1 inline" aria-hidden="true"
              ><path d="M0 5h10" stroke={colourOf(index)} stroke-width="3" /></svg
            >{curve.label}
          </td>
          {#if curve.summary === null}
            <td colspan="4" class="text-ink-3">no readings here</td>
          {:else}
            <td class="pl-2 font-semibold whitespace-nowrap">{curve.summary.last}</td>
            <td class="pl-2 whitespace-nowrap">{curve.summary.min}</td>
            <td class="pl-2 whitespace-nowrap">{curve.summary.mean}</td>
            <td class="pl-2 whitespace-nowrap">{curve.summary.max}</td>
          {/if}
        </tr>
      {/each}
    </tbody>
  </Table>
</section>
