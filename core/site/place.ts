/** Where in its units a gear sits: on the front, on the rear, through the whole depth, or as a strip at a side of the rear. */
export const FACES = ['front', 'rear', 'both', 'left', 'right'] as const
export type Face = (typeof FACES)[number]

/** Lowest unit and height, both in rack units (U); the lowest unit of a rack is 1. */
export interface RackPosition {
  readonly unit: number
  readonly heightUnits: number
}

/** Whether two faces take the same room of a unit. A strip at a side takes none of it. */
export const facesMeet = (a: Face, b: Face): boolean =>
  a === b ||
  (a === 'both' && (b === 'front' || b === 'rear')) ||
  (b === 'both' && (a === 'front' || a === 'rear'))

export const overlaps = (a: RackPosition, b: RackPosition): boolean =>
  a.unit < b.unit + b.heightUnits && b.unit < a.unit + a.heightUnits

export const fitsRack = (position: RackPosition, rackHeightUnits: number): boolean =>
  position.unit >= 1 &&
  position.heightUnits >= 1 &&
  position.unit + position.heightUnits - 1 <= rackHeightUnits

const two = (unit: number): string => String(unit).padStart(2, '0')

/** `U18–19`, or `U07` for a single unit. */
export function unitLabel({ unit, heightUnits }: RackPosition): string {
  return heightUnits === 1 ? `U${two(unit)}` : `U${two(unit)}–${two(unit + heightUnits - 1)}`
}

const FACE_WORDS: Readonly<Record<Face, string>> = {
  front: ', front',
  rear: ', rear',
  both: '',
  left: ', left side',
  right: ', right side',
}

/** `Breakwater Hall · B04 · U18–19` from what is known, else what it runs on; `null` when nothing is known. */
export function placeLabel(place: {
  room: string | null
  rack: string | null
  position: RackPosition | null
  face?: Face | null
  onName?: string | null
}): string | null {
  const face = place.face ?? 'both'
  const isStrip = face === 'left' || face === 'right'
  const unit =
    place.position === null
      ? null
      : isStrip
        ? FACE_WORDS[face].slice(2)
        : unitLabel(place.position) + FACE_WORDS[face]
  const words = [place.room, place.rack, unit]
  const known = words.filter((word): word is string => word !== null)
  if (known.length > 0) return known.join(' · ')
  return place.onName == null ? null : `on ${place.onName}`
}

/** A gear in a rack. */
export interface Mounted extends RackPosition {
  readonly id: number
  readonly name: string
  readonly face: Face
}

export type Placing =
  | { readonly kind: 'fits' }
  | { readonly kind: 'outside'; readonly heightUnits: number }
  | { readonly kind: 'occupied'; readonly by: readonly Mounted[] }

/** Whether a gear can be put into some units of a rack. It does not stand in its own way. */
export function tryPlace(
  gear: RackPosition & { readonly id: number; readonly face: Face },
  rack: { readonly heightUnits: number; readonly gear: readonly Mounted[] },
): Placing {
  if (!fitsRack(gear, rack.heightUnits)) return { kind: 'outside', heightUnits: rack.heightUnits }
  const by = rack.gear.filter(
    (other) => other.id !== gear.id && overlaps(gear, other) && facesMeet(gear.face, other.face),
  )
  return by.length === 0 ? { kind: 'fits' } : { kind: 'occupied', by }
}

/** The lowest units of a rack in which a gear fits in its whole depth; `null` when there are none. */
export function lowestFree(
  heightUnits: number,
  rack: { readonly heightUnits: number; readonly gear: readonly Mounted[] },
): number | null {
  for (let unit = 1; unit + heightUnits - 1 <= rack.heightUnits; unit += 1)
    if (tryPlace({ id: -1, unit, heightUnits, face: 'both' }, rack).kind === 'fits') return unit
  return null
}

/** Why a gear cannot be put there, as a sentence; `null` when it can. */
export function placingProblem(placing: Placing, wanted: RackPosition, rackName: string): string | null {
  switch (placing.kind) {
    case 'fits':
      return null
    case 'outside':
      return `${rackName} has ${placing.heightUnits} units; ${unitLabel(wanted)} reaches beyond.`
    case 'occupied':
      return `${placing.by.map((other) => `${other.name} is in ${unitLabel(other)}`).join(', ')} of ${rackName}: ${unitLabel(wanted)} is taken. Choose other units, or move that first.`
    default:
      return placing satisfies never
  }
}

/** Units of a rack in whose whole depth nothing sits, and the longest run of them. */
export function freeUnits(rack: {
  readonly heightUnits: number
  readonly gear: readonly (RackPosition & { readonly face: Face })[]
}): {
  readonly free: number
  readonly longest: number
} {
  const taken = new Array<boolean>(rack.heightUnits + 1).fill(false)
  for (const { unit, heightUnits, face } of rack.gear)
    if (face !== 'left' && face !== 'right')
      for (let at = unit; at < unit + heightUnits && at <= rack.heightUnits; at += 1) taken[at] = true
  let free = 0
  let longest = 0
  let run = 0
  for (let at = 1; at <= rack.heightUnits; at += 1) {
    run = taken[at] ? 0 : run + 1
    free += taken[at] ? 0 : 1
    longest = Math.max(longest, run)
  }
  return { free, longest }
}
