import type { GearKind } from '#core/catalogue'
import {
  type Face,
  FACES,
  type MountedView,
  placingProblem,
  type RackView,
  tryPlace,
  usualSize,
} from '#core/site'
import { postMove } from '../../client/requests.ts'

/** Gear that is on its way to a place in a rack. */
export interface Carried {
  readonly id: number
  readonly name: string
  readonly heightUnits: number
  readonly face: Face
  readonly rackId: number | null
  readonly unit: number
}

const USUAL_HEIGHT: Partial<Record<GearKind, number>> = {
  server: 2,
  host: 2,
  array: 4,
  chassis: 10,
  ups: 3,
  recorder: 2,
}

interface Options {
  readonly racks: () => readonly RackView[]
  /** After each move: what is shown is asked for anew. */
  readonly moved: () => Promise<void>
}

/** Moving gear between racks, the floor and the stock; what was moved can be taken back. */
export class Carrying {
  carried = $state.raw<Carried | null>(null)
  notice = $state<string | null>(null)
  problem = $state<string | null>(null)
  undos = $state.raw<readonly unknown[]>([])
  // One after the other: a step back must not overtake the one before it.
  #moving: Promise<void> = Promise.resolve()

  constructor(readonly options: Options) {}

  get rack(): RackView | null {
    return this.options.racks().find(({ id }) => id === this.carried?.rackId) ?? null
  }
  /** Why what is carried cannot stand where it is held. */
  get refusal(): string | null {
    const { carried, rack } = this
    return carried === null || rack === null
      ? null
      : placingProblem(tryPlace({ ...carried }, rack), carried, rack.name)
  }

  move(wanted: unknown): void {
    void this.#inTurn(() => this.#post(wanted, false))
  }
  undo(): void {
    void this.#inTurn(async () => {
      const last = this.undos.at(-1)
      if (last === undefined) return
      this.undos = this.undos.slice(0, -1)
      await this.#post(last, true)
    })
  }

  lift({ id, name, heightUnits, face, unit }: MountedView, rack: RackView): void {
    this.problem = null
    this.carried = { id, name, heightUnits, face, unit, rackId: rack.id }
  }
  liftFromStock({ id, name, kind }: { id: number; name: string; kind: GearKind }): void {
    this.problem = null
    const rackId = this.options.racks()[0]?.id ?? null
    this.carried = { id, name, heightUnits: USUAL_HEIGHT[kind] ?? 1, face: 'both', unit: 1, rackId }
  }

  hover(rackId: number, unit: number): void {
    const { carried } = this
    const rack = this.options.racks().find(({ id }) => id === rackId)
    if (carried === null || rack === undefined) return
    const highest = Math.max(1, rack.heightUnits - carried.heightUnits + 1)
    const next = Math.min(highest, Math.max(1, unit))
    if (carried.rackId !== rackId || carried.unit !== next) this.carried = { ...carried, rackId, unit: next }
  }

  setDown(): void {
    const { carried, refusal } = this
    this.carried = null
    if (carried === null || carried.rackId === null) return
    if (refusal !== null) {
      this.problem = refusal
      this.notice = null
      return
    }
    const { id, rackId, unit, heightUnits, face } = carried
    this.move({ what: 'mount', gearId: id, place: { rackId, unit, heightUnits, face } })
  }
  toStock(): void {
    const { carried } = this
    this.carried = null
    if (carried !== null) this.move({ what: 'mount', gearId: carried.id, place: null })
  }

  /** Puts something from the stock onto the floor of a room, or into its wall. */
  stand(
    { id, kind }: { id: number; kind: GearKind },
    room: { readonly id: number; readonly widthMm: number; readonly depthMm: number },
  ): void {
    const { widthMm, depthMm } = usualSize(kind)
    const xMm = Math.round((room.widthMm - widthMm) / 2)
    const yMm = kind === 'door' ? 0 : Math.max(0, room.depthMm - depthMm - 200)
    this.move({ what: 'stand', gearId: id, roomId: room.id, xMm, yMm, turn: 180 })
  }

  /** @returns whether a key was for what is carried */
  key(key: string): boolean {
    const { carried } = this
    if (carried === null) return false
    const step = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] }[key]
    if (step !== undefined) this.#step(carried, step[0]!, step[1]!)
    else if (key === 'f')
      this.carried = { ...carried, face: FACES[(FACES.indexOf(carried.face) + 1) % FACES.length]! }
    else if (key === '+' || key === '-')
      this.carried = { ...carried, heightUnits: Math.max(1, carried.heightUnits + (key === '+' ? 1 : -1)) }
    else if (key === 'Enter') this.setDown()
    else if (key === 's') this.toStock()
    else if (key === 'Escape') this.carried = null
    else return false
    return true
  }

  #step(carried: Carried, racksOn: number, unitsUp: number): void {
    const racks = this.options.racks()
    const at = racks.findIndex(({ id }) => id === carried.rackId)
    const rack = racks[Math.min(racks.length - 1, Math.max(0, at + racksOn))]
    if (rack !== undefined) this.hover(rack.id, carried.unit + unitsUp)
  }

  #inTurn(work: () => Promise<void>): Promise<void> {
    return (this.#moving = this.#moving.then(work, work))
  }
  async #post(wanted: unknown, isUndo: boolean): Promise<void> {
    const done = await postMove(wanted)
    if (done.kind === 'refused') {
      this.problem = done.message
      this.notice = null
    } else {
      this.problem = null
      this.notice = isUndo ? `Undone. ${done.sentence}` : done.sentence
      if (!isUndo) this.undos = [...this.undos, done.undo]
    }
    await this.options.moved()
  }
}
