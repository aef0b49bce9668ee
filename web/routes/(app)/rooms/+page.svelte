<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import { goto, invalidate } from '$app/navigation'
  import { page } from '$app/state'
  import { untrack } from 'svelte'
  import { PLAN_SUBJECTS } from '#core/site'
  import Elevation from '$lib/components/site/Elevation.svelte'
  import { Carrying } from '$lib/components/site/carrying.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import MoveSays from '$lib/components/site/MoveSays.svelte'
  import Segments from '$lib/components/ui/Segments.svelte'
  import Stock from '$lib/components/site/Stock.svelte'
  import RoomNeeds from '$lib/components/site/RoomNeeds.svelte'
  import PlanLegend from '$lib/components/site/PlanLegend.svelte'
  import RoomForms from '$lib/components/site/RoomForms.svelte'
  import RoomPlan from '$lib/components/site/RoomPlan.svelte'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()

  const SUBJECTS = { state: 'State', inlet: 'Inlet temperature', power: 'Power', free: 'Free units' } as const
  const VIEWS = { plan: 'Plan', front: 'Racks, front', rear: 'Racks, rear' } as const
  const isEditing = $derived(data.mayBuild && page.url.searchParams.has('edit'))

  function show(changes: Record<string, string | null>): string {
    const next = new URL(page.url)
    for (const [name, value] of Object.entries(changes)) {
      if (value === null) next.searchParams.delete(name)
      else next.searchParams.set(name, value)
    }
    return `${next.pathname}${next.search}`
  }

  const racks = $derived(data.room?.racks ?? [])
  const carrying = new Carrying({ racks: () => racks, moved: () => invalidate('rack:places') })

  function onkeydown(event: KeyboardEvent): void {
    if (isEditing && (event.ctrlKey || event.metaKey) && event.key === 'z') {
      event.preventDefault()
      carrying.undo()
      return
    }
    if (!carrying.key(event.key)) return
    event.preventDefault()
    event.stopPropagation()
  }

  // A link from the plan leads to a rack among many.
  $effect(() => {
    const wanted = page.url.searchParams.get('rack')
    if (wanted !== null && data.view !== 'plan')
      untrack(() => document.getElementById(`rack-${wanted}`)?.scrollIntoView({ block: 'nearest' }))
  })

  const fit = $derived(
    Math.max(92, Math.min(150, Math.floor(1010 / Math.max(1, Math.min(racks.length, 10))) - 6)),
  )
</script>

<svelte:head><title>{data.room?.name ?? 'Rooms'} · {data.shell.site.name}</title></svelte:head>
<svelte:window onkeydowncapture={onkeydown} />

<h1>{data.sentence}</h1>

<div class="flex flex-wrap items-center gap-2">
  <Segments
    label="Rooms"
    items={data.rooms.map(({ id, name, state }) => ({
      href: show({ room: String(id), rack: null }),
      label: name,
      isCurrent: id === data.room?.id,
      state,
    }))}
  >
    {#snippet mark({ state })}{#if state !== 'well'}<Glyph {state} />{/if}{/snippet}
  </Segments>
  <Segments
    label="View"
    items={Object.entries(VIEWS).map(([view, label]) => ({
      href: show({ view }),
      label,
      isCurrent: view === data.view,
    }))}
  />
  {#if data.view === 'plan'}
    <Segments
      label="What the plan shows"
      items={PLAN_SUBJECTS.map((subject) => ({
        href: show({ show: subject }),
        label: SUBJECTS[subject],
        isCurrent: subject === data.subject,
      }))}
    />
  {/if}
  {#if data.mayBuild}
    <span class="ml-auto flex items-center gap-2">
      {#if carrying.undos.length > 0}<Button onclick={() => carrying.undo()}>Undo</Button>{/if}
      <Button href={show({ edit: isEditing ? null : '1' })} look={isEditing ? 'plain' : 'strong'}
        >{isEditing ? 'Done moving' : 'Move things'}</Button
      >
    </span>
  {/if}
</div>

{#if isEditing}
  <MoveSays {carrying} isPlan={data.view === 'plan'} />
{/if}

{#if data.room === null}
  <Panel>
    <p class="text-ink-2 text-xs">No rooms yet. Add a room below, then a rack, or import a plan.</p>
  </Panel>
{:else if data.view === 'plan'}
  <div class="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_300px]">
    <Panel
      title={`${data.room.name}${data.room.building === null ? '' : `, ${data.room.building}`}`}
      note={`${(data.room.widthMm / 1000).toFixed(1)} × ${(data.room.depthMm / 1000).toFixed(1)} m, ${racks.length} racks; the thick edge is the front`}
      aria-label="Plan"
    >
      <RoomPlan
        room={data.room}
        subject={data.subject}
        width={706}
        height={556}
        move={isEditing ? (wanted) => carrying.move(wanted) : null}
        say={(words) => (carrying.problem = words)}
      />
    </Panel>
    <div class="grid gap-3.5">
      <PlanLegend room={data.room} subject={data.subject} />
      {#if !isEditing}<RoomNeeds room={data.room} />{/if}
      {#if isEditing}{@render stockList()}{/if}
    </div>
  </div>
{:else}
  {#if isEditing}{@render stockList()}{/if}
  <Panel
    title={`${data.room.name}, seen from the ${data.view}`}
    note={`dashed: mounted on the other side${data.view === 'rear' ? '; the strips at the sides are the PDUs' : ''}`}
    aria-label="Racks"
  >
    <Elevation
      {racks}
      side={data.view}
      rackWidth={fit}
      unitHeight={racks.length > 6 ? 12.5 : 14}
      carried={carrying.carried}
      lift={isEditing ? (gear, rack) => carrying.lift(gear, rack) : null}
      hover={(rackId, unit) => carrying.hover(rackId, unit)}
      drop={() => carrying.setDown()}
    />
    {#if racks.length > 0}
      <p class="text-ink-2 mt-2 text-xs">
        A sheet to print:
        {#each racks as rack (rack.id)}<Link class="mr-2" href="/rooms/rack/{rack.id}.pdf">{rack.name}</Link
          >{/each}
      </p>
    {/if}
  </Panel>
{/if}

{#snippet stockList()}
  <Stock
    stock={data.stock}
    isPlan={data.view === 'plan'}
    lift={(gear) => carrying.liftFromStock(gear)}
    stand={(gear) => {
      if (data.room !== null) carrying.stand(gear, data.room)
    }}
    refuse={(why) => (carrying.problem = why)}
  />
{/snippet}

{#if data.mayBuild && (isEditing || data.room === null)}
  <RoomForms
    rooms={data.rooms}
    room={data.room}
    message={form?.message ?? null}
    done={(form !== null && 'done' in form ? form.done : null) ?? null}
    gone={() => void goto('/rooms?edit=1')}
  />
{/if}
