<script lang="ts">
  import { STATE_WORDS } from '#core/gear'
  import { type FloorBox, type FloorView, isSolid, type PlanSubject, spanOf } from '#core/site'
  import type { PlanMoves } from './planMoves.svelte'
  import { PAD, type PlanScale } from './planScale'

  /** What stands or hangs in a room by itself: cooling, a UPS, a door, a camera, a probe. */
  let {
    gear,
    box,
    subject,
    plan,
    moves,
    isBeforeRack,
  }: {
    gear: FloorView
    box: FloorBox
    subject: PlanSubject
    plan: PlanScale
    moves: PlanMoves
    /** The number of a probe before a rack stands in the rack. */
    isBeforeRack: boolean
  } = $props()
  const key = $derived(`gear ${gear.id}`)
  const { x, y, w, h } = $derived(plan.drawn(box))
  const held = $derived(moves.holds(key))
  const middle = $derived({ x: plan.at(box.xMm + box.widthMm / 2), y: plan.at(box.yMm + box.depthMm / 2) })
  const isDoor = $derived(gear.kind === 'door')
  const first = $derived(gear.detail.split(', ')[0])
  const label = $derived(
    isDoor
      ? `door ${gear.name}, ${gear.detail || STATE_WORDS[gear.state]}`
      : `${gear.name}, ${STATE_WORDS[gear.state]}${gear.detail === '' ? '' : `, ${gear.detail}`}`,
  )
</script>

<a href="/gear/{gear.id}" aria-label={label} {...moves.editing(key, box)}>
  <title>{gear.name}: {gear.detail || (isDoor || isSolid(gear.kind) ? '' : 'nothing heard')}</title>
  {#if isSolid(gear.kind)}
    <rect {x} {y} width={w} height={h} class="solid state-{gear.state}" />
    {#if gear.kind === 'cooling'}
      {@const wave = `q${w / 8} -7 ${w / 4} 0t${w / 4} 0t${w / 4} 0`}
      <path d="M{x + 7} {y + 14}{wave}M{x + 7} {y + 21}{wave}" class="air" />
      <path d={plan.frontLine(box)} class="front" />
    {:else if gear.kind === 'generator'}
      <circle cx={x + w / 2} cy={y + h / 2 - 18} r="11" class="air" />
      <path d="M{x + w / 2 - 5} {y + h / 2 - 18}q2.5 -7 5 0t5 0" class="air" />
    {/if}
    <text x={x + w / 2} y={y + h / 2 + 6} class="name small">{gear.name}</text>
    <text x={x + w / 2} y={y + h / 2 + 19} class="value">{first}</text>
    {#if held !== null}<rect {x} {y} width={w} height={h} class={held} />{/if}
  {:else if isDoor}
    {@const isOpen = gear.detail.includes('open')}
    {@const down = box.yMm < plan.room.depthMm / 2}
    {@const hinge = down ? PAD : plan.at(plan.room.depthMm)}
    {@const leaf = plan.px(Math.max(spanOf(box).acrossMm, spanOf(box).downMm))}
    <path d="M{x} {hinge}h{leaf}" class="gap" />
    {#if isOpen}
      <path
        d="M{x} {hinge}v{down ? leaf : -leaf}A{leaf} {leaf} 0 0 {down ? 0 : 1} {x + leaf} {hinge}"
        class="door open"
      />
    {:else}
      <path d="M{x} {hinge}h{leaf}" class="door" />
    {/if}
    <text x={x + leaf / 2} y={down ? PAD - 7 : hinge + 14} class="tiny">
      {gear.name}{isOpen ? ', open' : ''}
    </text>
  {:else}
    {#if gear.kind === 'camera'}
      <path d={plan.viewOf({ ...gear, ...box })} class="view" />
      <path
        d="M{middle.x - 5} {middle.y - 4}h7v8h-7zM{middle.x + 2} {middle.y - 2}l4 -2v8l-4 -2z"
        class="camera state-{gear.state}"
      />
    {:else}
      <circle
        cx={middle.x}
        cy={middle.y}
        r="4"
        class="probe state-{gear.state}"
        class:silent={gear.detail === ''}
      />
      {#if subject === 'inlet' && gear.detail !== '' && !isBeforeRack}
        <text x={middle.x + 7} y={middle.y + 3.5} class="tiny left">{first}</text>
      {/if}
    {/if}
    {#if held !== null}<circle cx={middle.x} cy={middle.y} r="9" class={held} />{/if}
  {/if}
</a>
