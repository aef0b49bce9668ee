/** Where the name of a line across a chart stands. */
export interface NamePlace {
  readonly side: 'left' | 'right'
  readonly isAbove: boolean
}

/** In the order in which they are taken where nothing is in the way. */
const BELOW: readonly NamePlace[] = [
  { side: 'left', isAbove: false },
  { side: 'left', isAbove: true },
  { side: 'right', isAbove: false },
  { side: 'right', isAbove: true },
]
/** The highest line has the most room above it. */
const ABOVE: readonly NamePlace[] = [BELOW[1]!, BELOW[0]!, BELOW[3]!, BELOW[2]!]

/**
 * Places for the names of lines, so that no name lies over another or, while there is room, over a line.
 * @param lines values, in any order
 * @param height of a name, in units of the axis
 * @param floor end of the axis: below it no name is read
 * @returns for each line its place; where all are taken, below at the left
 */
export function namePlaces(lines: readonly number[], height: number, floor: number): NamePlace[] {
  const places = new Map<number, NamePlace>()
  const taken: (NamePlace & { readonly from: number })[] = []
  const downwards = lines.map((_, index) => index).sort((a, b) => lines[b]! - lines[a]!)
  for (const [rank, index] of downwards.entries()) {
    const value = lines[index]!
    const from = ({ isAbove }: NamePlace): number => (isAbove ? value : value - height)
    const isFree = (place: NamePlace): boolean =>
      from(place) >= floor &&
      taken.every((name) => name.side !== place.side || Math.abs(name.from - from(place)) >= height)
    const crossesNone = (place: NamePlace): boolean =>
      lines.every((line) => line <= from(place) || line >= from(place) + height)
    const wanted = rank === 0 ? ABOVE : BELOW
    const place = wanted.find((each) => isFree(each) && crossesNone(each)) ?? wanted.find(isFree) ?? BELOW[0]!
    taken.push({ ...place, from: from(place) })
    places.set(index, place)
  }
  return lines.map((_, index) => places.get(index)!)
}
