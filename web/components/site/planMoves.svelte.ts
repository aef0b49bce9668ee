import {
  type FloorBox,
  floorProblem,
  isSolid,
  type RoomView,
  snap,
  type Standing,
  type Turn,
  TURNS,
} from '#core/site'

interface Dragged {
  readonly key: string
  readonly box: FloorBox
  readonly problem: string | null
}

interface Options {
  readonly room: RoomView
  /** Pixels of a millimetre. */
  readonly scale: number
  /** Does the move; `null` where nothing is to be moved. */
  readonly move: ((move: Record<string, unknown>) => void) | null
  /** Why it cannot stand where it is held, while it is held. */
  readonly say: (problem: string | null) => void
}

/** Moving what stands in a room: by the pointer, or by the arrow keys. */
export class PlanMoves {
  dragged = $state.raw<Dragged | null>(null)

  constructor(readonly options: () => Options) {}

  /** Where something is drawn: where it stands, or where it is held. */
  at(key: string, box: FloorBox): FloorBox {
    return this.dragged?.key === key ? { ...box, ...this.dragged.box } : box
  }

  /** Whether it is held, and would fit there. */
  holds(key: string): 'fits' | 'blocked' | null {
    if (this.dragged?.key !== key) return null
    return this.dragged.problem === null ? 'fits' : 'blocked'
  }

  /** What makes an element of the drawing movable. */
  editing(key: string, box: FloorBox) {
    if (this.options().move === null) return {}
    return {
      onpointerdown: (event: PointerEvent & { currentTarget: EventTarget }) => this.#hold(event, key, box),
      onclick: (event: MouseEvent) => event.preventDefault(),
      onkeydown: (event: KeyboardEvent) => this.#push(event, key, box),
    }
  }

  #hold(event: PointerEvent & { currentTarget: EventTarget }, key: string, box: FloorBox): void {
    const { scale, room } = this.options()
    event.preventDefault()
    const target = event.currentTarget as SVGElement
    target.focus()
    target.setPointerCapture(event.pointerId)
    const from = { x: event.clientX, y: event.clientY }
    const start = boxOf(box)
    const onMove = (moved: PointerEvent): void =>
      this.#tryOut(key, {
        ...start,
        xMm: snap(start.xMm + (moved.clientX - from.x) / scale, room.tileMm),
        yMm: snap(start.yMm + (moved.clientY - from.y) / scale, room.tileMm),
      })
    const onUp = (): void => {
      target.removeEventListener('pointermove', onMove)
      this.#settle()
    }
    target.addEventListener('pointermove', onMove)
    target.addEventListener('pointerup', onUp, { once: true })
  }

  #push(event: KeyboardEvent, key: string, box: FloorBox): void {
    const step = event.shiftKey ? 50 : this.options().room.tileMm / 2
    const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
      event.key
    ] ?? [0, 0]
    const isTurn = event.key === 'r'
    if (dx === 0 && dy === 0 && !isTurn) return
    event.preventDefault()
    event.stopPropagation()
    const turn = isTurn ? TURNS[(TURNS.indexOf(box.turn) + 1) % 4]! : box.turn
    this.#tryOut(key, {
      ...boxOf(box),
      xMm: box.xMm + dx! * step,
      yMm: box.yMm + dy! * step,
      turn: turn as Turn,
    })
    this.#settle()
  }

  #tryOut(key: string, box: FloorBox): void {
    const { room, say } = this.options()
    const all = standingIn(room)
    const own = all.find((each) => each.key === key)!
    const problem = floorProblem({ ...own, ...box }, room, all)
    this.dragged = { key, box, problem }
    say(problem)
  }

  #settle(): void {
    const { room, move } = this.options()
    const done = this.dragged
    this.dragged = null
    if (done === null || move === null || done.problem !== null) return
    const [what, id] = done.key.split(' ')
    const { xMm, yMm, turn } = done.box
    const place = { roomId: room.id, xMm: Math.round(xMm), yMm: Math.round(yMm), turn }
    move(
      what === 'rack'
        ? { what, rackId: Number(id), ...place }
        : { what: 'stand', gearId: Number(id), ...place },
    )
  }
}

const standingIn = (room: RoomView): Standing[] => [
  ...room.racks.flatMap((rack) =>
    rack.xMm === null || rack.yMm === null
      ? []
      : [{ ...rack, xMm: rack.xMm, yMm: rack.yMm, key: `rack ${rack.id}`, isSolid: true }],
  ),
  ...room.floor.map((gear) => ({ ...gear, key: `gear ${gear.id}`, isSolid: isSolid(gear.kind) })),
]

const boxOf = ({ xMm, yMm, widthMm, depthMm, turn }: FloorBox): FloorBox => ({
  xMm,
  yMm,
  widthMm,
  depthMm,
  turn,
})
