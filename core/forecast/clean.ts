import { DAY_MS, type ForecastInput, type Seen } from './face.ts'
import { medianOf, quantileOf, sorted, spreadOf } from './numbers.ts'

/** Samples that can be reckoned with, in the unit of the line. */
export interface Samples {
  readonly atMs: number[]
  readonly values: number[]
}

/** A history without what is missing, impossible or alone, on the capacity and the load of now. */
export interface Cleaned extends Samples {
  readonly seen: Seen[]
}

const LARGEST = 1e18

export function clean(input: ForecastInput): Cleaned {
  const seen: Seen[] = []
  const finite = finiteOf(input)
  const counted = input.isCounter === true ? unrolled(finite, seen) : finite
  const scaled = onCapacityOfNow(input, counted, seen)
  const steady = onLoadOfNow(input, scaled)
  return { ...withoutOutliers(withoutZeros(steady)(input), seen), seen }
}

interface Indexed extends Samples {
  /** Where each came from. */
  readonly from: number[]
}

function finiteOf({ atMs, values, nowMs }: ForecastInput): Indexed {
  const kept: Indexed = { atMs: [], values: [], from: [] }
  let last = -Infinity
  for (let index = 0; index < Math.min(atMs.length, values.length); index += 1) {
    const at = atMs[index]!
    const value = values[index]!
    if (!(at > last && at <= nowMs) || !Number.isFinite(value) || Math.abs(value) > LARGEST) continue
    last = at
    kept.atMs.push(at)
    kept.values.push(value)
    kept.from.push(index)
  }
  return kept
}

/** A running total over its restarts: after a drop it goes on from where it was. */
function unrolled(given: Indexed, seen: Seen[]): Indexed {
  let before = 0
  const values = given.values.map((value, index) => {
    const last = given.values[index - 1] ?? value
    // A total never shrinks; a little less is a late sample.
    if (value < last * 0.98) {
      before += last
      seen.push({ what: 'reset', atMs: given.atMs[index]!, size: last })
    }
    return value + before
  })
  return { ...given, values }
}

function onCapacityOfNow(
  { capacity, isPercentOfCapacity }: ForecastInput,
  given: Indexed,
  seen: Seen[],
): Indexed {
  if (capacity === undefined || given.from.length === 0) return given
  const known = given.from.map((index) => capacity[index] ?? NaN)
  let last = known.find((each) => each > 0) ?? NaN
  if (!(last > 0)) return given
  const inForce = known.map((each, index) => {
    if (!(each > 0)) return last
    if (Math.abs(each - last) > 1e-6 * last)
      seen.push({ what: 'capacity', atMs: given.atMs[index]!, from: last, to: each })
    last = each
    return each
  })
  if (isPercentOfCapacity !== true) return given
  return { ...given, values: given.values.map((value, index) => (value * inForce[index]!) / last) }
}

/** How much faster than in proportion a battery gives out under load (Peukert, 1897), where its own history does not say. */
const USUAL_EXPONENT = 1.15

/** A runtime as it would have been at the load of now. */
function onLoadOfNow({ load, nowMs }: ForecastInput, given: Indexed): Indexed {
  if (load === undefined) return given
  const loads = given.from.map((index) => load[index] ?? NaN)
  const recent = loads.filter((each, index) => each > 0 && given.atMs[index]! > nowMs - 0.6 * DAY_MS)
  const usual = recent.length > 0 ? recent : loads.filter((each) => each > 0).slice(-1)
  if (usual.length === 0) return given
  const now = medianOf(usual)
  const exponent = exponentOf(given.values, loads)
  const values = given.values.map((value, index) =>
    loads[index]! > 0 ? value * (loads[index]! / now) ** exponent : value,
  )
  return { ...given, values }
}

/** Of how the runtime went down as the load went up from one sample to the next. */
function exponentOf(values: readonly number[], loads: readonly number[]): number {
  let both = 0
  let square = 0
  let rest = 0
  for (let index = 1; index < values.length; index += 1) {
    const [a, b] = [values[index - 1]!, values[index]!]
    const byLoad = Math.log(loads[index]! / loads[index - 1]!)
    if (!(a > 0 && b > 0) || !Number.isFinite(byLoad) || Math.abs(byLoad) < 0.01) continue
    const byRuntime = Math.log(b / a)
    both -= byLoad * byRuntime
    square += byLoad * byLoad
    rest += byRuntime * byRuntime
  }
  if (square < 0.05 || both * both < 0.3 * square * rest) return USUAL_EXPONENT
  return Math.min(1.6, Math.max(0.7, both / square))
}

/** Zeros that come and go at once among values far from zero are what a device says when it cannot tell. */
const withoutZeros =
  (given: Samples) =>
  ({ kind }: ForecastInput): Samples => {
    if (kind === 'temperature') return given
    const middle = medianOf(given.values)
    const isAway = (value: number | undefined): boolean =>
      value !== undefined && Math.abs(value) > 0.3 * Math.abs(middle)
    const isBad = given.values.map(() => false)
    for (let index = 1; index < given.values.length; index += 1) {
      if (given.values[index] !== 0 || !isAway(given.values[index - 1])) continue
      let end = index
      while (given.values[end] === 0) end += 1
      const lasts = (given.atMs[Math.min(end, given.atMs.length - 1)] ?? 0) - given.atMs[index]!
      if (isAway(given.values[end]) && lasts <= 3.5 * DAY_MS) isBad.fill(true, index, end)
      index = end
    }
    return keep(given, (index) => !isBad[index])
  }

const keep = (given: Samples, isKept: (index: number) => boolean): Samples => ({
  atMs: given.atMs.filter((_, index) => isKept(index)),
  values: given.values.filter((_, index) => isKept(index)),
})

/** How far a sample, or a pair of them, stands from both its neighbours, on the same side of both. */
function aloneBy(values: readonly number[], index: number, width: number): number {
  const before = values[index - 1]
  const after = values[index + width]
  if (before === undefined || after === undefined) return 0
  const [left, right] = [values[index]! - before, values[index + width - 1]! - after]
  return left * right > 0 ? Math.min(Math.abs(left), Math.abs(right)) : 0
}

const OUTLIER_SPREADS = 9
/** What is seen more often than this is how the thing behaves. */
const SELDOM_A_DAY = 1 / 25

/** Single values far from both neighbours, so seldom that they are no peaks. */
function withoutOutliers(given: Samples, seen: Seen[]): Samples {
  const { values, atMs } = given
  if (values.length < 8) return given
  const usual = spreadOf(values.slice(1).map((value, index) => value - values[index]!))
  const level = Math.abs(medianOf(values)) * 1e-6
  const far = [1, 2].flatMap((width) =>
    values.flatMap((_, index) => {
      const by = aloneBy(values, index, width)
      return by > OUTLIER_SPREADS * usual + level ? [{ index, width, by }] : []
    }),
  )
  const days = (atMs.at(-1)! - atMs[0]!) / DAY_MS
  const most = Math.max(1, Math.floor(days * SELDOM_A_DAY))
  const isPeaks = far.length > 2 * most
  const tall = isPeaks ? 3 * quantileOf(sorted(far.map(({ by }) => by)), 0.9) : 0
  const bad = new Set<number>()
  for (const { index, width, by } of far)
    if (by > tall) for (let each = index; each < index + width; each += 1) bad.add(each)
  for (const index of [...bad].slice(0, 12))
    seen.push({ what: 'outlier', atMs: atMs[index]!, value: values[index]! })
  return keep(given, (index) => !bad.has(index))
}
