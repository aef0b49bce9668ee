import { formatReading, measureOf, type MeasureKey } from '../catalogue/index.ts'
import { formatNumber } from '../units/index.ts'
import type { Pick } from './pick.ts'
import type { CurveStatistics } from './statistics.ts'

/** How the numbers of a curve are worded. */
export interface Shows {
  readonly measure: MeasureKey
  /** After each number: a rate is a second's. */
  readonly suffix: '' | '/s'
  /** A quotient is a bare number. */
  readonly isPlain: boolean
  /** Of two readings, or from one to the next: of temperatures it is in K. */
  readonly isDifference: boolean
}

export const showsOf = (measure: MeasureKey, pick: Pick | null): Shows => ({
  measure,
  suffix: pick?.isRate === true ? '/s' : '',
  isPlain: pick?.against?.how === 'by',
  isDifference: pick?.isRate === true || pick?.against?.how === 'less',
})

export function sayShown({ measure, suffix, isPlain, isDifference }: Shows, value: number): string {
  if (isPlain) return formatNumber(value, 2)
  const { unit, decimals } = measureOf(measure)
  const amount =
    isDifference && unit === 'celsius'
      ? `${formatNumber(value, decimals)}\u00a0K`
      : formatReading(measure, value)
  return `${amount}${suffix}`
}

/** Names of curves, in their order: one that stands for curves of several measures is followed by which it is. */
export function namesApart(
  curves: readonly { readonly name: string; readonly measure: MeasureKey }[],
): string[] {
  const measures = new Map<string, Set<MeasureKey>>()
  for (const { name, measure } of curves) measures.set(name, (measures.get(name) ?? new Set()).add(measure))
  return curves.map(({ name, measure }) =>
    measures.get(name)!.size > 1 ? `${name} · ${measureOf(measure).label}` : name,
  )
}

interface Told extends CurveStatistics {
  readonly name: string
  readonly shows: Shows
}

/** What the curves of a screen come to, in a sentence. */
export function pastSentence(curves: readonly Told[]): string {
  if (curves.length === 0) return 'Say what to look at: a measure, and where.'
  const heard = curves.filter(({ mean }) => mean !== null)
  if (heard.length === 0)
    return curves.length === 1
      ? `Nothing was heard of ${curves[0]!.name} in this window.`
      : `Nothing was heard of any of these ${curves.length} in this window.`
  if (heard.length === 1) {
    const { name, shows, min, mean, max, p95 } = heard[0]!
    const say = (value: number): string => sayShown(shows, value)
    const most = p95 === null ? '' : `; 95 of 100 readings are at most ${say(p95)}`
    return `${name}: ${say(mean!)} on average, from ${say(min ?? mean!)} to ${say(max ?? mean!)}${most}.`
  }
  const units = new Set(
    heard.map(({ shows }) => `${shows.measure} ${shows.suffix} ${shows.isPlain} ${shows.isDifference}`),
  )
  if (units.size > 1) return `${heard.length} curves of ${units.size} measures on one axis of time.`
  const ranked = [...heard].sort((a, b) => b.mean! - a.mean!)
  const [highest, lowest] = [ranked[0]!, ranked.at(-1)!]
  const silent = curves.length - heard.length
  const rest = silent === 0 ? '' : ` Of ${silent} nothing was heard.`
  return `Of ${heard.length}, ${highest.name} is highest with ${sayShown(highest.shows, highest.mean!)} on average, ${lowest.name} lowest with ${sayShown(lowest.shows, lowest.mean!)}.${rest}`
}
