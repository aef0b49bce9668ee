<script lang="ts">
  import { STATE_WORDS } from '#core/gear'
  import type { FloorBox, PlanSubject, RackView } from '#core/site'
  import type { PlanMoves } from './planMoves.svelte'
  import type { PlanScale } from './planScale'

  /** A rack, tinted by what the plan is about. */
  let {
    rack,
    box,
    subject,
    plan,
    moves,
  }: { rack: RackView; box: FloorBox; subject: PlanSubject; plan: PlanScale; moves: PlanMoves } = $props()
  const key = $derived(`rack ${rack.id}`)
  const { x, y, w, h } = $derived(plan.drawn(box))
  const held = $derived(moves.holds(key))
  const fill = $derived(subject === 'state' ? `state-${rack.state}` : rack.said[subject].band.tint)
  const value = $derived(
    subject === 'state' ? (rack.state === 'well' ? '' : STATE_WORDS[rack.state]) : rack.said[subject].text,
  )
  const words = $derived(
    subject === 'state'
      ? STATE_WORDS[rack.state]
      : `${rack.said[subject].text}, ${rack.said[subject].band.words}`,
  )
  const used = $derived(1 - rack.freeUnits / rack.heightUnits)
</script>

<a
  href="/rooms?room={plan.room.id}&view=racks&rack={rack.id}#rack-{rack.id}"
  aria-label="rack {rack.name}, {words}"
  data-testid="plan-rack"
  {...moves.editing(key, box)}
>
  <title>{rack.name}: {words}</title>
  <rect {x} {y} width={w} height={h} class="rack {fill}" />
  {#if subject === 'free'}
    <rect x={x + w - 7} y={y + 3 + (h - 6) * (1 - used)} width="4" height={(h - 6) * used} class="used" />
  {/if}
  <path d={plan.frontLine(box)} class="front" />
  <text x={x + w / 2} y={y + h / 2 - 3} class="name">{rack.name}</text>
  <text x={x + w / 2} y={y + h / 2 + 13} class="value {fill}">{value}</text>
  {#if held !== null}<rect {x} {y} width={w} height={h} class={held} />{/if}
</a>
