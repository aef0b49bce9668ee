// What the writer of the crash test writes: known for every instant, so that each stored reading can be held against it.

export const MINUTE = 60_000
export const DAY = 86_400_000
export const FIRST_DAY = 20_730
export const SLOTS = 4

/** The value of a slot of a source at its n-th instant; about one in fifty is missing. */
export function madeValue(source: number, slot: number, index: number): number | null {
  if ((index * 31 + slot * 7 + source) % 53 === 0) return null
  return Math.round(1e4 * Math.sin(index * 0.01 + slot + source)) / 100 + slot
}

export const madeInstant = (index: number): number => FIRST_DAY * DAY + index * MINUTE
