<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import DataTable from '$lib/components/ui/DataTable.svelte'
  import type { Column } from '$lib/components/ui/dataTable'
  import { MONO, SMALL } from '$lib/components/ui/looks'
  import Button from '$lib/components/ui/Button.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { inventoryFilterOf, fitsInventory, type Warranty, WARRANTIES, warrantyOf } from '#core/gear'
  import { useLive } from '$lib/client/live.svelte'
  import InventoryFields from '$lib/components/gear/InventoryFields.svelte'
  import GearTabs from '$lib/components/gear/GearTabs.svelte'
  import { WholeList } from '$lib/client/wholeList.svelte'
  import type { InventoryRow, PartInventoryRow } from '$lib/server/gear/inventory'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()
  const live = useLive()

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
  const own = $derived(data.fields.slice(0, 1))

  function set(name: string, value: string): void {
    const next = new URL(page.url)
    if (value === '') next.searchParams.delete(name)
    else next.searchParams.set(name, value)
    void goto(next, { replaceState: true, keepFocus: true, noScroll: true })
  }
  const sort = $derived(page.url.searchParams.get('sort') ?? '')
  const says = $derived(`${list.isWhole ? shown.length : data.fitCount} of ${data.about.count}`)
  const HEIGHT = 'max-h-[calc(100vh-290px)]'
  const PLACE: Column<{ readonly place: string }> = {
    key: 'place',
    label: 'Place',
    width: 'w-32 grow-[1.3]',
    looks: MONO,
    value: ({ place }) => place,
    text: ({ place }) => shortPlace(place),
    tip: ({ place }) => place,
  }
  const PARTS: readonly Column<PartInventoryRow>[] = [
    { key: 'part', label: 'Part', width: 'w-28 grow', value: ({ name }) => name },
    { key: 'in', label: 'In', width: 'w-28 grow', value: ({ gear }) => gear },
    { key: 'kind', label: 'Kind', width: 'w-28', looks: SMALL, value: ({ kind }) => kind },
    { key: 'model', label: 'Model', width: 'w-32 grow', looks: SMALL, value: ({ model }) => model },
    { key: 'serial', label: 'Serial', width: 'w-28 grow', looks: MONO, value: ({ serial }) => serial },
    { key: 'firmware', label: 'Firmware', width: 'w-20', looks: SMALL, value: ({ firmware }) => firmware },
    PLACE,
    { key: 'first', label: 'First seen', width: 'w-20', looks: SMALL, value: ({ firstSeen }) => firstSeen },
  ]
  const GEAR: readonly Column<InventoryRow>[] = $derived([
    { key: 'name', label: 'Name', width: 'w-24 grow', value: ({ name }) => name },
    ...data.fields.map(({ name }): Column<InventoryRow> => ({
      key: `own ${name}`,
      label: name,
      width: 'w-20',
      looks: SMALL,
      isExtra: !own.some((each) => each.name === name),
      value: (gear) => gear.own.find(([own]) => own === name)?.[1] || null,
    })),
    { key: 'kind', label: 'Kind', width: 'w-24', looks: SMALL, value: ({ kind }) => kind },
    { key: 'maker', label: 'Maker', width: 'w-28', looks: SMALL, isExtra: true, value: ({ maker }) => maker },
    { key: 'model', label: 'Model', width: 'w-28 grow', looks: SMALL, value: ({ model }) => model },
    { key: 'serial', label: 'Serial', width: 'w-24 grow-[0.8]', looks: MONO, value: ({ serial }) => serial },
    { key: 'firmware', label: 'Firmware', width: 'w-16', looks: SMALL, value: ({ firmware }) => firmware },
    { key: 'warranty', label: 'Warranty', width: 'w-22', value: ({ warrantyEnds }) => warrantyEnds },
    PLACE,
    { key: 'feeds', label: 'Feeds', width: 'w-24 grow-[0.9]', looks: SMALL, value: ({ feeds }) => feeds },
    {
      key: 'sources',
      label: 'Sources',
      width: 'w-32',
      looks: SMALL,
      isExtra: true,
      value: ({ sources }) => sources,
    },
    { key: 'tags', label: 'Tags', width: 'w-32', looks: SMALL, isExtra: true, value: ({ tags }) => tags },
    {
      key: 'first',
      label: 'First seen',
      width: 'w-20',
      looks: SMALL,
      isExtra: true,
      value: ({ firstSeen }) => firstSeen,
    },
    { key: 'last', label: 'Last seen', width: 'w-20', looks: SMALL, value: ({ lastSeen }) => lastSeen },
  ])
</script>

<svelte:head><title>Inventory · {data.shell.site.name}</title></svelte:head>

<h1>{sentence}</h1>
<GearTabs />

<Panel aria-label="Inventory">
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
  {#if data.isParts}
    <DataTable
      name="Parts"
      rows={shown as readonly PartInventoryRow[]}
      columns={PARTS}
      idOf={({ id }) => id}
      hrefOf={({ gearId, id }) => `/gear/${gearId}?part=${id}`}
      bind:sort={() => sort, (next) => set('sort', next)}
      {filters}
      {tools}
      {says}
      height={HEIGHT}
      rowTestid="inventory-row"
    />
  {:else}
    <DataTable
      name="Inventory"
      rows={shown as readonly InventoryRow[]}
      columns={GEAR}
      idOf={({ id }) => id}
      hrefOf={({ id }) => `/gear/${id}`}
      bind:sort={() => sort, (next) => set('sort', next)}
      cells={{ warranty }}
      {filters}
      {tools}
      {says}
      height={HEIGHT}
      rowTestid="inventory-row"
    />
  {/if}
</Panel>

{#if data.mayAdminister}
  <InventoryFields
    fields={data.fields}
    message={(form !== null && 'message' in form ? form.message : null) ?? null}
    done={(form !== null && 'done' in form ? form.done : null) ?? null}
  />
{/if}

{#snippet tools()}
  <span class="text-ink-2 text-xs"
    >All columns: <Link href="/gear/inventory/file?{query}&as=csv" download>CSV</Link>,
    <Link href="/gear/inventory/file?{query}&as=xlsx" download>XLSX</Link></span
  >
{/snippet}
{#snippet warranty({ warrantyEnds }: InventoryRow)}
  <span
    class={warrantyOf(warrantyEnds, live.nowMs) === 'ended'
      ? 'text-warn font-semibold'
      : 'text-ink-2 text-xs'}>{warrantyEnds ?? ''}</span
  >
{/snippet}
{#snippet filters()}
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
{/snippet}
