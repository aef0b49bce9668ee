<script lang="ts">
  import Link from '$lib/components/ui/Link.svelte'
  import Panel from '$lib/components/ui/Panel.svelte'
  import Button from '$lib/components/ui/Button.svelte'
  import { goto, invalidate } from '$app/navigation'
  import { page } from '$app/state'
  import { untrack } from 'svelte'
  import { GEAR_KINDS, gearKindOf, type GearKind } from '#core/catalogue'
  import { FACES, placingProblem, PLAN_SUBJECTS, tryPlace, unitLabel, usualSize } from '#core/site'
  import { GEAR_STATES, STATE_WORDS } from '#core/gear'
  import { postMove } from '$lib/client/requests'
  import Elevation, { type Carried } from '$lib/components/site/Elevation.svelte'
  import Glyph from '$lib/components/ui/Glyph.svelte'
  import PlanLegend from '$lib/components/site/PlanLegend.svelte'
  import RoomForms from '$lib/components/site/RoomForms.svelte'
  import RoomPlan from '$lib/components/site/RoomPlan.svelte'
  import type { MountedView, RackView } from '#core/site'
  import type { PageProps } from './$types'

  let { data, form }: PageProps = $props()

  const SUBJECTS = { state: 'State', inlet: 'Inlet temperature', power: 'Power', free: 'Free units' } as const
  const VIEWS = { plan: 'Plan', front: 'Racks, front', rear: 'Racks, rear' } as const
  const USUAL_HEIGHT: Partial<Record<GearKind, number>> = {
    server: 2,
    host: 2,
    array: 4,
    chassis: 10,
    ups: 3,
    recorder: 2,
  }
  const isEditing = $derived(data.mayBuild && page.url.searchParams.has('edit'))

  function show(changes: Record<string, string | null>): string {
    const next = new URL(page.url)
    for (const [name, value] of Object.entries(changes)) {
      if (value === null) next.searchParams.delete(name)
      else next.searchParams.set(name, value)
    }
    return `${next.pathname}${next.search}`
  }

  let notice = $state<string | null>(null)
  let problem = $state<string | null>(null)
  let undos = $state.raw<readonly unknown[]>([])
  let carried = $state.raw<Carried | null>(null)

  // One after the other: a step back must not overtake the one before it.
  let moving: Promise<void> = Promise.resolve()
  const inTurn = (work: () => Promise<void>): Promise<void> => (moving = moving.then(work, work))
  const move = (wanted: unknown): Promise<void> => inTurn(() => post(wanted, false))
  const undo = (): Promise<void> =>
    inTurn(async () => {
      const last = undos.at(-1)
      if (last === undefined) return
      undos = undos.slice(0, -1)
      await post(last, true)
    })

  async function post(wanted: unknown, isUndo: boolean): Promise<void> {
    const done = await postMove(wanted)
    if (done.kind === 'refused') {
      problem = done.message
      notice = null
    } else {
      problem = null
      notice = isUndo ? `Undone. ${done.sentence}` : done.sentence
      if (!isUndo) undos = [...undos, done.undo]
    }
    await invalidate('rack:places')
  }

  const racks = $derived(data.room?.racks ?? [])
  const carriedRack = $derived(racks.find((rack) => rack.id === carried?.rackId) ?? null)
  const carriedProblem = $derived(
    carried === null || carriedRack === null
      ? null
      : placingProblem(tryPlace({ ...carried }, carriedRack), carried, carriedRack.name),
  )

  function lift(gear: MountedView, rack: RackView): void {
    problem = null
    const { id, name, heightUnits, face, unit } = gear
    carried = { id, name, heightUnits, face, unit, rackId: rack.id }
  }
  function liftFromStock(gear: { id: number; name: string; kind: GearKind }): void {
    problem = null
    const first = racks[0]
    const heightUnits = USUAL_HEIGHT[gear.kind] ?? 1
    carried = { id: gear.id, name: gear.name, heightUnits, face: 'both', unit: 1, rackId: first?.id ?? null }
  }
  function hover(rackId: number, unit: number): void {
    const rack = racks.find(({ id }) => id === rackId)
    if (carried === null || rack === undefined) return
    const highest = Math.max(1, rack.heightUnits - carried.heightUnits + 1)
    const next = Math.min(highest, Math.max(1, unit))
    if (carried.rackId !== rackId || carried.unit !== next) carried = { ...carried, rackId, unit: next }
  }
  function setDown(): void {
    const done = carried
    carried = null
    if (done === null || done.rackId === null) return
    const rack = racks.find(({ id }) => id === done.rackId)!
    const { unit, heightUnits, face } = done
    const refusal = placingProblem(tryPlace({ ...done }, rack), done, rack.name)
    if (refusal !== null) {
      problem = refusal
      notice = null
      return
    }
    void move({ what: 'mount', gearId: done.id, place: { rackId: done.rackId, unit, heightUnits, face } })
  }
  function toStock(): void {
    const done = carried
    carried = null
    if (done !== null) void move({ what: 'mount', gearId: done.id, place: null })
  }
  function stand(gear: { id: number; kind: GearKind }): void {
    if (data.room === null) return
    const { widthMm, depthMm } = usualSize(gear.kind)
    const xMm = Math.round((data.room.widthMm - widthMm) / 2)
    const yMm = gear.kind === 'door' ? 0 : Math.max(0, data.room.depthMm - depthMm - 200)
    void move({ what: 'stand', gearId: gear.id, roomId: data.room.id, xMm, yMm, turn: 180 })
  }

  function onkeydown(event: KeyboardEvent): void {
    if (isEditing && (event.ctrlKey || event.metaKey) && event.key === 'z') {
      event.preventDefault()
      void undo()
      return
    }
    if (carried === null) return
    const at = racks.findIndex((rack) => rack.id === carried!.rackId)
    const step = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] }[event.key]
    if (step !== undefined) {
      const rack = racks[Math.min(racks.length - 1, Math.max(0, at + step[0]!))]
      if (rack !== undefined) hover(rack.id, carried.unit + step[1]!)
    } else if (event.key === 'f') {
      carried = { ...carried, face: FACES[(FACES.indexOf(carried.face) + 1) % FACES.length]! }
    } else if (event.key === '+' || event.key === '-') {
      const heightUnits = Math.max(1, carried.heightUnits + (event.key === '+' ? 1 : -1))
      carried = { ...carried, heightUnits }
    } else if (event.key === 'Enter') setDown()
    else if (event.key === 's') toStock()
    else if (event.key === 'Escape') carried = null
    else return
    event.preventDefault()
    event.stopPropagation()
  }

  // A link from the plan leads to a rack among many.
  $effect(() => {
    const wanted = page.url.searchParams.get('rack')
    if (wanted !== null && data.view !== 'plan')
      untrack(() => document.getElementById(`rack-${wanted}`)?.scrollIntoView({ block: 'nearest' }))
  })

  const bad = $derived(
    data.room === null
      ? []
      : [
          ...data.room.racks.flatMap((rack) =>
            rack.gear.map((gear) => ({ ...gear, place: `${rack.name} · ${unitLabel(gear)}` })),
          ),
          ...data.room.floor.map((gear) => ({ ...gear, place: GEAR_KINDS[gear.kind].label.toLowerCase() })),
        ]
          .filter(({ state }) => state !== 'well')
          .sort((a, b) => GEAR_STATES.indexOf(a.state) - GEAR_STATES.indexOf(b.state)),
  )
  const fit = $derived(
    Math.max(92, Math.min(150, Math.floor(1010 / Math.max(1, Math.min(racks.length, 10))) - 6)),
  )
</script>

<svelte:head><title>{data.room?.name ?? 'Rooms'} · {data.shell.site.name}</title></svelte:head>
<svelte:window onkeydowncapture={onkeydown} />

<h1>{data.sentence}</h1>

<div class="flex flex-wrap items-center gap-2">
  <nav class="seg" aria-label="Rooms">
    {#each data.rooms as room (room.id)}
      <a
        href={show({ room: String(room.id), rack: null })}
        aria-current={room.id === data.room?.id ? 'page' : undefined}
      >
        {room.name}
        {#if room.state !== 'well'}<Glyph state={room.state} />{/if}
      </a>
    {/each}
  </nav>
  <nav class="seg" aria-label="View">
    {#each Object.entries(VIEWS) as [key, label] (key)}
      <a href={show({ view: key })} aria-current={key === data.view ? 'page' : undefined}>{label}</a>
    {/each}
  </nav>
  {#if data.view === 'plan'}
    <nav class="seg" aria-label="What the plan shows">
      {#each PLAN_SUBJECTS as key (key)}
        <a href={show({ show: key })} aria-current={key === data.subject ? 'page' : undefined}
          >{SUBJECTS[key]}</a
        >
      {/each}
    </nav>
  {/if}
  {#if data.mayBuild}
    <span class="ml-auto flex items-center gap-2">
      {#if undos.length > 0}<Button onclick={() => void undo()}>Undo</Button>{/if}
      <Button href={show({ edit: isEditing ? null : '1' })} look={isEditing ? 'plain' : 'strong'}
        >{isEditing ? 'Done moving' : 'Move things'}</Button
      >
    </span>
  {/if}
</div>

{#if isEditing}
  <!-- Room for two lines: what is said while something is carried must not move the racks away from under it. -->
  <p class="h-10" aria-live="polite" data-testid="move-says">
    {#if carried !== null}
      <b>{carried.name}</b>
      {carriedRack === null ? '' : `in ${carriedRack.name}, ${unitLabel(carried)}`}{carried.face === 'both'
        ? ''
        : `, ${carried.face}`}:
      {#if carriedProblem !== null}<span class="text-crit">{carriedProblem}</span>{:else}free.{/if}
      <span class="text-ink-2 text-xs"
        ><kbd>↑↓</kbd> unit <kbd>←→</kbd> rack <kbd>f</kbd> face <kbd>+−</kbd> height <kbd>Enter</kbd> set
        down
        <kbd>s</kbd> to the stock <kbd>Esc</kbd> leave</span
      >
    {:else if problem !== null}<span class="text-crit" role="alert">{problem}</span>
    {:else if notice !== null}{notice}
    {:else if data.view === 'plan'}<span class="text-ink-2 text-xs"
        >Drag a rack or a thing on the floor, or focus it and press the arrow keys; <kbd>r</kbd> turns it.</span
      >
    {:else}<span class="text-ink-2 text-xs"
        >Drag a gear to other units, or focus it and press <kbd>m</kbd>. Take one from the stock the same way.</span
      >{/if}
  </p>
{/if}

{#if data.room === null}
  <Panel>
    <p class="text-ink-2 text-xs">No rooms yet. Add a room below, then a rack, or import a plan.</p>
  </Panel>
{:else if data.view === 'plan'}
  <div class="grid grid-cols-[minmax(0,1fr)_300px] items-start gap-4">
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
        move={isEditing ? (wanted) => void move(wanted) : null}
        say={(words) => (problem = words)}
      />
    </Panel>
    <div class="grid gap-3.5">
      <PlanLegend room={data.room} subject={data.subject} />
      {#if !isEditing}{@render waits()}{/if}
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
      {carried}
      lift={isEditing ? lift : null}
      {hover}
      drop={setDown}
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

{#snippet waits()}
  <Panel title="Racks that wait" note={bad.length === 0 ? '' : bad.length} id="waits">
    <ul>
      {#each bad as each (each.id)}
        <li class="border-rule-2 border-t py-1.5" data-row>
          <a
            href="/gear/{each.id}"
            class="grid grid-cols-[20px_minmax(0,1fr)_auto] items-center gap-1 hover:underline"
          >
            <Glyph state={each.state} />
            <span class="min-w-0"
              ><b class="font-[640]">{each.name}</b>
              <span class="place inline-block">{each.place}</span></span
            >
            <span class="text-ink-2 text-xs">{STATE_WORDS[each.state]}</span>
          </a>
        </li>
      {:else}
        <li class="text-ink-2 text-xs">Nothing here needs anybody.</li>
      {/each}
    </ul>
  </Panel>
{/snippet}

{#snippet stockList()}
  <Panel title="In stock" note={`${data.stock.length} not placed yet`} id="stock">
    <ul class="flex {data.view === 'plan' ? 'max-h-64' : 'max-h-16'} flex-wrap gap-1.5 overflow-y-auto">
      {#each data.stock as each (each.id)}
        <li>
          <Button
            draggable={data.view !== 'plan' && gearKindOf(each.kind).isRacked}
            ondragstart={(event) => {
              event.dataTransfer?.setData('text/plain', each.name)
              liftFromStock(each)
            }}
            onclick={() => {
              if (data.view !== 'plan' && gearKindOf(each.kind).isRacked) liftFromStock(each)
              else if (data.view === 'plan' && gearKindOf(each.kind).isFloor) stand(each)
              else
                problem =
                  data.view === 'plan'
                    ? `${each.name} goes into a rack: choose “Racks, front” or “rear”.`
                    : `${each.name} goes on the floor or a wall: choose “Plan”.`
            }}
            >{each.name}
            <span class="text-ink-2 text-xs">{GEAR_KINDS[each.kind].label.toLowerCase()}</span></Button
          >
        </li>
      {:else}
        <li class="text-ink-2 text-xs">Everything that stands somewhere has its place.</li>
      {/each}
    </ul>
  </Panel>
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

<style>
  .seg {
    display: inline-flex;
    border: 1px solid var(--rule);
    background: var(--sheet);
    border-radius: 2px;
  }
  .seg a {
    display: inline-flex;
    gap: 6px;
    align-items: center;
    padding: 4px 11px;
    font-size: 12px;
    font-weight: 550;
    color: var(--ink-2);
    white-space: nowrap;
  }
  .seg a + a {
    border-left: 1px solid var(--rule);
  }
  .seg a[aria-current] {
    background: var(--ink);
    color: var(--sheet);
  }
  .seg a:hover:not([aria-current]) {
    background: var(--accent-soft);
  }
  kbd {
    font: 10px var(--font-mono);
    border: 1px solid var(--rule);
    border-radius: 2px;
    padding: 0 4px;
    margin-left: 8px;
  }
</style>
