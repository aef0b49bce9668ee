<script lang="ts">
  import { untrack } from 'svelte'
  import { goto, invalidate } from '$app/navigation'
  import { page } from '$app/state'
  import { DEFAULT_WINDOW, WINDOWS } from '#core/readings'
  import { formatAgo, formatDate, formatMoment } from '#core/units'
  import { type Charts, fetchCharts } from '$lib/client/curves'
  import { useLive } from '$lib/client/live.svelte'
  import { checkSource, takeAlert } from '$lib/client/requests'
  import DeviceTexts from '$lib/components/logs/DeviceTexts.svelte'
  import GearChange from '$lib/components/gear/GearChange.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import GearHistory from '$lib/components/gear/GearHistory.svelte'
  import GearLinks from '$lib/components/links/GearLinks.svelte'
  import OwnReadings from '$lib/components/gear/OwnReadings.svelte'
  import PathDrawing from '$lib/components/links/PathDrawing.svelte'
  import ServerFront from '$lib/components/gear/ServerFront.svelte'
  import TimeChart from '$lib/components/readings/TimeChart.svelte'
  import UpsPath from '$lib/components/power/UpsPath.svelte'
  import type { PartView } from '$lib/server/gear/gearPage'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const firstCharts = (): Charts | null =>
    data.charts === null ? null : { window: data.window, charts: data.charts }
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const STATE_WORDS = {
    critical: 'critical',
    warning: 'in warning',
    noData: 'without data',
    quiet: 'quieted',
    well: 'well',
  } as const

  const facts = $derived(
    [
      [data.gear.facts['maker'], data.gear.facts['model']]
        .filter((word, index, all) => word && !all[1]?.startsWith(index === 0 ? `${word} ` : '\n'))
        .join(' '),
      data.gear.facts['serial'] && `serial ${data.gear.facts['serial']}`,
      data.gear.facts['firmware'] && `firmware ${data.gear.facts['firmware']}`,
      data.gear.facts['processors'] && `${data.gear.facts['processors']} processors`,
    ].filter(Boolean),
  )
  const feeds = $derived(
    data.links
      .filter((link) => link.kind === 'fed-by' && link.isOutgoing)
      .filter((link, index, all) => all.findIndex(({ otherId }) => otherId === link.otherId) === index),
  )
  const polled = $derived(data.sources.filter((source) => source.isPolled))
  let notice = $state<string | null>(null)

  async function checkNow(): Promise<void> {
    const done = await Promise.all(polled.map((source) => checkSource(source.id)))
    const refused = done.find((each) => each.kind === 'refused')
    notice =
      refused?.kind === 'refused'
        ? refused.message
        : `Asked ${polled.map((source) => source.name).join(' and ')}; values follow as they come.`
  }

  async function take(id: number): Promise<void> {
    const done = await takeAlert(id)
    notice = done.kind === 'refused' ? done.message : null
    await invalidate('rack:alerts')
  }

  function show(seriesIds: readonly number[]): void {
    const next = new URL(page.url)
    next.searchParams.set('r', seriesIds.join(','))
    void goto(next, { replaceState: true, keepFocus: true, noScroll: true })
  }
  function toggle(seriesId: number): void {
    const rest = data.picked.filter((id) => id !== seriesId)
    show(rest.length < data.picked.length && rest.length > 0 ? rest : [...rest, seriesId])
  }
  function pickPart(part: PartView): void {
    if (part.seriesIds.length > 0) show([...new Set([...part.seriesIds, ...data.picked])])
  }
  function zoom(fromMs: number, toMs: number): void {
    const next = new URL(page.url)
    next.searchParams.delete('w')
    next.searchParams.set('from', String(fromMs))
    next.searchParams.set('to', String(toMs))
    void goto(next, { keepFocus: true, noScroll: true })
  }

  /** Long windows by their days, short ones to the minute. */
  function spanWords({ fromMs, toMs }: { fromMs: number; toMs: number }): string {
    return toMs - fromMs > 10 * 86_400_000
      ? `${formatDate(fromMs, timeZone)} – ${formatDate(toMs, timeZone)}`
      : `${formatMoment(fromMs, live.nowMs, timeZone)} – ${formatMoment(toMs, live.nowMs, timeZone)}`
  }
  /** Four times the window around its middle, at most a year, never beyond now. */
  function widen(): void {
    const span = Math.min(365 * 86_400_000, 4 * (data.window.toMs - data.window.fromMs))
    const middle = (data.window.fromMs + data.window.toMs) / 2
    const toMs = Math.min(live.nowMs, middle + span / 2)
    zoom(Math.round(toMs - span), Math.round(toMs))
  }

  // The first answer brings the curves along.
  let charts = $state.raw<Charts | null>(untrack(firstCharts))
  let isFirst = untrack(() => data.charts !== null)
  let trouble = $state<string | null>(null)
  /** Something takes longer than a person takes for «at once». */
  let isSlow = $state(false)
  let refresh = $state(0)
  const picked = $derived(data.picked.join(','))
  const exported = $derived(
    (format: string): string =>
      `/readings?${new URLSearchParams({ r: picked, from: String(Math.round(data.window.fromMs)), to: String(Math.round(data.window.toMs)), format })}`,
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
    fetchCharts(
      data.gear.id,
      picked === '' ? [] : picked.split(',').map(Number),
      page.url.search,
      asking.signal,
    )
      .then((answer) => {
        charts = answer
        trouble = null
      })
      .catch((error: unknown) => {
        if (!asking.signal.aborted)
          trouble = `The curves could not be read: ${error instanceof Error ? error.message : error}.`
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
      if (change.sourceIds.some((id) => data.gear.sourceIds.includes(id))) refresh += 1
    }),
  )
</script>

<svelte:head><title>{data.gear.name} · {data.shell.site.name}</title></svelte:head>

<div class="flex items-start justify-between gap-4">
  <div>
    <h1>
      {data.gear.name}
      <span class="text-ink-2 font-[450]">— {data.gear.role}, {STATE_WORDS[data.gear.state]}</span>
    </h1>
    <p class="muted mt-0.5">
      {facts.join(' · ')}{facts.length > 0 ? ' · ' : ''}
      <span class="place">{data.gear.place ?? 'not placed yet'}</span>
      {#if feeds.length > 0}
        · fed by
        {#each feeds as feed, index (feed.otherId)}
          {index > 0 ? ' and ' : ''}<a class="link font-semibold" href="/gear/{feed.otherId}"
            >{feed.otherName}</a
          >
        {/each}
      {/if}
      · seen by {data.sources.length} source{data.sources.length === 1 ? '' : 's'}
      {#each data.gear.tags as tag (tag)}<a
          class="border-rule ml-1 border px-1 text-[11px] hover:underline"
          href="/gear?q={encodeURIComponent(tag)}">{tag}</a
        >{/each}
    </p>
  </div>
  {#if data.mayOperate && polled.length > 0}
    <button class="btn btn-strong" onclick={checkNow}>Check now</button>
  {/if}
</div>
{#if notice !== null}<p class="muted" role="status">{notice}</p>{/if}

<section class="panel grid grid-cols-[minmax(0,1fr)_330px] p-0!">
  <div class="px-3.5 py-3">
    <h2 class="panel-title">
      {data.parts.length > 0 && data.gear.drawing !== 'readings' ? 'Parts' : 'Now'}
      <span
        >{data.gear.kind === 'server' && data.parts.length > 0
          ? 'drawn from what its controller reports · life left on drives'
          : ''}</span
      >
    </h2>
    {#if data.gear.drawing === 'path'}
      <UpsPath parts={data.parts} own={data.own} />
    {:else if data.gear.drawing === 'front' && data.parts.length > 0}
      <ServerFront parts={data.parts} pick={pickPart} />
    {:else}
      <OwnReadings own={data.own} />
    {/if}
    {#if data.gear.facts['alarms']}<p class="muted mt-2">It reports: {data.gear.facts['alarms']}.</p>{/if}
  </div>
  <div class="border-rule border-l px-3.5 py-3">
    <h2 class="panel-title">
      {data.gear.state === 'well' ? 'It is well' : `Why it is ${STATE_WORDS[data.gear.state]}`}
    </h2>
    <ul class="grid gap-2">
      {#each data.why as row (row.id)}
        <li class="grid grid-cols-[20px_minmax(0,1fr)] gap-1" data-row data-testid="why">
          <span class="pt-0.5"><Glyph state={row.state} /></span>
          <div>
            <b class="font-[640]">{row.title}</b>
            <p class="muted">
              {row.reason} Since {formatMoment(row.sinceMs, live.nowMs, timeZone)}. Told: {row.told}.
            </p>
            {#if row.takenBy !== null}
              <p class="muted">{row.takenBy} has it.</p>
            {:else if data.mayOperate}
              <button class="btn mt-0.5" data-take onclick={() => take(row.id)}>Take</button>
            {/if}
          </div>
        </li>
      {/each}
      {#each data.silent as words (words)}
        <li class="grid grid-cols-[20px_minmax(0,1fr)] gap-1">
          <span class="pt-0.5"><Glyph state="noData" /></span>{words}.
        </li>
      {/each}
    </ul>
    {#if data.why.length === 0 && data.silent.length === 0}<p class="muted">No rule holds on it.</p>{/if}
    <ul class="border-rule-2 mt-3 border-t pt-2">
      {#each data.sources as source (source.id)}
        <li class="muted">
          <a class="link" href="/sources#source-{source.id}">{source.name}</a>, heard {formatAgo(
            source.heardMs,
            live.nowMs,
          )}
          {#if source.trouble !== null}<span class="text-blind">· {source.trouble}</span>{/if}
        </li>
      {/each}
    </ul>
  </div>
</section>

{#if data.hangs.path.nodes.length > 1}
  <section class="panel" aria-labelledby="hangs">
    <h2 class="panel-title" id="hangs">How it hangs together</h2>
    {#each data.hangs.sentences as sentence (sentence)}<p class="mb-1">{sentence}</p>{/each}
    <PathDrawing path={data.hangs.path} label="What {data.gear.name} hangs on, and what hangs on it" />
  </section>
{/if}

<div class="grid grid-cols-[232px_minmax(0,1fr)] items-start gap-4">
  <section class="panel px-0!" aria-labelledby="readings">
    <h2 class="panel-title px-3.5" id="readings">
      Readings <span>{data.groups.reduce((sum, group) => sum + group.readings.length, 0)}</span>
    </h2>
    <div class="max-h-150 overflow-y-auto" role="group" aria-labelledby="readings">
      {#each data.groups as group (group.name)}
        <fieldset class="border-rule-2 min-w-0 border-t px-3.5 py-1.5">
          <legend class="float-left mb-0.5 w-full font-[640]">{group.name}</legend>
          {#each group.readings as reading (reading.seriesId)}
            <label class="muted clear-both flex cursor-pointer items-center gap-1.5">
              <input
                type="checkbox"
                class="accent-accent size-3"
                checked={data.picked.includes(reading.seriesId)}
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
  </section>
  <section class="panel" aria-labelledby="curves">
    <h2 class="panel-title" id="curves">
      {data.window.key === 'own' ? 'Zoomed' : WINDOWS[data.window.key ?? DEFAULT_WINDOW].label}
      <span>
        {spanWords(data.window)} · drag over a curve to zoom,
        <button class="link" onclick={widen}>wider</button>
        · keep as <a class="link" href={exported('csv')} download>CSV</a>,
        <a class="link" href={exported('openmetrics')} download>OpenMetrics</a>
      </span>
    </h2>
    <div class="h-0.5" role="status">
      {#if isSlow}<span class="sr-only">Reading the curves</span><span class="progress"></span>{/if}
    </div>
    {#if trouble !== null}<p class="text-crit" role="alert">{trouble}</p>{/if}
    {#if charts === null}
      <p class="muted">Reading the curves…</p>
    {:else}
      {#each charts.charts as chart (chart.key)}
        <TimeChart {chart} window={charts.window} {timeZone} {zoom} />
      {:else}
        <p class="muted">Pick a reading on the left to see its curve.</p>
      {/each}
    {/if}
  </section>
</div>
{#if data.texts.length > 0}
  <section class="panel" aria-labelledby="says">
    <h2 class="panel-title" id="says">
      What it says <span>syslog and SNMP notifications, {spanWords(data.window)}</span>
    </h2>
    <DeviceTexts texts={data.texts} nowMs={live.nowMs} {timeZone} />
  </section>
{/if}
<GearHistory
  changes={data.changes}
  own={data.inventory}
  mayChange={data.mayAdminister}
  message={form !== null && 'bookMessage' in form ? form.bookMessage : null}
  nowMs={live.nowMs}
  {timeZone}
/>
{#if data.mayAdminister}
  <GearLinks
    links={data.links}
    names={data.names}
    message={form !== null && 'linkMessage' in form ? form.linkMessage : null}
  />
  {#key data.gear.id}
    <GearChange
      gear={data.gear}
      racks={data.racks}
      sources={data.sources}
      merges={data.merges}
      message={(form !== null && 'message' in form ? form.message : null) ?? null}
      nowMs={live.nowMs}
      {timeZone}
    />
  {/key}
{/if}
