import type { Findings } from '../gear/index.ts'

/** An outlet of another strip, whose load moves to this one when that strip is lost; watts, `null` where not known now. */
export type Moving = number | null

/**
 * What a strip has to carry when the one of its neighbours is lost whose loss is worst for it: its own load, and that of the
 * outlets there that feed gear which hangs on this strip, too. Gear whose load stays where it is counts for neither.
 * @param own watts now
 * @param neighbours of each other strip that shares gear with it the outlets that do
 * @returns watts; `null` when something of it is not known now, or nothing is shared
 */
export function wattsAlone(own: number | null, neighbours: readonly (readonly Moving[])[]): number | null {
  if (own === null || neighbours.length === 0) return null
  let worst = 0
  for (const outlets of neighbours) {
    let moved = 0
    for (const watts of outlets) {
      if (watts === null) return null
      moved += watts
    }
    worst = Math.max(worst, moved)
  }
  return own + worst
}

/**
 * What a source brings, with what its strips would have to carry alone.
 * @param strips by the key of the gear: what moves to it, as it was told last
 */
export function withWattsAlone(
  findings: Findings,
  strips: ReadonlyMap<string, readonly (readonly Moving[])[]>,
): Findings {
  const told = findings.readings.flatMap(({ gear, part, measure, value }) => {
    const neighbours = part === null && measure === 'hw.power' ? strips.get(gear) : undefined
    return neighbours === undefined
      ? []
      : [{ gear, part: null, measure: 'hw.power.alone' as const, value: wattsAlone(value, neighbours) }]
  })
  return told.length === 0 ? findings : { ...findings, readings: [...findings.readings, ...told] }
}

/** The same for each column of the past; NaN where something is not known. */
export function wattsAlonePast(
  own: Float64Array,
  neighbours: readonly (readonly Float64Array[])[],
): Float64Array {
  const known = (value: number): number | null => (Number.isNaN(value) ? null : value)
  return own.map(
    (watts, column) =>
      wattsAlone(
        known(watts),
        neighbours.map((outlets) => outlets.map((each) => known(each[column]!))),
      ) ?? NaN,
  )
}
