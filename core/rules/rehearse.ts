import type { Curve } from '../readings/index.ts'
import { judgeFor } from './judge.ts'
import { type LevelRule, lineOf, MOST_COUNTED, type Rule, type SeriesRule, type Severity } from './rule.ts'

/** One stretch in which a rule would have held on a series. `toMs` is `null` when it still does at the end. */
export interface Stretch {
  readonly fromMs: number
  readonly toMs: number | null
  readonly severity: Severity
}

/**
 * What a rule would have raised on a stored series.
 * @param other the rule's second measure, in force from each of its readings on
 * @returns one stretch from the first reading beyond the line to the way back, with the worst severity in between
 */
export function rehearseSeries(rule: SeriesRule, { times, values }: Curve, other?: Curve): Stretch[] {
  const { begin, take } = judgeFor(rule)
  const standing = begin()
  const stretches: Stretch[] = []
  let fromMs = 0
  let worst: Severity | null = null
  let slot = -1
  const mild = mildEnd(rule)
  let wellFor = 0
  for (let index = 0; index < times.length; index += 1) {
    const atMs = times[index]!
    // Once nothing is remembered but good readings, more of them change nothing.
    if (mild !== null) {
      const isWell = mild.sign * values[index]! <= mild.at
      wellFor = isWell ? wellFor + 1 : 0
      if (wellFor > MOST_COUNTED && worst === null) continue
    }
    let beside = NaN
    if (other !== undefined) {
      while (slot + 1 < other.times.length && other.times[slot + 1]! <= atMs) slot += 1
      if (slot >= 0) beside = other.values[slot]!
    }
    if (!take(standing, atMs, values[index]!, beside)) continue
    const { severity } = standing
    if (severity === null) {
      stretches.push({ fromMs, toMs: atMs, severity: worst! })
      worst = null
    } else {
      if (worst === null) fromMs = standing.sinceMs
      if (worst !== 'critical') worst = severity
    }
  }
  if (worst !== null) stretches.push({ fromMs, toMs: null, severity: worst })
  return stretches
}

/** Up to where, in the sense of `sign` · value, a reading of a plain level is neither beyond a line nor short of a way back. */
function mildEnd(rule: SeriesRule): { readonly sign: 1 | -1; readonly at: number } | null {
  if (rule.kind !== 'level' || rule.of.with !== null) return null
  const sign = rule.direction === 'above' ? 1 : -1
  return { sign, at: Math.min(...rule.lines.map(({ at, back }) => sign * (back ?? at))) }
}

/** So fine is a line looked for between the least and the greatest value. */
const STEPS = 512

/** How often a level rule would have been raised, for every level at once. */
export class LineSearch {
  readonly #crossings: Int32Array
  readonly #isAbove: boolean
  readonly #width: number

  /** @param low,high between which values lie; what lies outside counts as the end */
  constructor(
    private readonly rule: LevelRule,
    private readonly low: number,
    high: number,
  ) {
    this.#isAbove = rule.direction === 'above'
    this.#width = (high - low) / STEPS || 1
    this.#crossings = new Int32Array(STEPS + 2)
  }

  /**
   * Takes one series. A rule with persistence is raised at a level exactly when the k-th worst of the last n readings,
   * or the mildest of a whole duration, crosses it: each rise of that number is one alert for all levels in between.
   * The way back is left out of this; it can only make alerts fewer.
   */
  add({ times, values }: Curve): void {
    const { persistence } = this.rule
    const sign = this.#isAbove ? 1 : -1
    const effective =
      persistence.kind === 'count'
        ? kthWorst(values, sign, persistence.k, persistence.n)
        : mildest(times, values, sign, persistence.ms)
    const crossings = this.#crossings
    // Values repeat: what is not another than before needs no step.
    let before = NaN
    let at = 0
    for (let index = 0; index < effective.length; index += 1) {
      const value = effective[index]!
      if (value === before || Number.isNaN(value)) continue
      before = value
      const to = value === -Infinity ? 0 : this.#step(value)
      if (to > at) {
        crossings[at]! += 1
        crossings[to]! -= 1
      }
      at = to
    }
  }

  /** In which step a value lies, counted from the mild end. */
  #step(signed: number): number {
    const distance = this.#isAbove ? signed - this.low : signed + this.low + STEPS * this.#width
    const step = Math.ceil(distance / this.#width)
    return step < 0 ? 0 : step > STEPS + 1 ? STEPS + 1 : step
  }

  /** Each level with how many alerts it would have raised, from the mildest level to the farthest. */
  counts(): { readonly at: number; readonly alerts: number }[] {
    let alerts = 0
    return Array.from({ length: STEPS + 1 }, (_, step) => {
      alerts += this.#crossings[step]!
      const distance = step * this.#width
      return { at: this.#isAbove ? this.low + distance : this.low + STEPS * this.#width - distance, alerts }
    })
  }

  /**
   * The line nearest to the usual values that raises no more than so many alerts, and no line nearer to the far end does.
   * @returns `null` when even the farthest raises more
   */
  propose(most: number): { readonly at: number; readonly alerts: number } | null {
    const counts = this.counts()
    let best: { readonly at: number; readonly alerts: number } | null = null
    for (let step = counts.length - 1; step >= 0; step -= 1) {
      const each = counts[step]!
      if (each.alerts > most) break
      best = each
    }
    return best
  }
}

/** After each reading the k-th worst of the last n; less than k readings are none. In the sense of `sign` · value. */
function kthWorst(values: Float64Array, sign: 1 | -1, k: number, n: number): Float64Array {
  const found = new Float64Array(values.length)
  // The window in order, worst first: n is small, and a place is found by moving.
  const sorted = new Float64Array(n)
  const window = new Float64Array(n)
  let filled = 0
  let taken = 0
  for (let index = 0; index < values.length; index += 1) {
    const value = sign * values[index]!
    if (Number.isNaN(value)) {
      found[index] = NaN
      continue
    }
    let at: number
    if (filled === n) {
      // What leaves makes room where it stood; those between it and the new one move up by one.
      const gone = window[taken % n]!
      at = 0
      while (sorted[at] !== gone) at += 1
      while (at < n - 1 && sorted[at + 1]! >= value) {
        sorted[at] = sorted[at + 1]!
        at += 1
      }
    } else {
      at = filled
      filled += 1
    }
    window[taken % n] = value
    taken += 1
    while (at > 0 && sorted[at - 1]! < value) {
      sorted[at] = sorted[at - 1]!
      at -= 1
    }
    sorted[at] = value
    found[index] = filled >= k ? sorted[k - 1]! : -Infinity
  }
  return found
}

/** After each reading the mildest since `ms` before; of less than that nothing is known. */
function mildest(times: Float64Array, values: Float64Array, sign: 1 | -1, ms: number): Float64Array {
  const found = new Float64Array(values.length)
  const queue: number[] = []
  let head = 0
  const firstMs = times[0] ?? 0
  for (let index = 0; index < values.length; index += 1) {
    const value = sign * values[index]!
    const atMs = times[index]!
    if (Number.isNaN(value)) {
      found[index] = NaN
      continue
    }
    while (queue.length > head && sign * values[queue.at(-1)!]! >= value) queue.pop()
    queue.push(index)
    while (head < queue.length - 1 && times[queue[head]!]! < atMs - ms) head += 1
    found[index] = atMs - firstMs >= ms ? sign * values[queue[head]!]! : -Infinity
  }
  return found
}

/** Stretches put together: how many, how long, at which hours. */
export interface Rehearsed {
  readonly alerts: number
  readonly critical: number
  readonly longestMs: number
  readonly medianMs: number
  /** How long the rule holds on all of them together. */
  readonly heldMs: number
  /** Openings by hour of day, 0 to 23. */
  readonly byHour: readonly number[]
}

export function summarise(
  stretches: readonly Stretch[],
  toMs: number,
  hourOf: (atMs: number) => number,
): Rehearsed {
  const lengths = stretches.map((each) => (each.toMs ?? toMs) - each.fromMs).sort((a, b) => a - b)
  const byHour = Array.from({ length: 24 }, () => 0)
  for (const { fromMs } of stretches) byHour[hourOf(fromMs)]! += 1
  return {
    alerts: stretches.length,
    critical: stretches.filter(({ severity }) => severity === 'critical').length,
    longestMs: lengths.at(-1) ?? 0,
    medianMs: lengths[Math.floor(lengths.length / 2)] ?? 0,
    heldMs: lengths.reduce((sum, length) => sum + length, 0),
    byHour,
  }
}

/** The same rule with its line of a severity moved; the way back keeps its distance, other severities stay. */
export function moveLine(rule: LevelRule, severity: Severity, at: number): LevelRule {
  const old = lineOf(rule, severity)
  const back = old?.back == null ? null : at + (old.back - old.at)
  const others = rule.lines.filter((line) => line.severity !== severity)
  return { ...rule, lines: [...others, { severity, at, back }] }
}

/** What is asked of a rehearsal. */
/** What can be held against stored readings: every rule but those about what devices say. */
export type RehearsableRule = Exclude<Rule, { readonly kind: 'text' | 'ahead' }>

export interface RehearsalRequest {
  readonly rule: RehearsableRule
  /** The rule that it would take the place of, so that the two do not stand against each other. */
  readonly insteadOf: number | null
  readonly days: number
  /** Alerts a week over all that it covers, for which a line is looked for. */
  readonly wished: number | null
}

export interface RehearsedSubject {
  readonly seriesId: number
  readonly gearId: number
  readonly name: string
  readonly alerts: number
  readonly critical: number
  readonly longestMs: number
  /** How long the rule holds in all. */
  readonly heldMs: number
}

export interface RehearsalResult extends Rehearsed {
  readonly fromMs: number
  readonly toMs: number
  /** Series on which it would be in force, and how many readings of them there are. */
  readonly series: number
  readonly readings: number
  /** The first stored reading of any: what is asked for may reach further back than what is stored. */
  readonly firstMs: number | null
  /** Those with the most alerts first. */
  readonly subjects: readonly RehearsedSubject[]
  /** How many of all raise nothing. */
  readonly silent: number
  /** The newest, with their series. */
  readonly stretches: readonly (Stretch & { readonly seriesId: number })[]
  /** For a level: how many alerts each line would raise; and the line for the wished rate. */
  readonly lines: {
    readonly severity: Severity
    readonly counts: readonly { readonly at: number; readonly alerts: number }[]
    readonly proposed: { readonly at: number; readonly alerts: number } | null
  } | null
  readonly tookMs: number
}
