<script lang="ts">
  import Form from '$lib/components/ui/Form.svelte'
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Select from '$lib/components/ui/Select.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import Checkbox from '$lib/components/ui/Checkbox.svelte'
  import Input from '$lib/components/ui/Input.svelte'
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { createVirtualizer } from '@tanstack/svelte-virtual'
  import { untrack } from 'svelte'
  import { GEAR_KINDS } from '#core/catalogue'
  import { fitsGearList, GEAR_STATES, gearListFilterOf, STATE_WORDS } from '#core/gear'
  import ManyGear from '$lib/components/gear/ManyGear.svelte'
  import GearTabs from '$lib/components/gear/GearTabs.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import { WholeList } from '$lib/client/wholeList.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()

  const ROW = 37
  let marked = $state<ReadonlySet<number>>(new Set())
  const toggled = (id: number): ReadonlySet<number> =>
    new Set(marked.has(id) ? [...marked].filter((each) => each !== id) : [...marked, id])
  const COLUMNS =
    'grid grid-cols-[24px_minmax(120px,1.2fr)_130px_minmax(120px,1fr)_120px_minmax(150px,1.2fr)_120px] items-center gap-2'

  const filter = $derived(gearListFilterOf(page.url.searchParams))
  const list = new WholeList(
    () => data.list,
    () => '/gear/rows',
  )
  const shown = $derived(list.rows.filter((gear) => fitsGearList(gear, filter)))
  const all = $derived(shown.length > 0 && shown.every(({ id }) => marked.has(id)))
  const sentence = $derived.by(() => {
    const bad = data.unwell
    if (data.count === 0) return 'No gear is known yet. It appears when a first source is heard.'
    return bad === 0
      ? `All ${data.count} gear are well.`
      : `${bad} of ${data.count} ${bad === 1 ? 'needs' : 'need'} attention.`
  })

  /** Kinds as filters, the most frequent first. */
  const kinds = $derived(
    Object.entries(GEAR_KINDS)
      .flatMap(([key, { label, plural }]) => {
        const count = data.kinds[key] ?? 0
        return count === 0
          ? []
          : [
              {
                key,
                count,
                words:
                  count === 1 ? label.replace(/^[A-Z](?=[a-z])/, (first) => first.toLowerCase()) : plural,
              },
            ]
      })
      .toSorted((a, b) => b.count - a.count),
  )
  let scroller = $state<HTMLElement | null>(null)
  const rows = createVirtualizer<HTMLElement, HTMLElement>({
    count: untrack(() => shown.length),
    getScrollElement: () => scroller,
    estimateSize: () => ROW,
    overscan: 12,
    initialRect: { width: 1000, height: 640 },
  })
  $effect(() => {
    const count = shown.length
    void scroller
    untrack(() => $rows.setOptions({ count, getScrollElement: () => scroller }))
  })

  function set(name: string, value: string): void {
    const next = new URL(page.url)
    if (value === '') next.searchParams.delete(name)
    else next.searchParams.set(name, value)
    void goto(next, { replaceState: true, keepFocus: true, noScroll: true })
  }
</script>

<svelte:head><title>Gear · {data.shell.site.name}</title></svelte:head>

<h1>{sentence}</h1>
<GearTabs />

{#if data.pairs.length > 0}
  <Panel
    title="Possible duplicates"
    note="what is made one keeps all its readings, and can be taken apart again"
    id="pairs"
  >
    {#if form?.message}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
    {#each data.pairs as { a, b, why } (`${a.id} ${b.id}`)}
      <div
        class="border-rule-2 grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3 border-t py-1.5"
        data-testid="likely-pair"
      >
        <p>
          {#each [a, b] as each, index (each.id)}{index === 0 ? '' : ' and '}<Link
              class="font-[640]"
              href="/gear/{each.id}">{each.name}</Link
            >
            <span class="text-ink-2 text-xs"
              >({GEAR_KINDS[each.kind].label.toLowerCase()}, seen by {each.seenBy || 'nothing now'})</span
            >{/each}: {why}.
        </p>
        {#if data.mayAdminister}
          <Form class="flex gap-2">
            <input type="hidden" name="a" value={a.id} />
            <input type="hidden" name="b" value={b.id} />
            <Button look="strong" formaction="?/merge">Merge</Button>
            <Button formaction="?/apart">Keep apart</Button>
          </Form>
        {/if}
      </div>
    {/each}
  </Panel>
{/if}

<Panel aria-label="Gear">
  <div class="mb-2 flex flex-wrap gap-x-3 gap-y-0.5" role="group" aria-label="Kind">
    {#each [{ key: '', count: data.count, words: 'gear in all' }, ...kinds] as { key, count, words } (key)}
      <Button
        look="bare"
        class="text-ink-2 aria-pressed:text-ink aria-pressed:border-ink border-b-2 border-transparent hover:underline aria-pressed:font-[620]"
        aria-pressed={filter.kind === key}
        onclick={() => set('kind', key)}>{count} {words}</Button
      >
    {/each}
  </div>
  <div class="mb-2 flex items-center gap-3">
    <Input
      class="w-64"
      placeholder="Name, model, serial, place, tag"
      aria-label="Search in the list"
      defaultValue={page.url.searchParams.get('q') ?? ''}
      oninput={(event) => set('q', event.currentTarget.value)}
    />
    <Select
      aria-label="Place"
      defaultValue={filter.place}
      onchange={(value) => set('place', value)}
      options={[
        { value: '', label: 'Anywhere' },
        { value: 'stock', label: 'Not placed yet' },
        { value: 'placed', label: 'Placed' },
      ]}
    />
    <Select
      aria-label="State"
      defaultValue={filter.state}
      onchange={(value) => set('state', value)}
      options={[
        { value: '', label: 'All states' },
        ...GEAR_STATES.map((key) => ({ value: key, label: STATE_WORDS[key] })),
      ]}
    />
    <span class="text-ink-2 ml-auto text-xs"
      >{list.isWhole ? shown.length : data.fitCount} of {data.count}</span
    >
  </div>
  {#if form !== null && 'said' in form}<p class="mb-2" role="status">Done: {form.said}.</p>{/if}
  {#if marked.size > 0}
    <ManyGear
      ids={[...marked]}
      racks={data.racks}
      ownFields={data.ownFields}
      mayAdminister={data.mayAdminister}
      done={() => (marked = new Set())}
    />
  {/if}
  <div class={['grid items-center', data.mayOperate && 'grid-cols-[28px_minmax(0,1fr)]']}>
    {#if data.mayOperate}
      <Checkbox
        aria-label="Select all shown"
        defaultChecked={all}
        onchange={() => (marked = all ? new Set() : new Set(shown.slice(0, 500).map(({ id }) => id)))}
      />
    {/if}
    <div class="{COLUMNS} text-ink-3 text-[11px] font-semibold">
      <span></span><span>Name</span><span>Kind</span><span>Model</span><span>Serial</span><span>Place</span
      ><span>State</span>
    </div>
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -- a region that scrolls must be reachable by keyboard -->
  <div
    bind:this={scroller}
    class="max-h-[calc(100vh-230px)] overflow-y-auto"
    role="region"
    aria-label="List of gear"
    tabindex="0"
  >
    <ul class="relative" {@attach (node) => void (node.style.height = `${$rows.getTotalSize()}px`)}>
      {#each $rows.getVirtualItems() as item (item.index)}
        {@const gear = shown[item.index]}
        {#if gear !== undefined}
          <li
            class={[
              'absolute inset-x-0 top-0 grid items-center',
              data.mayOperate && 'grid-cols-[28px_minmax(0,1fr)]',
            ]}
            {@attach (node) => void (node.style.transform = `translateY(${item.start}px)`)}
            data-row
          >
            {#if data.mayOperate}
              <Checkbox
                aria-label="Mark {gear.name}"
                defaultChecked={marked.has(gear.id)}
                onchange={() => (marked = toggled(gear.id))}
              />
            {/if}
            <a
              href="/gear/{gear.id}"
              class="{COLUMNS} border-rule-2 hover:bg-accent-soft h-[37px] border-t"
              data-testid="gear-row"
            >
              <Glyph state={gear.state} />
              <b class="truncate font-[640]">{gear.name}</b>
              <span class="text-ink-2 text-xs">{GEAR_KINDS[gear.kind].label}</span>
              <span class="text-ink-2 truncate text-xs">{gear.model}</span>
              <span class="truncate font-mono text-[11px]">{gear.serial}</span>
              <span class="truncate font-mono text-[11px]">{gear.place ?? ''}</span>
              <span class="text-ink-2 text-xs">
                {STATE_WORDS[gear.state]}{gear.openCount > 0 ? `, ${gear.openCount} open` : ''}
              </span>
            </a>
          </li>
        {/if}
      {/each}
    </ul>
    {#if shown.length === 0}<p class="text-ink-2 border-rule-2 border-t py-3 text-xs">
        Nothing fits these filters.
      </p>{/if}
  </div>
</Panel>
