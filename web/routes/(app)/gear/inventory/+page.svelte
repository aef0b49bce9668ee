<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { createVirtualizer } from '@tanstack/svelte-virtual'
  import { untrack } from 'svelte'
  import { inventoryFilterOf, fitsInventory, type Warranty, WARRANTIES, warrantyOf } from '#core/gear'
  import { useLive } from '$lib/client/live.svelte'
  import InventoryFields from '$lib/components/gear/InventoryFields.svelte'
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

<Panel aria-label="Inventory">
  <div class="mb-2 flex flex-wrap items-center gap-2">
    <Input
      class="w-60"
      placeholder="Any words: name, model, serial, place…"
      aria-label="Search in the inventory"
      defaultValue={page.url.searchParams.get('q') ?? ''}
      oninput={(event) => set('q', event.currentTarget.value)}
    />
    <Select
      aria-label="Of what"
      defaultValue={data.isParts ? 'parts' : ''}
      onchange={(value) => set('of', value)}
      options={[
        { value: '', label: 'Gear' },
        { value: 'parts', label: 'Parts' },
      ]}
    />
    <Select
      aria-label="Kind"
      defaultValue={filter.kind}
      onchange={(value) => set('kind', value)}
      options={[{ value: '', label: 'All kinds' }, ...kinds.map((kind) => ({ value: kind, label: kind }))]}
    />
    {#if !data.isParts}
      <Select
        aria-label="Warranty"
        defaultValue={filter.warranty}
        onchange={(value) => set('warranty', value)}
        options={[
          { value: '', label: 'Any warranty' },
          ...WARRANTIES.map((key) => ({ value: key, label: WARRANTY_WORDS[key] })),
        ]}
      />
    {/if}
    <Select
      aria-label="Place"
      defaultValue={filter.place}
      onchange={(value) => set('place', value)}
      options={[
        { value: '', label: 'Anywhere' },
        { value: 'placed', label: 'Placed' },
        { value: 'stock', label: 'Not placed yet' },
      ]}
    />
    <span class="text-ink-2 ml-auto text-xs">
      {list.isWhole ? shown.length : data.fitCount} of {data.about.count} · keep as
      <Link href="/gear/inventory/file?{query}&as=csv" download>CSV</Link>,
      <Link href="/gear/inventory/file?{query}&as=xlsx" download>XLSX</Link>
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
            <Form action="?/dropFilter">
              <input type="hidden" name="id" value={saved.id} />
              <Button
                look="bare"
                class="border-rule border-l px-1.5 py-0.5"
                aria-label="Forget the filter {saved.name}">×</Button
              >
            </Form>
          {/if}
        </span>
      {/each}
      {#if data.mayAdminister && query !== '' && !data.filters.some((saved) => saved.query === query)}
        <Form action="?/keepFilter" class="inline-flex gap-1">
          <input type="hidden" name="query" value={query} />
          <Input
            class="w-44 py-0.5!"
            name="name"
            required
            maxlength="64"
            placeholder="Name for this filter"
            aria-label="Name for this filter"
          />
          <Button>Save</Button>
        </Form>
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
                <span class="text-ink-2 truncate text-xs">{part.kind}</span>
                <span class="text-ink-2 truncate text-xs">{part.model}</span>
                <span class="truncate font-mono text-[11px]">{part.serial}</span>
                <span class="text-ink-2 truncate text-xs">{part.firmware}</span>
                <span class="truncate font-mono text-[11px]" title={part.place}>{shortPlace(part.place)}</span
                >
                <span class="text-ink-2 text-xs">{part.firstSeen}</span>
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
                <span class="text-ink-2 truncate text-xs">{gear.kind}</span>
                <span class="text-ink-2 truncate text-xs">{gear.model}</span>
                <span class="truncate font-mono text-[11px]">{gear.serial}</span>
                <span class="text-ink-2 truncate text-xs">{gear.firmware}</span>
                <span
                  class="truncate {warrantyOf(gear.warrantyEnds, live.nowMs) === 'ended'
                    ? 'text-warn font-semibold'
                    : 'text-ink-2 text-xs'}">{gear.warrantyEnds ?? ''}</span
                >
                <span class="truncate font-mono text-[11px]" title={gear.place}>{shortPlace(gear.place)}</span
                >
                <span class="text-ink-2 truncate text-xs">{gear.feeds}</span>
                <span class="text-ink-2 text-xs">{gear.lastSeen}</span>
              </a>
            {/if}
          {/if}
        </li>
      {/each}
    </ul>
    {#if shown.length === 0}<p class="text-ink-2 border-rule-2 border-t py-3 text-xs">
        Nothing fits these filters.
      </p>{/if}
  </div>
</Panel>

{#if data.mayAdminister}
  <InventoryFields
    fields={data.fields}
    message={(form !== null && 'message' in form ? form.message : null) ?? null}
    done={(form !== null && 'done' in form ? form.done : null) ?? null}
  />
{/if}
