<script lang="ts">
  import { STATE_WORDS } from '#core/gear'
  import {
    type FloorBox,
    floorProblem,
    isSolid,
    type PlanSubject,
    snap,
    spanOf,
    type Standing,
    type Turn,
    TURNS,
  } from '#core/site'
  import type { FloorView, RackView, RoomView } from '#core/site'

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

  const PAD = 22
  const scale = $derived(Math.min((width - 2 * PAD) / room.widthMm, (height - 2 * PAD) / room.depthMm))
  const px = (mm: number): number => mm * scale
  const X = (mm: number): number => PAD + px(mm)
  const drawnWidth = $derived(px(room.widthMm) + 2 * PAD)
  const drawnHeight = $derived(px(room.depthMm) + 2 * PAD)

  interface Dragged {
    readonly key: string
    readonly box: FloorBox
    readonly problem: string | null
  }
  let dragged = $state.raw<Dragged | null>(null)

  const racks = $derived(
    room.racks.flatMap((rack) =>
      rack.xMm === null || rack.yMm === null
        ? []
        : [{ rack, box: at(`rack ${rack.id}`, { ...rack, xMm: rack.xMm, yMm: rack.yMm }) }],
    ),
  )
  const floor = $derived(room.floor.map((gear) => ({ gear, box: at(`gear ${gear.id}`, gear) })))
  const solid = $derived(floor.filter(({ gear }) => isSolid(gear.kind)))
  const ropes = $derived(floor.filter(({ gear }) => gear.kind === 'rope'))
  const doors = $derived(floor.filter(({ gear }) => gear.kind === 'door'))
  const small = $derived(
    floor.filter(({ gear }) => !isSolid(gear.kind) && gear.kind !== 'rope' && gear.kind !== 'door'),
  )

  function at(key: string, box: FloorBox): FloorBox {
    return dragged?.key === key ? { ...box, ...dragged.box } : box
  }
  const standing = (): Standing[] => [
    ...room.racks.flatMap((rack) =>
      rack.xMm === null || rack.yMm === null
        ? []
        : [{ ...rack, xMm: rack.xMm, yMm: rack.yMm, key: `rack ${rack.id}`, isSolid: true }],
    ),
    ...room.floor.map((gear) => ({ ...gear, key: `gear ${gear.id}`, isSolid: isSolid(gear.kind) })),
  ]
  const fillOf = (rack: RackView): string =>
    subject === 'state' ? `state-${rack.state}` : rack.said[subject].band.tint
  const valueOf = (rack: RackView): string =>
    subject === 'state' ? (rack.state === 'well' ? '' : STATE_WORDS[rack.state]) : rack.said[subject].text
  const wordsOf = (rack: RackView): string =>
    subject === 'state'
      ? STATE_WORDS[rack.state]
      : `${rack.said[subject].text}, ${rack.said[subject].band.words}`

  /** The line along the front of a box, by where it looks. */
  function frontLine(box: FloorBox): string {
    const { acrossMm, downMm } = spanOf(box)
    const [x, y, w, h] = [X(box.xMm), X(box.yMm), px(acrossMm), px(downMm)]
    switch (box.turn) {
      case 0:
        return `M${x} ${y}h${w}`
      case 90:
        return `M${x + w} ${y}v${h}`
      case 180:
        return `M${x} ${y + h}h${w}`
      case 270:
        return `M${x} ${y}v${h}`
      default:
        return box.turn satisfies never
    }
  }
  /** What a camera sees, roughly: a wedge towards the middle of the room. */
  function viewOf(gear: FloorView): string {
    const [x, y] = [X(gear.xMm + gear.widthMm / 2), X(gear.yMm + gear.depthMm / 2)]
    const angle = Math.atan2(px(room.depthMm / 2 - gear.yMm), px(room.widthMm / 2 - gear.xMm))
    const corner = (turn: number): string =>
      `${x + 30 * Math.cos(angle + turn)} ${y + 30 * Math.sin(angle + turn)}`
    return `M${x} ${y}L${corner(-0.42)}A30 30 0 0 1 ${corner(0.42)}Z`
  }
  const wayOf = (way: readonly number[]): string =>
    Array.from(
      { length: way.length / 2 },
      (_, index) => `${index === 0 ? 'M' : 'L'}${X(way[2 * index]!)} ${X(way[2 * index + 1]!)}`,
    ).join('')

  /** The number of a probe before a rack stands in the rack. */
  const isBefore = (probe: FloorView): boolean => racks.some(({ rack }) => rack.inletProbeId === probe.id)

  function problemOf(key: string, box: FloorBox): string | null {
    const all = standing()
    const own = all.find((each) => each.key === key)!
    return floorProblem({ ...own, ...box }, room, all)
  }
  function tryOut(key: string, box: FloorBox): void {
    dragged = { key, box, problem: problemOf(key, box) }
    say(dragged.problem)
  }
  function settle(): void {
    const done = dragged
    dragged = null
    if (done === null || move === null) return
    const [what, id] = done.key.split(' ')
    const { xMm, yMm, turn } = done.box
    const place = { roomId: room.id, xMm: Math.round(xMm), yMm: Math.round(yMm), turn }
    if (done.problem === null)
      move(
        what === 'rack'
          ? { what, rackId: Number(id), ...place }
          : { what: 'stand', gearId: Number(id), ...place },
      )
  }
  const boxOf = ({ xMm, yMm, widthMm, depthMm, turn }: FloorBox): FloorBox => ({
    xMm,
    yMm,
    widthMm,
    depthMm,
    turn,
  })
  const editing = (key: string, box: FloorBox) => {
    if (move === null) return {}
    return {
      onpointerdown: (event: PointerEvent & { currentTarget: EventTarget }) => {
        event.preventDefault()
        const target = event.currentTarget as SVGElement
        target.focus()
        target.setPointerCapture(event.pointerId)
        const from = { x: event.clientX, y: event.clientY }
        const start = boxOf(box)
        const onMove = (moved: PointerEvent): void =>
          tryOut(key, {
            ...start,
            xMm: snap(start.xMm + (moved.clientX - from.x) / scale, room.tileMm),
            yMm: snap(start.yMm + (moved.clientY - from.y) / scale, room.tileMm),
          })
        target.addEventListener('pointermove', onMove)
        target.addEventListener(
          'pointerup',
          () => {
            target.removeEventListener('pointermove', onMove)
            settle()
          },
          { once: true },
        )
      },
      onclick: (event: MouseEvent) => event.preventDefault(),
      onkeydown: (event: KeyboardEvent) => {
        const step = event.shiftKey ? 50 : room.tileMm / 2
        const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
          event.key
        ] ?? [0, 0]
        const isTurn = event.key === 'r'
        if (dx === 0 && dy === 0 && !isTurn) return
        event.preventDefault()
        event.stopPropagation()
        const turn = isTurn ? TURNS[(TURNS.indexOf(box.turn) + 1) % 4]! : box.turn
        tryOut(key, {
          ...boxOf(box),
          xMm: box.xMm + dx! * step,
          yMm: box.yMm + dy! * step,
          turn: turn as Turn,
        })
        settle()
      },
    }
  }
</script>

<svg
  width={drawnWidth}
  height={drawnHeight}
  role="group"
  aria-label="Plan of {room.name}, {(room.widthMm / 1000).toFixed(1)} by {(room.depthMm / 1000).toFixed(1)} m"
  class:editing={move !== null}
>
  <defs>
    <pattern
      id="tiles-{room.id}"
      width={px(room.tileMm)}
      height={px(room.tileMm)}
      patternUnits="userSpaceOnUse"
      x={PAD}
      y={PAD}
    >
      <path d="M{px(room.tileMm)} 0V{px(room.tileMm)}H0" class="tile" />
    </pattern>
  </defs>
  <rect x={PAD} y={PAD} width={px(room.widthMm)} height={px(room.depthMm)} class="ground" />
  <rect x={PAD} y={PAD} width={px(room.widthMm)} height={px(room.depthMm)} fill="url(#tiles-{room.id})" />
  <rect x={PAD} y={PAD} width={px(room.widthMm)} height={px(room.depthMm)} class="wall" />

  {#each ropes as { gear } (gear.id)}
    <a href="/gear/{gear.id}" aria-label="leak rope {gear.name}, {gear.detail || STATE_WORDS[gear.state]}">
      <title>{gear.name}: {gear.detail}</title>
      <path d={wayOf(gear.way)} class="rope {gear.state}" />
      <path d={wayOf(gear.way)} class="rope-grip" />
    </a>
  {/each}

  {#each racks as { rack, box } (rack.id)}
    {@const { acrossMm, downMm } = spanOf(box)}
    {@const [x, y, w, h] = [X(box.xMm), X(box.yMm), px(acrossMm), px(downMm)]}
    <a
      href="/rooms?room={room.id}&view=racks&rack={rack.id}#rack-{rack.id}"
      aria-label="rack {rack.name}, {wordsOf(rack)}"
      data-testid="plan-rack"
      {...editing(`rack ${rack.id}`, box)}
    >
      <title>{rack.name}: {wordsOf(rack)}</title>
      <rect {x} {y} width={w} height={h} class="rack {fillOf(rack)}" />
      {#if subject === 'free'}
        <rect
          x={x + w - 7}
          y={y + 3 + (h - 6) * (rack.freeUnits / rack.heightUnits)}
          width="4"
          height={(h - 6) * (1 - rack.freeUnits / rack.heightUnits)}
          class="used"
        />
      {/if}
      <path d={frontLine(box)} class="front" />
      <text x={x + w / 2} y={y + h / 2 - 3} class="name">{rack.name}</text>
      <text x={x + w / 2} y={y + h / 2 + 13} class="value {fillOf(rack)}">{valueOf(rack)}</text>
      {#if dragged?.key === `rack ${rack.id}`}
        <rect {x} {y} width={w} height={h} class={dragged.problem === null ? 'fits' : 'blocked'} />
      {/if}
    </a>
  {/each}

  {#each solid as { gear, box } (gear.id)}
    {@const { acrossMm, downMm } = spanOf(box)}
    {@const [x, y, w, h] = [X(box.xMm), X(box.yMm), px(acrossMm), px(downMm)]}
    <a
      href="/gear/{gear.id}"
      aria-label="{gear.name}, {STATE_WORDS[gear.state]}{gear.detail === '' ? '' : `, ${gear.detail}`}"
      {...editing(`gear ${gear.id}`, box)}
    >
      <title>{gear.name}: {gear.detail}</title>
      <rect {x} {y} width={w} height={h} class="solid state-{gear.state}" />
      {#if gear.kind === 'cooling'}
        <path
          d="M{x + 7} {y + 14}q{w / 8} -7 {w / 4} 0t{w / 4} 0t{w / 4} 0M{x + 7} {y + 21}q{w / 8} -7 {w /
            4} 0t{w / 4} 0t{w / 4} 0"
          class="air"
        />
        <path d={frontLine(box)} class="front" />
      {:else if gear.kind === 'generator'}
        <circle cx={x + w / 2} cy={y + h / 2 - 18} r="11" class="air" />
        <path d="M{x + w / 2 - 5} {y + h / 2 - 18}q2.5 -7 5 0t5 0" class="air" />
      {/if}
      <text x={x + w / 2} y={y + h / 2 + 6} class="name small">{gear.name}</text>
      <text x={x + w / 2} y={y + h / 2 + 19} class="value">{gear.detail.split(', ')[0]}</text>
      {#if dragged?.key === `gear ${gear.id}`}
        <rect {x} {y} width={w} height={h} class={dragged.problem === null ? 'fits' : 'blocked'} />
      {/if}
    </a>
  {/each}

  {#each doors as { gear, box } (gear.id)}
    {@const { acrossMm, downMm } = spanOf(box)}
    {@const isOpen = gear.detail.includes('open')}
    {@const down = box.yMm < room.depthMm / 2}
    {@const hinge = { x: X(box.xMm), y: down ? PAD : X(room.depthMm) }}
    {@const leaf = px(Math.max(acrossMm, downMm))}
    <a
      href="/gear/{gear.id}"
      aria-label="door {gear.name}, {gear.detail || STATE_WORDS[gear.state]}"
      {...editing(`gear ${gear.id}`, box)}
    >
      <title>{gear.name}: {gear.detail}</title>
      <path d="M{hinge.x} {hinge.y}h{leaf}" class="gap" />
      {#if isOpen}
        <path
          d="M{hinge.x} {hinge.y}v{down ? leaf : -leaf}A{leaf} {leaf} 0 0 {down ? 0 : 1} {hinge.x +
            leaf} {hinge.y}"
          class="door open"
        />
      {:else}
        <path d="M{hinge.x} {hinge.y}h{leaf}" class="door" />
      {/if}
      <text x={hinge.x + leaf / 2} y={down ? PAD - 7 : X(room.depthMm) + 14} class="tiny">
        {gear.name}{isOpen ? ', open' : ''}
      </text>
    </a>
  {/each}

  {#each small as { gear, box } (gear.id)}
    {@const [x, y] = [X(box.xMm + box.widthMm / 2), X(box.yMm + box.depthMm / 2)]}
    <a
      href="/gear/{gear.id}"
      aria-label="{gear.name}, {STATE_WORDS[gear.state]}{gear.detail === '' ? '' : `, ${gear.detail}`}"
      {...editing(`gear ${gear.id}`, box)}
    >
      <title>{gear.name}: {gear.detail || 'nothing heard'}</title>
      {#if gear.kind === 'camera'}
        <path d={viewOf({ ...gear, ...box })} class="view" />
        <path d="M{x - 5} {y - 4}h7v8h-7zM{x + 2} {y - 2}l4 -2v8l-4 -2z" class="camera state-{gear.state}" />
      {:else}
        <circle cx={x} cy={y} r="4" class="probe state-{gear.state}" class:silent={gear.detail === ''} />
        {#if subject === 'inlet' && gear.detail !== '' && !isBefore(gear)}
          <text x={x + 7} y={y + 3.5} class="tiny left">{gear.detail.split(', ')[0]}</text>
        {/if}
      {/if}
      {#if dragged?.key === `gear ${gear.id}`}
        <circle cx={x} cy={y} r="9" class={dragged.problem === null ? 'fits' : 'blocked'} />
      {/if}
    </a>
  {/each}
  <path
    d="M{drawnWidth - PAD - px(1000)} {drawnHeight - 9}h{px(1000)}M{drawnWidth -
      PAD -
      px(1000)} {drawnHeight - 12}v6M{drawnWidth - PAD} {drawnHeight - 12}v6"
    class="measure"
  />
  <text x={drawnWidth - PAD - px(1000) - 6} y={drawnHeight - 6} class="tiny end">1 m</text>
</svg>

<style>
  .ground {
    fill: var(--paper);
  }
  .tile {
    fill: none;
    stroke: var(--rule-2);
    stroke-width: 1;
  }
  .wall {
    fill: none;
    stroke: var(--ink);
    stroke-width: 3;
  }
  .rack,
  .solid {
    fill: var(--sheet);
    stroke: var(--ink-2);
    stroke-width: 1.1;
  }
  .solid {
    fill: var(--rule-2);
  }
  .rack.step1 {
    fill: color-mix(in srgb, var(--ink) 5%, var(--sheet));
  }
  .rack.step2 {
    fill: color-mix(in srgb, var(--ink) 13%, var(--sheet));
  }
  .rack.step3 {
    fill: color-mix(in srgb, var(--ink) 24%, var(--sheet));
  }
  .rack.step4 {
    fill: color-mix(in srgb, var(--ink) 38%, var(--sheet));
  }
  .rack.cold {
    fill: var(--accent-soft);
  }
  .rack.warning,
  .state-warning:is(.rack, .solid) {
    fill: var(--warn-soft);
    stroke: var(--warn);
    stroke-width: 2;
  }
  .rack.critical,
  .state-critical:is(.rack, .solid) {
    fill: var(--crit-soft);
    stroke: var(--crit);
    stroke-width: 2.4;
  }
  .rack.noData,
  .state-noData:is(.rack, .solid) {
    fill: var(--blind-soft);
    stroke: var(--blind);
    stroke-width: 1.6;
    stroke-dasharray: 4 3;
  }
  .used {
    fill: var(--ink-2);
  }
  .front {
    stroke: var(--ink);
    stroke-width: 3.4;
    fill: none;
  }
  .name {
    font: 650 12px var(--font-mono);
    fill: var(--ink);
    text-anchor: middle;
  }
  .name.small {
    font-size: 10px;
  }
  .value {
    font-size: 11px;
    fill: var(--ink);
    text-anchor: middle;
  }
  .value.warning,
  .value.state-warning {
    fill: var(--warn);
    font-weight: 650;
  }
  .value.critical,
  .value.state-critical {
    fill: var(--crit);
    font-weight: 650;
  }
  .tiny {
    font: 9.5px var(--font-mono);
    fill: var(--ink-2);
    text-anchor: middle;
  }
  .tiny.left {
    text-anchor: start;
  }
  .tiny.end {
    text-anchor: end;
  }
  .air {
    fill: none;
    stroke: var(--ink-2);
    stroke-width: 1.3;
  }
  .rope {
    fill: none;
    stroke: var(--accent);
    stroke-width: 2;
    stroke-dasharray: 1 5;
    stroke-linecap: round;
  }
  .rope.critical,
  .rope.warning {
    stroke: var(--crit);
    stroke-width: 4;
    stroke-dasharray: none;
  }
  .rope-grip {
    fill: none;
    stroke: transparent;
    stroke-width: 12;
  }
  .gap {
    stroke: var(--sheet);
    stroke-width: 4;
    fill: none;
  }
  .door {
    stroke: var(--ink-2);
    stroke-width: 1.6;
    fill: none;
  }
  .door.open {
    fill: var(--rule-2);
  }
  .probe {
    fill: var(--sheet);
    stroke: var(--ink-2);
    stroke-width: 1.4;
  }
  .probe.silent {
    stroke: var(--blind);
    stroke-dasharray: 2 1.6;
  }
  .probe.state-warning {
    fill: var(--warn);
    stroke: var(--warn);
  }
  .probe.state-critical {
    fill: var(--crit);
    stroke: var(--crit);
  }
  .view {
    fill: var(--ink);
    opacity: 0.07;
  }
  .camera {
    fill: var(--ink-2);
  }
  .camera.state-critical {
    fill: var(--crit);
  }
  .camera.state-warning {
    fill: var(--warn);
  }
  .measure {
    stroke: var(--ink-2);
    fill: none;
  }
  .fits {
    fill: none;
    stroke: var(--accent);
    stroke-width: 3;
  }
  .blocked {
    fill: none;
    stroke: var(--crit);
    stroke-width: 3;
    stroke-dasharray: 5 4;
  }
  a:focus-visible {
    outline: none;
  }
  a:hover :is(.rack, .solid),
  a:focus-visible :is(.rack, .solid) {
    stroke: var(--accent);
    stroke-width: 3;
  }
  a:focus-visible :is(.probe, .camera, .rope, .door) {
    stroke: var(--accent);
    stroke-width: 3;
  }
  .editing a {
    cursor: move;
    touch-action: none;
  }
</style>
