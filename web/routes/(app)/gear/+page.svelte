<script lang="ts">
  import { goto } from '$app/navigation'
  import { page } from '$app/state'
  import { createVirtualizer } from '@tanstack/svelte-virtual'
  import { untrack } from 'svelte'
  import { GEAR_KINDS } from '#core/catalogue'
  import { fitsGearList, GEAR_STATES, gearListFilterOf, STATE_WORDS } from '#core/gear'
  import { enhance } from '$lib/client/forms'
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
    const kinds = Object.entries(GEAR_KINDS).flatMap(([key, { label, plural }]) => {
      const count = data.kinds[key] ?? 0
      return count === 0
        ? []
        : [`${count} ${count === 1 ? label.toLowerCase().replace('ups', 'UPS') : plural}`]
    })
    if (data.count === 0) return 'No gear is known yet. It appears when a first source is heard.'
    return `${bad === 0 ? 'All gear is well' : `${bad} of ${data.count} gear ${bad === 1 ? 'needs' : 'need'} somebody`}: ${kinds.join(', ')} watched.`
  })

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
  <section class="panel" aria-labelledby="pairs">
    <h2 class="panel-title" id="pairs">
      Likely one <span>what is made one keeps all its readings, and can be taken apart again</span>
    </h2>
    {#if form?.message}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
    {#each data.pairs as { a, b, why } (`${a.id} ${b.id}`)}
      <div
        class="border-rule-2 grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3 border-t py-1.5"
        data-testid="likely-pair"
      >
        <p>
          {#each [a, b] as each, index (each.id)}{index === 0 ? '' : ' and '}<a
              class="link font-[640]"
              href="/gear/{each.id}">{each.name}</a
            >
            <span class="muted"
              >({GEAR_KINDS[each.kind].label.toLowerCase()}, seen by {each.seenBy || 'nothing now'})</span
            >{/each}: {why}.
        </p>
        {#if data.mayAdminister}
          <form method="POST" use:enhance class="flex gap-2">
            <input type="hidden" name="a" value={a.id} />
            <input type="hidden" name="b" value={b.id} />
            <button class="btn btn-strong" formaction="?/merge">They are one</button>
            <button class="btn" formaction="?/apart">They are two</button>
          </form>
        {/if}
      </div>
    {/each}
  </section>
{/if}

<section class="panel" aria-label="Gear">
  <div class="mb-2 flex items-center gap-3">
    <input
      class="field w-64"
      placeholder="Name, model, serial, place, tag"
      aria-label="Search in the list"
      value={page.url.searchParams.get('q') ?? ''}
      oninput={(event) => set('q', event.currentTarget.value)}
    />
    <select
      class="field"
      aria-label="Kind"
      value={filter.kind}
      onchange={(event) => set('kind', event.currentTarget.value)}
    >
      <option value="">All kinds</option>
      {#each Object.entries(GEAR_KINDS) as [key, { label }] (key)}<option value={key}>{label}</option>{/each}
    </select>
    <select
      class="field"
      aria-label="Place"
      value={filter.place}
      onchange={(event) => set('place', event.currentTarget.value)}
    >
      <option value="">Anywhere</option>
      <option value="stock">Not placed yet</option>
      <option value="placed">Placed</option>
    </select>
    <select
      class="field"
      aria-label="State"
      value={filter.state}
      onchange={(event) => set('state', event.currentTarget.value)}
    >
      <option value="">All states</option>
      {#each GEAR_STATES as key (key)}<option value={key}>{STATE_WORDS[key]}</option>{/each}
    </select>
    <span class="muted ml-auto">{list.isWhole ? shown.length : data.fitCount} of {data.count}</span>
  </div>
  {#if form !== null && 'said' in form}<p class="mb-2" role="status">Done: {form.said}.</p>{/if}
  {#if form?.message && data.pairs.length === 0}<p class="text-crit mb-2" role="alert">{form.message}</p>{/if}
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
      <input
        type="checkbox"
        aria-label="Mark all that is shown"
        checked={all}
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
              <input
                type="checkbox"
                aria-label="Mark {gear.name}"
                checked={marked.has(gear.id)}
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
              <span class="muted">{GEAR_KINDS[gear.kind].label}</span>
              <span class="muted truncate">{gear.model}</span>
              <span class="truncate font-mono text-[11px]">{gear.serial}</span>
              <span class="truncate font-mono text-[11px]">{gear.place ?? ''}</span>
              <span class="muted">
                {STATE_WORDS[gear.state]}{gear.openCount > 0 ? `, ${gear.openCount} open` : ''}
              </span>
            </a>
          </li>
        {/if}
      {/each}
    </ul>
    {#if shown.length === 0}<p class="muted border-rule-2 border-t py-3">Nothing fits these filters.</p>{/if}
  </div>
</section>
