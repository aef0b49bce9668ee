<script lang="ts">
  import type { TimeWindow } from '#core/readings'
  import { bandOf, sayShown } from '#core/past'
  import type { PastCurve, PastPanel } from '$lib/server/past/past'
  import { pictureOf, type PictureKind, saveAs } from '$lib/client/pictures'
  import Chart from '../readings/Chart.svelte'
  import { type AxisMark, type Drawable, timeChartOption } from '../readings/timeChartOption'
  import Button from '../ui/Button.svelte'
  import HeatMap from './HeatMap.svelte'

  /** What of one unit is drawn: curves, a band with the median, or a heat map. */
  let {
    panel,
    curves,
    marks,
    view,
    window,
    raster,
    timeZone,
    nowMs,
    zoom,
    lit,
    point,
    class: looks,
  }: {
    panel: PastPanel
    /** As they stand in the table. */
    curves: readonly PastCurve[]
    /** When something of the gear has changed, or was said. */
    marks: readonly AxisMark[]
    view: 'curves' | 'band' | 'heat'
    window: TimeWindow
    raster: { readonly fromMs: number; readonly stepMs: number; readonly columns: number }
    timeZone: string
    nowMs: number
    zoom: (fromMs: number, toMs: number) => void
    lit: string | null
    point: (key: string | null) => void
    class: string
  } = $props()
  const NOTHING = new Float32Array()
  const say = (value: number): string => sayShown(panel.shows, value)
  const own = $derived(curves.filter((curve) => curve.panel === panel.key))
  const means = $derived(new Map(panel.heat?.keys.map((key, index) => [key, panel.heat!.means[index]!])))
  const rows = $derived(own.map(({ key, name }) => ({ key, name, means: means.get(key) ?? NOTHING })))
  const ends = $derived.by(() => {
    let [low, high] = [Infinity, -Infinity]
    for (const each of panel.heat?.means ?? [])
      for (const value of each) {
        if (value < low) low = value
        if (value > high) high = value
      }
    return low > high ? { low: 0, high: 1 } : { low: panel.unit === 'ratio' && low >= 0 ? 0 : low, high }
  })
  /** The band, and the two that lie farthest out as curves of their own. */
  const band = $derived.by(() => {
    if (view !== 'band' || panel.heat === null) return null
    const all = panel.heat.means.map((each) => {
      const mean = Float64Array.from(each)
      return { min: mean, max: mean, mean, last: mean }
    })
    const made = bandOf(all, raster)
    const times = Array.from(
      { length: raster.columns },
      (_, column) => raster.fromMs + (column + 0.5) * raster.stepMs,
    )
    const plain = (values: Float64Array) =>
      Array.from(values, (value) => (Number.isNaN(value) ? null : value))
    const ranked = [...own].sort(
      (a, b) => (b.statistics.mean ?? -Infinity) - (a.statistics.mean ?? -Infinity),
    )
    const named = [...new Set([ranked[0], ranked.at(-1)])].flatMap((each) => each ?? [])
    return {
      band: {
        times,
        min: plain(made.min),
        low: plain(made.low),
        median: plain(made.median),
        high: plain(made.high),
        max: plain(made.max),
      },
      curves: named.map(({ key, name }, index) => ({
        label: name,
        colour: index + 1,
        times,
        values: means.get(key) ?? [],
      })),
    }
  })
  const drawable = $derived<Drawable>({
    unit: panel.unit,
    measure: panel.shows.measure,
    curves: band?.curves ?? panel.curves,
    ...(band === null ? {} : { band: band.band }),
    lines:
      panel.line === null
        ? []
        : [
            {
              value: panel.line.at,
              severity: panel.line.severity,
              text: `${panel.line.direction} ${say(panel.line.at)}`,
            },
          ],
    spans: panel.spans,
    marks,
    gaps: [],
    ...(panel.shows.suffix === '' && !panel.shows.isPlain && !panel.shows.isDifference ? {} : { say }),
  })
  const spoken = $derived(
    `${panel.title}: ${own
      .slice(0, 12)
      .map(({ name, statistics: { last, min, max } }) =>
        last === null
          ? `${name} without readings`
          : `${name} last ${say(last)}, from ${say(min ?? last)} to ${say(max ?? last)}`,
      )
      .join('; ')}${own.length > 12 ? `; and ${own.length - 12} more in the table` : ''}`,
  )
  let problem = $state<string | null>(null)
  /** The drawing as a file; of a heat map the canvas itself. */
  async function save(kind: PictureKind): Promise<void> {
    problem = null
    const name = `${panel.title.toLowerCase().replaceAll(/\W+/g, '-')}.${kind}`
    try {
      saveAs(await pictureOf(timeChartOption({ chart: drawable, window, timeZone }), kind), name)
    } catch (error) {
      problem = `The picture could not be made: ${error instanceof Error ? error.message : error}.`
    }
  }
  const litName = $derived(own.find(({ key }) => key === lit)?.name ?? null)
</script>

<section class="border-rule-2 border-t py-2 first:border-t-0" data-testid="past-panel">
  <h2 class="text-[11px] font-[640]">
    {panel.title}
    {#if view === 'band'}<span class="text-ink-3 font-normal"
        >· all of {own.length}, the half in the middle darker, the median as a line; the highest and the
        lowest by name</span
      >{/if}
    {#if view !== 'heat'}
      <span class="float-right font-normal"
        ><Button look="link" onclick={() => void save('png')}>PNG</Button>
        <Button look="link" onclick={() => void save('svg')}>SVG</Button></span
      >
    {/if}
  </h2>
  {#if problem !== null}<p class="text-crit text-xs" role="alert">{problem}</p>{/if}
  {#if view === 'heat'}
    <HeatMap {rows} {raster} {...ends} {say} {nowMs} {timeZone} {spoken} {zoom} {lit} {point} />
  {:else}
    <Chart
      option={() => timeChartOption({ chart: drawable, window, timeZone })}
      {spoken}
      class={looks}
      {zoom}
      group="past"
      lit={litName}
    />
  {/if}
</section>
