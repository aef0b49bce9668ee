<script lang="ts">
  import { invalidate } from '$app/navigation'
  import { page } from '$app/state'
  import { sayShown } from '#core/past'
  import { formatMoment, spanWords } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { show, zoomTo } from '$lib/client/picked'
  import { findPicks } from '$lib/client/requests'
  import CurveTable from '$lib/components/past/CurveTable.svelte'
  import PastPanel from '$lib/components/past/PastPanel.svelte'
  import PastTabs from '$lib/components/past/PastTabs.svelte'
  import PickChip from '$lib/components/past/PickChip.svelte'
  import FindBox from '$lib/components/shell/FindBox.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Form from '$lib/components/ui/Form.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Notice from '$lib/components/ui/Notice.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Popover from '$lib/components/ui/Popover.svelte'
  import Segments from '$lib/components/ui/Segments.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const marks = $derived([
    ...data.changes.map(({ atMs }) => ({ atMs, sign: '▾' })),
    ...data.said.lines.map(({ atMs }) => ({ atMs, sign: '≡' })),
  ])
  let lit = $state<string | null>(null)
  // Of many the busiest stand on top, until somebody sorts them otherwise.
  let sort = $derived(data.view === 'curves' ? '' : '-mean')
  let table = $state<CurveTable | null>(null)
  const REFRESH_MS = 30_000

  // A window up to now goes on with the clock.
  $effect(() => {
    if (data.window.key === 'own') return
    const ticking = setInterval(() => void invalidate('past:curves'), REFRESH_MS)
    return () => clearInterval(ticking)
  })
  const isEmpty = $derived(data.curves.length === 0)
  // What draws is read while somebody still chooses what.
  $effect(() => {
    if (!isEmpty) return
    const soon = setTimeout(() => void import('$lib/client/echarts'), 500)
    return () => clearTimeout(soon)
  })
  const add = (pick: string): void => show((query) => query.append('p', pick))
  function changePick(index: number, text: string | null): void {
    const all = page.url.searchParams
      .getAll('p')
      .filter((each) => data.picks.some(({ pick }) => pick === each))
    show((query) => {
      query.delete('p')
      all.forEach((each, at) => {
        if (at !== index) query.append('p', each)
        else if (text !== null) query.append('p', text)
      })
    })
  }
  const viewed = (view: string): string => {
    const next = new URL(page.url)
    next.searchParams.set('v', view)
    return `${next.pathname}${next.search}`
  }
  const VIEWS = $derived(
    (
      [
        ['curves', 'Curves'],
        ['band', 'Band'],
        ['heat', 'Heat map'],
      ] as const
    )
      .filter(([key]) => key !== 'curves' || data.curves.length <= 12)
      .map(([key, label]) => ({ label, href: viewed(key), isCurrent: data.view === key })),
  )
  /** Moves the window by a part of itself, or makes it so many times as wide. */
  function move(by: number, times = 1): void {
    const { fromMs, toMs } = data.window
    const middle = (fromMs + toMs) / 2 + by * (toMs - fromMs)
    const half = Math.min(365 * 86_400_000, Math.max(60_000, (toMs - fromMs) * times)) / 2
    const endMs = Math.min(live.nowMs, middle + half)
    zoomTo(Math.round(endMs - 2 * half), Math.round(endMs))
  }
  function keys(event: KeyboardEvent): void {
    const moves: Readonly<Record<string, () => void>> = {
      ArrowLeft: () => move(-0.25),
      ArrowRight: () => move(0.25),
      '+': () => move(0, 0.5),
      '-': () => move(0, 2),
    }
    const act = moves[event.key]
    if (act === undefined || event.altKey || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    act()
  }
  /** With the control key held, as browsers zoom: the wheel alone moves the page. */
  function wheel(event: WheelEvent): void {
    if (!event.ctrlKey) return
    event.preventDefault()
    move(0, event.deltaY > 0 ? 1.25 : 0.8)
  }
  const shown = $derived(sort === '' || table === null ? data.curves : table.sorted(data.curves))
  const line = $derived.by(() => {
    const panel = data.panels.find((each) => each.line !== null)
    return panel?.line == null ? null : `${panel.line.direction} ${sayShown(panel.shows, panel.line.at)}`
  })
  const file = $derived(
    (as: string): string => `/past/file${page.url.search}${page.url.search === '' ? '?' : '&'}as=${as}`,
  )
  const height = $derived(data.panels.length === 1 ? 'h-72' : data.panels.length === 2 ? 'h-44' : 'h-34')
</script>

<svelte:head><title>Past · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{data.sentence}</h1>
<PastTabs />
<div class="mb-3 flex flex-wrap items-center gap-2">
  {#each data.picks as { pick, words, count }, index (index)}
    <PickChip
      {pick}
      {words}
      {count}
      others={data.picks.filter((_, at) => at !== index)}
      change={(next) => changePick(index, next)}
    />
  {/each}
  <FindBox
    find={findPicks}
    go={add}
    placeholder="Add: processor use north, inlet temperature, received…"
    label="Add what to look at"
    class="max-w-100 grow"
  />
  <Popover label="Kept views" class="text-accent cursor-pointer hover:underline">
    {#snippet trigger()}Kept views {data.views.length} ▾{/snippet}
    <div class="grid w-80 gap-2" data-testid="views">
      {#each data.views as view (view.id)}
        <div class="flex items-baseline gap-2">
          <Link href="/past?{view.query}">{view.name}</Link>
          <span class="text-ink-3 grow text-xs">by {view.madeBy}</span>
          {#if data.mayOperate}
            <Form action="?/deleteView"
              ><input type="hidden" name="id" value={view.id} /><Button look="link">Delete</Button></Form
            >
          {/if}
        </div>
      {:else}
        <p class="text-ink-2 text-xs">No view is kept yet. A view is a name for this address.</p>
      {/each}
      {#if data.mayOperate && data.curves.length > 0}
        <Form action="?/keep" class="border-rule-2 flex items-end gap-2 border-t pt-2">
          <input type="hidden" name="query" value={page.url.search} />
          <Input label="Keep this view as" name="name" class="w-52" required />
          <Button>Keep</Button>
        </Form>
      {/if}
    </div>
  </Popover>
</div>
{#if form?.message}<Notice kind="problem" class="mb-2">{form.message}</Notice>{/if}
{#each data.problems as problem (problem)}<Notice kind="problem" class="mb-2">{problem}</Notice>{/each}
{#if isEmpty}
  <Panel title="Look back at anything that was measured" id="begin">
    <p class="text-ink-2 mb-2">
      Type what and where, in any order: a measure and a room, a rack, a cluster, a tag, a kind of gear or a
      single one. These are often asked for:
    </p>
    <ul class="grid gap-1">
      {#each data.often as { pick, words, series } (pick)}
        <li>
          <Link href="/past?p={encodeURIComponent(pick)}&w=24h">{words}</Link>
          <span class="text-ink-3 text-xs">{series === 1 ? 'one series' : `${series} series`}</span>
        </li>
      {:else}
        <li class="text-ink-2">Nothing is measured yet. <Link href="/sources">See the sources</Link></li>
      {/each}
    </ul>
  </Panel>
{:else}
  <Panel aria-label="Curves" class="mb-4">
    <div class="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1.5">
      <Segments label="Shown as" items={VIEWS} />
      {#if data.view === 'curves'}
        <Select
          aria-label="Laid under it"
          class="w-52"
          value={data.under?.by ?? ''}
          options={[
            { value: '', label: 'Nothing laid under it' },
            { value: 'day', label: 'Under it: a day earlier' },
            { value: 'week', label: 'Under it: a week earlier' },
            { value: 'year', label: 'Under it: a year earlier' },
          ]}
          onchange={(by) => show((query) => (by === '' ? query.delete('under') : query.set('under', by)))}
        />
      {/if}
      <span class="text-ink-2 text-xs">{spanWords(data.window, live.nowMs, timeZone)}</span>
      <Button look="link" onclick={() => move(-0.5)}>← earlier</Button>
      <Button look="link" onclick={() => move(0.5)}>later →</Button>
      <Button look="link" onclick={() => move(0, 4)}>wider</Button>
      <span class="text-ink-3 ml-auto text-xs"
        >{data.madeOf === 'readings' ? 'from every reading' : 'from hours'} · <Link
          href={file('csv')}
          download>CSV</Link
        >
        <Link href={file('xlsx')} download>XLSX</Link></span
      >
    </div>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -- arrows move the window, + and - zoom -->
    <div
      role="group"
      aria-label="Curves; left and right move the window, plus and minus zoom"
      tabindex="0"
      onkeydown={keys}
      onwheel={wheel}
    >
      {#each data.panels as panel (panel.key)}
        <PastPanel
          {panel}
          curves={shown}
          {marks}
          view={data.view}
          window={data.window}
          raster={data.raster}
          {timeZone}
          nowMs={live.nowMs}
          zoom={zoomTo}
          {lit}
          point={(key) => (lit = key)}
          class={height}
        />
      {/each}
    </div>
  </Panel>
  {#if data.changes.length > 0}
    <Panel title="What changed meanwhile" id="changes" note="▾ on the axis; the newest first" class="mb-4">
      <ul class="text-xs" data-testid="changes">
        {#each data.changes as change (change.id)}
          <li>
            <span class="text-ink-2">{formatMoment(change.atMs, live.nowMs, timeZone)}</span>
            <Link href="/gear/{change.gearId}">{change.gear}</Link>: {change.words}
            {#if change.who !== null}<span class="text-ink-2">by {change.who}</span>{/if}
          </li>
        {/each}
      </ul>
    </Panel>
  {/if}
  {#if data.said.lines.length > 0}
    <Panel
      title="What was said meanwhile"
      id="said"
      note="≡ on the axis; errors and graver, the newest first"
      class="mb-4"
    >
      <ul class="text-xs" data-testid="said">
        {#each data.said.lines as line (line.id)}
          <li class="truncate" title={line.body}>
            <span class="text-ink-2">{formatMoment(line.atMs, live.nowMs, timeZone)}</span>
            <Link href="/gear/{line.gearId}">{line.gear}</Link>
            <span class="text-ink-2">{line.word}{line.times > 1 ? `, ${line.times} times` : ''}</span>
            {line.body}
          </li>
        {/each}
      </ul>
      {#if data.said.isMore}<p class="text-ink-2 mt-1 text-xs">
          There is more: <Link href="/logs?grave=3&from={data.window.fromMs}&to={data.window.toMs}"
            >read it in Logs</Link
          >.
        </p>{/if}
    </Panel>
  {/if}
  <Panel aria-label="In numbers">
    <CurveTable
      bind:this={table}
      curves={data.curves}
      bind:sort
      point={(key) => (lit = key)}
      exact={data.percentilesFrom === 'readings'}
      {line}
    />
  </Panel>
{/if}
