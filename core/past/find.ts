/** Something that can be picked: a measure, or a place. */
export interface Findable<Of> {
  readonly of: Of
  /** What stands for it in the answer. */
  readonly label: string
  /** What else it is found by. */
  readonly also?: string
}

export interface Found<Measure, Place> {
  readonly measure: Findable<Measure>
  readonly place: Findable<Place>
}

/** More words than these are not looked at. */
const MOST_WORDS = 12

/**
 * Measures at places that fit what was typed: each word must begin a word of the measure or of the place. What names both
 * comes before what names one; the shorter name before the longer; of equals the order in which they were given.
 * @param exists whether there is a series of this measure at this place; asked of the best only
 */
export function findPicks<Measure, Place>(
  typed: string,
  measures: readonly Findable<Measure>[],
  places: readonly Findable<Place>[],
  { most, exists }: { readonly most: number; readonly exists: (found: Found<Measure, Place>) => boolean },
): Found<Measure, Place>[] {
  const words = wordsOf(typed).slice(0, MOST_WORDS)
  const all = 2 ** words.length - 1
  const fitting = <Of>(each: Findable<Of>) => ({
    each,
    mask: maskOf(words, `${each.label} ${each.also ?? ''}`),
    named: bitsOf(maskOf(words, each.label)),
  })
  const [some, where] = [measures.map(fitting), places.map(fitting)]
  const ranked: { found: Found<Measure, Place>; rank: number; order: number }[] = []
  let order = 0
  for (const { each: measure, mask, named: own } of some)
    for (const { each: place, mask: other, named: its } of where) {
      if ((mask | other) !== all) continue
      // A place that no word asked for is the widest one only.
      if (other === 0 && place !== places[0]) continue
      const length = measure.label.length + place.label.length
      const both = (mask === 0 ? 0 : 1) + (other === 0 ? 0 : 1)
      // What is called so comes before what only belongs to it.
      ranked.push({
        found: { measure, place },
        rank: both * 100_000 + (own + its) * 1000 - length,
        order: order++,
      })
    }
  ranked.sort((a, b) => b.rank - a.rank || a.order - b.order)
  const found: Found<Measure, Place>[] = []
  for (const each of ranked) {
    if (exists(each.found)) found.push(each.found)
    if (found.length === most) break
  }
  return found
}

const bitsOf = (mask: number): number => mask.toString(2).replaceAll('0', '').length

const wordsOf = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}-]+/u)
    .filter((word) => word !== '' && !FILLERS.has(word))

/** Words that people put between what and where. */
const FILLERS: ReadonlySet<string> = new Set(['of', 'the', 'in', 'at', 'on', 'every', 'all', 'a'])

function maskOf(words: readonly string[], text: string): number {
  const own = wordsOf(text)
  let mask = 0
  words.forEach((word, index) => {
    if (own.some((each) => each.startsWith(word) || each.split('-').some((piece) => piece.startsWith(word))))
      mask |= 2 ** index
  })
  return mask
}
