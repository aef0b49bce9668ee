<script lang="ts">
  import './plan.css'
  import { STATE_WORDS } from '#core/gear'
  import { isSolid, type PlanSubject, type RoomView } from '#core/site'
  import PlanGear from './PlanGear.svelte'
  import PlanRack from './PlanRack.svelte'
  import { PlanMoves } from './planMoves.svelte'
  import { PAD, PlanScale } from './planScale'

  /** A room to scale, seen from above. With `move` its racks and floor can be moved: by the pointer, or by the arrow keys. */
  let {
    room,
    subject,
    width,
    height,
    move = null,
    say = () => undefined,
  }: {
    room: RoomView
    subject: PlanSubject
    width: number
    height: number
    move?: ((move: Record<string, unknown>) => void) | null
    say?: (problem: string | null) => void
  } = $props()

  const plan = $derived(new PlanScale(room, width, height))
  const moves = new PlanMoves(() => ({ room, scale: plan.scale, move, say }))
  const tile = $derived(plan.px(room.tileMm))
  const walls = $derived({ x: PAD, y: PAD, width: plan.px(room.widthMm), height: plan.px(room.depthMm) })
  const metre = $derived({ from: plan.width - PAD - plan.px(1000), to: plan.width - PAD, y: plan.height - 9 })

  const racks = $derived(
    room.racks.flatMap((rack) =>
      rack.xMm === null || rack.yMm === null
        ? []
        : [{ rack, box: moves.at(`rack ${rack.id}`, { ...rack, xMm: rack.xMm, yMm: rack.yMm }) }],
    ),
  )
  const ropes = $derived(room.floor.filter(({ kind }) => kind === 'rope'))
  // What is large lies under doors, and those under what is small.
  const layer = (kind: string): number => (isSolid(kind as never) ? 0 : kind === 'door' ? 1 : 2)
  const floor = $derived(
    room.floor
      .filter(({ kind }) => kind !== 'rope')
      .sort((one, other) => layer(one.kind) - layer(other.kind))
      .map((gear) => ({ gear, box: moves.at(`gear ${gear.id}`, gear) })),
  )
  const beforeRacks = $derived(new Set(racks.map(({ rack }) => rack.inletProbeId)))
</script>

<svg
  class="plan"
  width={plan.width}
  height={plan.height}
  role="group"
  aria-label="Plan of {room.name}, {(room.widthMm / 1000).toFixed(1)} by {(room.depthMm / 1000).toFixed(1)} m"
  class:editing={move !== null}
>
  <defs>
    <pattern id="tiles-{room.id}" width={tile} height={tile} patternUnits="userSpaceOnUse" x={PAD} y={PAD}>
      <path d="M{tile} 0V{tile}H0" class="tile" />
    </pattern>
  </defs>
  <rect {...walls} class="ground" />
  <rect {...walls} fill="url(#tiles-{room.id})" />
  <rect {...walls} class="wall" />

  {#each ropes as gear (gear.id)}
    <a href="/gear/{gear.id}" aria-label="leak rope {gear.name}, {gear.detail || STATE_WORDS[gear.state]}">
      <title>{gear.name}: {gear.detail}</title>
      <path d={plan.wayOf(gear.way)} class="rope {gear.state}" />
      <path d={plan.wayOf(gear.way)} class="rope-grip" />
    </a>
  {/each}
  {#each racks as { rack, box } (rack.id)}
    <PlanRack {rack} {box} {subject} {plan} {moves} />
  {/each}
  {#each floor as { gear, box } (gear.id)}
    <PlanGear {gear} {box} {subject} {plan} {moves} isBeforeRack={beforeRacks.has(gear.id)} />
  {/each}

  <path
    d="M{metre.from} {metre.y}H{metre.to}M{metre.from} {metre.y - 3}v6M{metre.to} {metre.y - 3}v6"
    class="measure"
  />
  <text x={metre.from - 6} y={metre.y + 3} class="tiny end">1 m</text>
</svg>
