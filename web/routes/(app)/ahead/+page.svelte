<script lang="ts">
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { createVirtualizer } from '@tanstack/svelte-virtual'
  import { untrack } from 'svelte'
  import { aheadSentence, TOPICS } from '#core/forecast'
  import { formatDate } from '#core/units'
  import { useLive } from '$lib/client/live.svelte'
  import { WholeList } from '$lib/client/wholeList.svelte'
  import AheadAxis from '$lib/components/forecast/AheadAxis.svelte'
  import AheadBar from '$lib/components/forecast/AheadBar.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import type { PageProps } from './$types'

  let { data }: PageProps = $props()
  const live = useLive()
  const timeZone = $derived(data.shell.site.timeZone)
  const ROW = 57
  const WEEK_MS = 7 * 86_400_000

  const list = new WholeList(
    () => data.list,
    () => `/ahead/rows?show=${data.showing}`,
  )
  const topic = $derived(page.url.searchParams.get('topic') ?? '')
  const horizonDays = $derived(page.url.searchParams.get('until') === '730' ? 730 : 180)
  const room = $derived(page.url.searchParams.get('room') ?? '')
  const tag = $derived(page.url.searchParams.get('tag') ?? '')
  const words = $derived((page.url.searchParams.get('q') ?? '').toLowerCase())
  const isWithin = (runOutMs: number | null): boolean =>
    data.showing !== 'runs-out' || (runOutMs ?? Infinity) < live.nowMs + horizonDays * 86_400_000
  const shown = $derived(
    list.rows.filter(
      (row) =>
        (topic === '' || row.topic === topic) &&
        isWithin(row.runOutMs) &&
        (room === '' || row.room === room) &&
        (tag === '' || row.tags.includes(tag)) &&
        `${row.name} ${row.what} ${row.sentence} ${row.room} ${row.tags.join(' ')} ${row.about}`
          .toLowerCase()
          .includes(words),
    ),
  )
  const sentence = $derived(
    data.showing === 'runs-out'
      ? aheadSentence(data.due, data.withinHalfYear, data.counts.all)
      : data.showing === 'not-in-sight'
        ? `${data.counts.notInSight} of ${data.counts.all} do not reach their line within two years.`
        : `For ${data.counts.tooEarly} of ${data.counts.all} it is too early to say.`,
  )
  const SHOWS = $derived([
    ['runs-out', `Runs out ${data.counts.runsOut}`],
    ['not-in-sight', `Not in sight ${data.counts.notInSight}`],
    ['too-early', `Too early ${data.counts.tooEarly}`],
  ] as const)

  function set(name: string, value: string): void {
    const next = new URL(page.url)
    if (value === '') next.searchParams.delete(name)
    else next.searchParams.set(name, value)
    void goto(next, { replaceState: true, keepFocus: true, noScroll: true })
  }

  let scroller = $state<HTMLElement | null>(null)
  const rows = createVirtualizer<HTMLElement, HTMLElement>({
    count: untrack(() => shown.length),
    getScrollElement: () => scroller,
    estimateSize: () => ROW,
    overscan: 8,
    initialRect: { width: 1000, height: 600 },
  })
  $effect(() => {
    const count = shown.length
    void scroller
    untrack(() => $rows.setOptions({ count, getScrollElement: () => scroller }))
  })
</script>

<svelte:head><title>Ahead · {data.shell.site.name}</title></svelte:head>

<h1 data-testid="sentence">{sentence}</h1>

<div class="flex flex-wrap items-center gap-x-4 gap-y-2">
  <nav class="flex gap-3" aria-label="What is shown">
    {#each SHOWS as [key, label] (key)}
      <a
        href="/ahead{key === 'runs-out' ? '' : `?show=${key}`}"
        aria-current={data.showing === key ? 'true' : undefined}
        class="text-ink-2 aria-[current]:text-ink aria-[current]:border-ink border-b-2 border-transparent hover:underline aria-[current]:font-[620]"
        >{label}</a
      >
    {/each}
  </nav>
  <span class="flex gap-3" role="group" aria-label="Topic">
    {#each ['', ...TOPICS] as each (each)}
      <Button
        look="bare"
        class="text-ink-2 aria-pressed:text-ink aria-pressed:border-ink border-b-2 border-transparent hover:underline aria-pressed:font-[620]"
        aria-pressed={topic === each}
        onclick={() => set('topic', each)}
        >{each === '' ? 'All' : each}
        {data.showing === 'runs-out' && each !== ''
          ? (data.topics.find((one) => one.topic === each)?.count ?? 0)
          : ''}</Button
      >
    {/each}
  </span>
  <Input
    class="ml-auto w-52"
    placeholder="Name, kind, place, owner"
    aria-label="Search what is ahead"
    defaultValue={page.url.searchParams.get('q') ?? ''}
    oninput={(event) => set('q', event.currentTarget.value)}
  />
  {#if data.places.rooms.length > 1}
    <Select
      aria-label="Room"
      defaultValue={room}
      onchange={(value) => set('room', value)}
      options={[
        { value: '', label: 'all rooms' },
        ...data.places.rooms.map((name) => ({ value: name, label: name })),
      ]}
    />
  {/if}
  {#if data.places.tags.length > 0}
    <Select
      aria-label="Tag"
      defaultValue={tag}
      onchange={(value) => set('tag', value)}
      options={[
        { value: '', label: 'all tags' },
        ...data.places.tags.map((name) => ({ value: name, label: name })),
      ]}
    />
  {/if}
  <Select
    aria-label="Until"
    defaultValue={String(horizonDays)}
    onchange={(value) => set('until', value === '180' ? '' : value)}
    options={[
      { value: '180', label: '6 months' },
      { value: '730', label: '2 years' },
    ]}
  />
  <span class="text-ink-2 text-xs"
    >Export <Link href="/ahead/file?as=csv" download>CSV</Link>,
    <Link href="/ahead/file?as=xlsx" download>XLSX</Link> ·
    <Link href="/ahead/calendar">calendar feed</Link> ·
    <Link href="/ahead/lead-times">lead times</Link></span
  >
</div>

<Panel aria-label="What is ahead">
  <div class="grid grid-cols-[minmax(0,5fr)_minmax(0,8fr)] gap-4">
    <span class="text-ink-3 self-end text-[11px]">{shown.length} shown</span>
    <AheadAxis nowMs={live.nowMs} {horizonDays} {timeZone} />
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -- what scrolls must be reachable by keyboard -->
  <div
    bind:this={scroller}
    class="max-h-[calc(100vh-220px)] overflow-x-hidden overflow-y-auto"
    role="region"
    aria-label="List of what is ahead"
    tabindex="0"
  >
    <ul class="relative" {@attach (node) => void (node.style.height = `${$rows.getTotalSize()}px`)}>
      {#each $rows.getVirtualItems() as item (item.index)}
        {@const row = shown[item.index]}
        {#if row !== undefined}
          <li
            class="border-rule-2 hover:bg-accent-soft absolute inset-x-0 top-0 grid h-[57px] grid-cols-[minmax(0,5fr)_minmax(0,8fr)] gap-4 border-t"
            {@attach (node) => void (node.style.transform = `translateY(${item.start}px)`)}
            data-row
            data-testid="ahead-row"
          >
            <div class="grid min-w-0 grid-cols-[18px_minmax(0,1fr)] content-center gap-x-1.5">
              <Glyph
                state={row.order !== null
                  ? 'quiet'
                  : row.verdict === 'over' || (row.orderByMs ?? Infinity) < live.nowMs + WEEK_MS
                    ? 'warning'
                    : row.verdict === 'too-little'
                      ? 'noData'
                      : 'well'}
                label={row.order !== null ? 'ordered' : row.verdict}
              />
              <p class="truncate">
                <a class="font-[640] after:absolute after:inset-0" href="/ahead/{row.id}">{row.name}</a>
                <span class="text-ink-3 text-xs">{row.what}</span>
              </p>
              <span></span>
              <p class="text-ink-2 truncate text-xs" title={row.sentence}>
                {row.order === null
                  ? row.sentence
                  : `${row.order.words}, expected ${formatDate(Date.parse(row.order.expectedOn), timeZone)} (${row.order.by})`}
              </p>
            </div>
            <AheadBar {row} nowMs={live.nowMs} {horizonDays} {timeZone} />
          </li>
        {/if}
      {/each}
    </ul>
    {#if shown.length === 0}
      <p class="text-ink-2 border-rule-2 border-t py-3 text-xs">
        {data.counts.all === 0
          ? 'Datastores, drives, batteries and hosts are forecast once a week of their readings is there.'
          : 'Nothing here. Choose another topic, a longer time, or what is not in sight.'}
      </p>
    {/if}
  </div>
</Panel>
