import type { GearKind } from '../catalogue/index.ts'

/** Clockwise: where the front looks. 0 up the plan, 90 to the right, 180 down, 270 to the left. */
export const TURNS = [0, 90, 180, 270] as const
export type Turn = (typeof TURNS)[number]

/** Upper left corner and size on a plan, in millimetres, as it lies when turned. */
export interface FloorBox {
  readonly xMm: number
  readonly yMm: number
  readonly widthMm: number
  readonly depthMm: number
  readonly turn: Turn
}

/** Width and height on the plan: what is turned to a side lies across. */
export const spanOf = ({ widthMm, depthMm, turn }: Pick<FloorBox, 'widthMm' | 'depthMm' | 'turn'>) =>
  turn === 90 || turn === 270
    ? { acrossMm: depthMm, downMm: widthMm }
    : { acrossMm: widthMm, downMm: depthMm }

export function boxesMeet(a: FloorBox, b: FloorBox): boolean {
  const [one, other] = [spanOf(a), spanOf(b)]
  return (
    a.xMm < b.xMm + other.acrossMm &&
    b.xMm < a.xMm + one.acrossMm &&
    a.yMm < b.yMm + other.downMm &&
    b.yMm < a.yMm + one.downMm
  )
}

export interface Standing extends FloorBox {
  readonly key: string
  readonly name: string
  /** What hangs on the wall, lies under the floor or on a rack stands in nobody's way. */
  readonly isSolid: boolean
}

/** Kinds that stand in the way on the floor. The others hang on walls and racks, or lie under the floor. */
const SOLID: readonly GearKind[] = [
  'cooling',
  'generator',
  'ups',
  'chassis',
  'array',
  'server',
  'host',
  'switch',
]
export const isSolid = (kind: GearKind): boolean => SOLID.includes(kind)

/** Width and depth on the floor of what was never measured, in millimetres. */
export const usualSize = (kind: GearKind): { readonly widthMm: number; readonly depthMm: number } =>
  kind === 'door'
    ? { widthMm: 900, depthMm: 120 }
    : isSolid(kind)
      ? { widthMm: 600, depthMm: 1000 }
      : { widthMm: 160, depthMm: 160 }

/** Why a thing cannot stand where it is put, as a sentence; `null` when it can. */
export function floorProblem(
  wanted: Standing,
  room: { readonly name: string; readonly widthMm: number; readonly depthMm: number },
  others: readonly Standing[],
): string | null {
  const { acrossMm, downMm } = spanOf(wanted)
  if (
    wanted.xMm < 0 ||
    wanted.yMm < 0 ||
    wanted.xMm + acrossMm > room.widthMm ||
    wanted.yMm + downMm > room.depthMm
  )
    return `${wanted.name} would stand outside ${room.name}, which is ${metres(room.widthMm)} by ${metres(room.depthMm)} m.`
  if (!wanted.isSolid) return null
  const met = others.find((other) => other.key !== wanted.key && other.isSolid && boxesMeet(wanted, other))
  return met === undefined
    ? null
    : `${met.name} stands there already. Put ${wanted.name} beside it, or move that first.`
}

const metres = (mm: number): string => (mm / 1000).toFixed(1)

/** Nearest place on the grid of half tiles. */
export const snap = (mm: number, tileMm: number): number => {
  const step = tileMm / 2
  return Math.round(mm / step) * step
}

interface InRoom {
  readonly name: string
  readonly xMm: number | null
  readonly yMm: number | null
}

/** The nearest corner of what stands in a room is at least so far inside it. */
const LEAST_INSIDE_MM = 100

/** What would stand outside of a room if it were so large; `null` when nothing. */
export function standsBeyond(
  room: { readonly racks: readonly InRoom[]; readonly floor: readonly InRoom[] },
  { widthMm, depthMm }: { readonly widthMm: number; readonly depthMm: number },
): string | null {
  const beyond = [...room.racks, ...room.floor].find(
    ({ xMm, yMm }) =>
      xMm !== null && yMm !== null && (xMm + LEAST_INSIDE_MM > widthMm || yMm + LEAST_INSIDE_MM > depthMm),
  )
  return beyond?.name ?? null
}

const RACK_MM = 600

/** Where a new rack stands: beside the last one, or in the corner. */
export function placeForRack(room: { readonly widthMm: number; readonly racks: readonly InRoom[] }): {
  readonly xMm: number
  readonly yMm: number
} {
  const last = room.racks.toSorted((a, b) => (b.xMm ?? 0) - (a.xMm ?? 0))[0]
  const beside = last === undefined ? RACK_MM : (last.xMm ?? -RACK_MM) + RACK_MM
  return { xMm: Math.min(room.widthMm - RACK_MM, beside), yMm: last?.yMm ?? RACK_MM }
}
