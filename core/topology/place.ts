/** Lowest unit and height, both in rack units (U); the lowest unit of a rack is 1. */
export interface RackPosition {
  readonly unit: number
  readonly heightUnits: number
}

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

/** `Breakwater Hall · B04 · U18–19` from what is known, else what it runs on; `null` when nothing is known. */
export function placeLabel(place: {
  room: string | null
  rack: string | null
  position: RackPosition | null
  onName?: string | null
}): string | null {
  const words = [place.room, place.rack, place.position === null ? null : unitLabel(place.position)]
  const known = words.filter((word): word is string => word !== null)
  if (known.length > 0) return known.join(' · ')
  return place.onName == null ? null : `on ${place.onName}`
}
