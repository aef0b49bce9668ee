<script lang="ts">
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { createVirtualizer } from '@tanstack/svelte-virtual'
  import { untrack } from 'svelte'
  import { inventoryFilterOf, fitsInventory, type Warranty, WARRANTIES, warrantyOf } from '#core/gear'
  import { enhance } from '$lib/client/forms'
  import { useLive } from '$lib/client/live.svelte'
  import Fold from '$lib/components/ui/Fold.svelte'
  import GearTabs from '$lib/components/gear/GearTabs.svelte'
  import { WholeList } from '$lib/client/wholeList.svelte'
  import type { InventoryRow, PartInventoryRow } from '$lib/server/gear/inventory'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()
  const ROW = 33

  const filter = $derived(inventoryFilterOf(page.url.searchParams))
  const list = new WholeList<InventoryRow | PartInventoryRow>(
    () => data.list,
    () => `/gear/inventory/rows${data.isParts ? '?of=parts' : ''}`,
  )
  /** By the day: a filter of thousands of rows is not made anew each second. */
  const day = $derived(Math.floor(live.nowMs / 86_400_000))
  const shown = $derived(list.rows.filter((row) => fitsInventory(row, filter, day * 86_400_000)))
  const kinds = $derived([...data.about.kinds].sort())
  const query = $derived(
    [...page.url.searchParams]
      .filter(([, value]) => value !== '')
      .map((pair) => pair.map(encodeURIComponent).join('='))
      .join('&'),
  )
  const WARRANTY_WORDS: Record<Warranty, string> = {
    ended: 'ended',
    soon: 'ends within 90 days',
    later: 'holds for longer',
    unknown: 'not written down',
  }
  const sentence = $derived.by(() => {
    if (data.isParts) return `${data.about.count} parts in ${data.about.gear} gear.`
    const of = (wanted: Warranty): number =>
      data.about.warranties
        .filter(({ warrantyEnds }) => warrantyOf(warrantyEnds, live.nowMs) === wanted)
        .reduce((sum, { count }) => sum + count, 0)
    const [ended, soon, unknown] = [of('ended'), of('soon'), of('unknown')]
    if (unknown === data.about.count)
      return `${data.about.count} gear in the inventory; no warranty is written down yet.`
    const said = [
      ...(ended > 0 ? [`the warranty of ${ended} has ended`] : []),
      ...(soon > 0 ? [`that of ${soon} ends within 90 days`] : []),
      ...(unknown > 0 ? [`of ${unknown} it is not written down`] : []),
    ]
    return `${data.about.count} gear in the inventory${said.length === 0 ? '; all are under warranty' : `; ${said.join(', ')}`}.`
  })
  /** Rack and units; the room stands in the tip. */
  const shortPlace = (place: string): string => place.split(' · ').slice(-2).join(' · ')
  const own = $derived(data.fields.slice(0, 3))

  let scroller = $state<HTMLElement | null>(null)
  const virtual = createVirtualizer<HTMLElement, HTMLElement>({
    count: untrack(() => shown.length),
    getScrollElement: () => scroller,
    estimateSize: () => ROW,
    overscan: 12,
    initialRect: { width: 1000, height: 560 },
  })
  $effect(() => {
    const count = shown.length
    void scroller
    untrack(() => $virtual.setOptions({ count, getScrollElement: () => scroller }))
  })
  function set(name: string, value: string): void {
    const next = new URL(page.url)
    if (value === '') next.searchParams.delete(name)
    else next.searchParams.set(name, value)
    void goto(next, { replaceState: true, keepFocus: true, noScroll: true })
  }
  const COLUMNS = $derived(
    data.isParts
      ? 'grid-cols-[minmax(110px,1fr)_minmax(110px,1fr)_120px_minmax(130px,1.1fr)_minmax(110px,1fr)_80px_minmax(150px,1.2fr)_84px]'
      : 'grid-cols-[minmax(110px,1fr)_104px_minmax(110px,1fr)_minmax(84px,0.8fr)_56px_88px_minmax(150px,1.3fr)_minmax(96px,0.9fr)_84px]',
  )
</script>

<svelte:head><title>Inventory · {data.shell.site.name}</title></svelte:head>

<h1>{sentence}</h1>
<GearTabs />

<section class="panel" aria-label="Inventory">
  <div class="mb-2 flex flex-wrap items-center gap-2">
    <input
      class="field w-60"
      placeholder="Any words: name, model, serial, place…"
      aria-label="Search in the inventory"
      value={page.url.searchParams.get('q') ?? ''}
      oninput={(event) => set('q', event.currentTarget.value)}
    />
    <select
      class="field"
      aria-label="Of what"
      value={data.isParts ? 'parts' : ''}
      onchange={(event) => set('of', event.currentTarget.value)}
    >
      <option value="">Gear</option>
      <option value="parts">Parts</option>
    </select>
    <select
      class="field"
      aria-label="Kind"
      value={filter.kind}
      onchange={(event) => set('kind', event.currentTarget.value)}
    >
      <option value="">All kinds</option>
      {#each kinds as kind (kind)}<option value={kind}>{kind}</option>{/each}
    </select>
    {#if !data.isParts}
      <select
        class="field"
        aria-label="Warranty"
        value={filter.warranty}
        onchange={(event) => set('warranty', event.currentTarget.value)}
      >
        <option value="">Any warranty</option>
        {#each WARRANTIES as key (key)}<option value={key}>{WARRANTY_WORDS[key]}</option>{/each}
      </select>
    {/if}
    <select
      class="field"
      aria-label="Place"
      value={filter.place}
      onchange={(event) => set('place', event.currentTarget.value)}
    >
      <option value="">Anywhere</option>
      <option value="placed">Placed</option>
      <option value="stock">Not placed yet</option>
    </select>
    <span class="muted ml-auto">
      {list.isWhole ? shown.length : data.fitCount} of {data.about.count} · keep as
      <a class="link" href="/gear/inventory/file?{query}&as=csv" download>CSV</a>,
      <a class="link" href="/gear/inventory/file?{query}&as=xlsx" download>XLSX</a>
    </span>
  </div>
  {#if data.filters.length > 0 || (data.mayAdminister && query !== '')}
    <div class="mb-2 flex flex-wrap items-center gap-2">
      {#each data.filters as saved (saved.id)}
        <span class="border-rule inline-flex border">
          <a
            class="px-2 py-0.5 hover:underline"
            class:font-bold={saved.query === query}
            href="/gear/inventory?{saved.query}">{saved.name}</a
          >
          {#if data.mayAdminister}
            <form method="POST" action="?/dropFilter" use:enhance>
              <input type="hidden" name="id" value={saved.id} />
              <button class="border-rule border-l px-1.5 py-0.5" aria-label="Forget the filter {saved.name}"
                >×</button
              >
            </form>
          {/if}
        </span>
      {/each}
      {#if data.mayAdminister && query !== '' && !data.filters.some((saved) => saved.query === query)}
        <form method="POST" action="?/keepFilter" use:enhance class="inline-flex gap-1">
          <input type="hidden" name="query" value={query} />
          <input
            class="field w-44 py-0.5!"
            name="name"
            required
            maxlength="64"
            placeholder="Name for this filter"
            aria-label="Name for this filter"
          />
          <button class="btn">Keep it</button>
        </form>
      {/if}
    </div>
  {/if}
  <div class="grid {COLUMNS} text-ink-3 gap-2 text-[11px] font-semibold">
    {#if data.isParts}
      <span>Part</span><span>In</span><span>Kind</span><span>Model</span><span>Serial</span><span
        >Firmware</span
      ><span>Place</span><span>First seen</span>
    {:else}
      <span>Name</span><span>Kind</span><span>Model</span><span>Serial</span><span>Firmware</span><span
        >Warranty</span
      ><span>Place</span><span>Feeds</span><span>Last seen</span>
    {/if}
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -- a region that scrolls must be reachable by keyboard -->
  <div
    bind:this={scroller}
    class="max-h-[calc(100vh-290px)] overflow-y-auto"
    role="region"
    aria-label="List of the inventory"
    tabindex="0"
  >
    <ul class="relative" {@attach (node) => void (node.style.height = `${$virtual.getTotalSize()}px`)}>
      {#each $virtual.getVirtualItems() as item (item.index)}
        <li
          class="absolute inset-x-0 top-0"
          {@attach (node) => void (node.style.transform = `translateY(${item.start}px)`)}
          data-row
        >
          {#if data.isParts}
            {@const part = shown[item.index] as PartInventoryRow | undefined}
            {#if part !== undefined}
              <a
                href="/gear/{part.gearId}?part={part.id}"
                class="grid {COLUMNS} border-rule-2 hover:bg-accent-soft h-[33px] items-center gap-2 border-t"
                data-testid="inventory-row"
              >
                <b class="truncate font-[640]">{part.name}</b>
                <span class="truncate">{part.gear}</span>
                <span class="muted truncate">{part.kind}</span>
                <span class="muted truncate">{part.model}</span>
                <span class="truncate font-mono text-[11px]">{part.serial}</span>
                <span class="muted truncate">{part.firmware}</span>
                <span class="truncate font-mono text-[11px]" title={part.place}>{shortPlace(part.place)}</span
                >
                <span class="muted">{part.firstSeen}</span>
              </a>
            {/if}
          {:else}
            {@const gear = shown[item.index] as InventoryRow | undefined}
            {#if gear !== undefined}
              <a
                href="/gear/{gear.id}"
                class="grid {COLUMNS} border-rule-2 hover:bg-accent-soft h-[33px] items-center gap-2 border-t"
                data-testid="inventory-row"
              >
                <span class="truncate"
                  ><b class="font-[640]">{gear.name}</b>{#each own as field (field.id)}{@const value =
                      gear.own.find(([name]) => name === field.name)?.[1] ?? ''}{value === ''
                      ? ''
                      : ` · ${value}`}{/each}</span
                >
                <span class="muted truncate">{gear.kind}</span>
                <span class="muted truncate">{gear.model}</span>
                <span class="truncate font-mono text-[11px]">{gear.serial}</span>
                <span class="muted truncate">{gear.firmware}</span>
                <span
                  class="truncate {warrantyOf(gear.warrantyEnds, live.nowMs) === 'ended'
                    ? 'text-warn font-semibold'
                    : 'muted'}">{gear.warrantyEnds ?? ''}</span
                >
                <span class="truncate font-mono text-[11px]" title={gear.place}>{shortPlace(gear.place)}</span
                >
                <span class="muted truncate">{gear.feeds}</span>
                <span class="muted">{gear.lastSeen}</span>
              </a>
            {/if}
          {/if}
        </li>
      {/each}
    </ul>
    {#if shown.length === 0}<p class="muted border-rule-2 border-t py-3">Nothing fits these filters.</p>{/if}
  </div>
</section>

{#if data.mayAdminister}
  {@const message = form !== null && 'message' in form ? form.message : null}
  {@const done = form !== null && 'done' in form ? form.done : null}
  <Fold class="panel" titleClass="font-[640]" opens={message != null || done != null}>
    {#snippet title()}Own fields, and reading a list{/snippet}
    {#if message != null}<p class="text-crit mt-2" role="alert">{message}</p>{/if}
    {#if done != null}<p class="mt-2" role="status">{done}</p>{/if}
    <form
      method="POST"
      action="?/import"
      enctype="multipart/form-data"
      use:enhance
      class="mt-2 flex flex-wrap items-end gap-2"
    >
      <label class="grid gap-0.5"
        >A list as CSV or XLSX <input
          class="field w-72"
          type="file"
          name="file"
          accept=".csv,.xlsx"
          required
        /></label
      >
      <button class="btn btn-strong">Read it</button>
      <span class="muted max-w-xl"
        >Gear is found by Id, else Serial, else Name; taken over are Name, Warranty ends and your own fields.
        One wrong line, and nothing is changed. The file kept above is the form to fill in.</span
      >
    </form>
    <div class="border-rule-2 mt-3 flex flex-wrap items-end gap-3 border-t pt-3">
      {#each data.fields as field (field.id)}
        <form method="POST" action="?/dropField" use:enhance class="inline-flex items-center gap-2">
          <input type="hidden" name="id" value={field.id} />
          <span>{field.name} <span class="muted">{field.kind}</span></span>
          <button
            class="btn"
            onclick={(event) => {
              if (!confirm(`Take the field ${field.name} away, with what stands in it of all gear?`))
                event.preventDefault()
            }}>Take away</button
          >
        </form>
      {/each}
      <form method="POST" action="?/field" use:enhance class="inline-flex items-end gap-2">
        <label class="grid gap-0.5"
          >New field <input class="field w-44" name="name" required maxlength="40" /></label
        >
        <label class="grid gap-0.5"
          >is a <select class="field" name="kind"
            ><option value="text">text</option><option value="number">number</option><option value="date"
              >day</option
            ></select
          ></label
        >
        <button class="btn">Add field</button>
      </form>
    </div>
  </Fold>
{/if}
