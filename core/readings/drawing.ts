import type { Curve } from './curve.ts'
import type { Hours } from './hours.ts'

/**
 * At most two points a pixel: the true minimum and maximum of the readings that fall on it, in their own order.
 * A curve that is already small enough comes back as it is. First and last reading are always kept.
 */
export function reduceForDrawing(curve: Curve, pixels: number): Curve {
  const { times, values } = curve
  const count = times.length
  if (count <= pixels * 2 || pixels < 1) return curve
  const from = times[0]!
  const widthMs = (times[count - 1]! - from) / pixels || 1
  const keep = new Uint32Array(2 * pixels + 2)
  let kept = 0
  for (let start = 0; start < count;) {
    const pixel = Math.min(pixels - 1, Math.floor((times[start]! - from) / widthMs))
    const next = pixel === pixels - 1 ? Infinity : pixel + 1
    let low = start
    let high = start
    let end = start
    for (; end < count && (times[end]! - from) / widthMs < next; end += 1) {
      if (values[end]! < values[low]!) low = end
      if (values[end]! > values[high]!) high = end
    }
    const one = Math.min(low, high)
    const other = Math.max(low, high)
    if (start === 0 && one > 0) keep[kept++] = 0
    keep[kept++] = one
    if (other > one) keep[kept++] = other
    if (end === count && other < count - 1) keep[kept++] = count - 1
    start = end
  }
  const reduced = { times: new Float64Array(kept), values: new Float64Array(kept) }
  for (let at = 0; at < kept; at += 1) {
    reduced.times[at] = times[keep[at]!]!
    reduced.values[at] = values[keep[at]!]!
  }
  return reduced
}

/**
 * The same from hourly summaries: two points a pixel of a whole number of hours, its true minimum and maximum. Where in
 * the hours they lay is not known any more: each stands at the beginning of the hour that holds it.
 */
export function reduceHours(hours: Hours, pixels: number): Curve {
  const { times } = hours
  const count = times.length
  if (count === 0) return { times: new Float64Array(), values: new Float64Array() }
  const hourMs = 3_600_000
  const span = times[count - 1]! + hourMs - times[0]!
  const widthMs = Math.max(1, Math.ceil(span / hourMs / Math.max(1, pixels))) * hourMs
  const points: [atMs: number, value: number][] = []
  for (let start = 0; start < count;) {
    const pixel = Math.floor((times[start]! - times[0]!) / widthMs)
    let [low, high] = [start, start]
    let end = start
    while (end < count && Math.floor((times[end]! - times[0]!) / widthMs) === pixel) {
      if (hours.min[end]! < hours.min[low]!) low = end
      if (hours.max[end]! > hours.max[high]!) high = end
      end += 1
    }
    const least: [number, number] = [times[low]!, hours.min[low]!]
    // Both extremes of one hour stand at its beginning and its middle, so that the curve goes through both.
    const most: [number, number] = [times[high]! + (low === high ? hourMs / 2 : 0), hours.max[high]!]
    if (least[1] === most[1]) points.push(least)
    else points.push(...[least, most].sort(([a], [b]) => a - b))
    start = end
  }
  return {
    times: Float64Array.from(points, ([atMs]) => atMs),
    values: Float64Array.from(points, ([, value]) => value),
  }
}

export interface Gap {
  readonly fromMs: number
  readonly toMs: number
}

/** Steps on each side by which it is judged how close readings usually are. */
const AROUND = 4
/** So many times the usual step is still the usual: a source that was asked seldom then was not silent. */
const USUAL = 3

/**
 * Spans in which nothing was heard: two neighbours further apart than `longestMs`, and the open end up to `untilMs`. Where
 * the readings around are as far apart, the source was asked less often then, and nothing was missed.
 */
export function findGaps(times: ArrayLike<number>, longestMs: number, untilMs: number): Gap[] {
  const gaps: Gap[] = []
  for (let index = 1; index < times.length; index += 1) {
    const step = times[index]! - times[index - 1]!
    if (step > longestMs && isUnusual(times, index, step))
      gaps.push({ fromMs: times[index - 1]!, toMs: times[index]! })
  }
  const last = times.length > 0 ? times[times.length - 1]! : null
  if (last !== null && untilMs - last > longestMs && isUnusual(times, times.length - 1, untilMs - last))
    gaps.push({ fromMs: last, toMs: untilMs })
  return gaps
}

/**
 * Whether a step is longer than three times the median of the steps around it, itself among them; with too few to tell it
 * is. The median is below a third of the step where more than half of the steps are, and those are counted.
 */
function isUnusual(times: ArrayLike<number>, index: number, step: number): boolean {
  const first = Math.max(1, index - AROUND)
  const last = Math.min(times.length - 1, index + AROUND)
  const count = last - first + 1
  if (count <= AROUND) return true
  // As soon as half of them are not below, the rest need not be looked at.
  let others = count - (count >> 1)
  for (let at = first; at <= last && others > 0; at += 1)
    if (step <= USUAL * (times[at]! - times[at - 1]!)) others -= 1
  return others > 0
}
