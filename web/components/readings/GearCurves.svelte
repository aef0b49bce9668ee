<script lang="ts">
  import PanelTitle from '../ui/PanelTitle.svelte'
  import Link from '../ui/Link.svelte'
  import Panel from '../ui/Panel.svelte'
  import Button from '../ui/Button.svelte'
  import Tick from '../ui/Tick.svelte'
  import { untrack } from 'svelte'
  import { page } from '$app/state'
  import { DEFAULT_WINDOW, WINDOWS } from '#core/readings'
  import { spanWords } from '#core/units'
  import { type Charts, fetchCharts } from '$lib/client/curves'
  import { useLive } from '$lib/client/live.svelte'
  import { showSeries, zoomTo } from '$lib/client/picked'
  import type { SectionViews } from '$lib/server/gear/gearPage'
  import type { SectionProps } from '../gear/sections'
  import Glyph from '../ui/Glyph.svelte'
  import TimeChart from './TimeChart.svelte'

  /** All readings of a gear, and the curves of those that are picked. */
  let { view, frame }: SectionProps<NonNullable<SectionViews['curves']>> = $props()
  const live = useLive()

  function toggle(seriesId: number): void {
    const rest = view.picked.filter((id) => id !== seriesId)
    showSeries(rest.length < view.picked.length && rest.length > 0 ? rest : [...rest, seriesId])
  }
  /** Four times the window around its middle, at most a year, never beyond now. */
  function widen(): void {
    const { fromMs, toMs } = view.window
    const span = Math.min(365 * 86_400_000, 4 * (toMs - fromMs))
    const endMs = Math.min(frame.nowMs, (fromMs + toMs) / 2 + span / 2)
    zoomTo(Math.round(endMs - span), Math.round(endMs))
  }

  // The first answer brings the curves along.
  let charts = $state.raw<Charts | null>(
    untrack(() => (view.charts === null ? null : { window: view.window, charts: view.charts })),
  )
  let isFirst = untrack(() => view.charts !== null)
  let problem = $state<string | null>(null)
  /** Something takes longer than a person takes for “at once”. */
  let isSlow = $state(false)
  let refresh = $state(0)
  const picked = $derived(view.picked.join(','))
  // Asked again when it is another gear, and not whenever something else of the page comes anew.
  const gearId = $derived(frame.gear.id)
  const exported = $derived(
    (format: string): string =>
      `/readings?${new URLSearchParams({ r: picked, from: String(Math.round(view.window.fromMs)), to: String(Math.round(view.window.toMs)), format })}`,
  )
  const windowQuery = $derived(
    view.window.key === 'own'
      ? `from=${Math.round(view.window.fromMs)}&to=${Math.round(view.window.toMs)}`
      : `w=${view.window.key}`,
  )
  $effect(() => {
    void [refresh, picked, page.url.search]
    if (isFirst) {
      isFirst = false
      return
    }
    const asking = new AbortController()
    const slow = setTimeout(() => {
      isSlow = true
    }, 300)
    fetchCharts(gearId, picked === '' ? [] : picked.split(',').map(Number), page.url.search, asking.signal)
      .then((answer) => {
        charts = answer
        problem = null
      })
      .catch((error: unknown) => {
        if (!asking.signal.aborted)
          problem = `The curves could not be read: ${error instanceof Error ? error.message : error}.`
      })
      .finally(() => {
        clearTimeout(slow)
        if (!asking.signal.aborted) isSlow = false
      })
    return () => {
      clearTimeout(slow)
      asking.abort()
    }
  })
  $effect(() =>
    live.onChange((change) => {
      if (change.sourceIds.some((id) => frame.gear.sourceIds.includes(id))) refresh += 1
    }),
  )
</script>

<div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[232px_minmax(0,1fr)]">
  <Panel class="px-0!">
    <PanelTitle class="px-3.5" id="readings">
      Readings <span>{view.groups.reduce((sum, group) => sum + group.readings.length, 0)}</span>
    </PanelTitle>
    <div class="max-h-150 overflow-y-auto" role="group" aria-labelledby="readings">
      {#each view.groups as group (group.name)}
        <fieldset class="border-rule-2 min-w-0 border-t px-3.5 py-1.5">
          <legend class="float-left mb-0.5 w-full font-[640]">{group.name}</legend>
          {#each group.readings as reading (reading.seriesId)}
            <label class="text-ink-2 clear-both flex cursor-pointer items-center gap-1.5 text-xs">
              <Tick
                class="size-3"
                checked={view.picked.includes(reading.seriesId)}
                onchange={() => toggle(reading.seriesId)}
              />
              <span class="min-w-0 grow truncate">{reading.label}</span>
              <span class="text-ink whitespace-nowrap">{reading.text}</span>
              {#if reading.state !== 'well'}<Glyph state={reading.state} />{/if}
            </label>
          {/each}
        </fieldset>
      {/each}
    </div>
  </Panel>
  <Panel>
    <PanelTitle id="curves">
      {view.window.key === 'own' ? 'Zoomed' : WINDOWS[view.window.key ?? DEFAULT_WINDOW].label}
      <span>
        {spanWords(view.window, frame.nowMs, frame.timeZone)} · drag over a curve to zoom,
        <Button look="link" onclick={widen}>wider</Button>
        · <Link href={`/past?s=${picked}&${windowQuery}`}>lay beside others</Link>
        · export <Link href={exported('csv')} download>CSV</Link>,
        <Link href={exported('openmetrics')} download>OpenMetrics</Link>
      </span>
    </PanelTitle>
    <div class="h-0.5" role="status">
      {#if isSlow}<span class="sr-only">Reading the curves</span><span class="progress"></span>{/if}
    </div>
    {#if problem !== null}<p class="text-crit" role="alert">{problem}</p>{/if}
    {#if charts === null}
      <p class="text-ink-2 text-xs">Reading the curves…</p>
    {:else}
      {#each charts.charts as chart (chart.key)}
        <TimeChart {chart} window={charts.window} timeZone={frame.timeZone} zoom={zoomTo} />
      {:else}
        <p class="text-ink-2 text-xs">Pick a reading on the left to see its curve.</p>
      {/each}
    {/if}
  </Panel>
</div>
