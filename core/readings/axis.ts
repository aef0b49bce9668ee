/**
 * Round ends and steps for the axis of a chart: what was read, and those lines of a rule that lie near it.
 * A line is near within twice the spread of the readings, or within 60 % of their size.
 * @param resolution the smallest step worth a label: a constant curve gets an axis of a few such steps
 * @param ceiling more than this is impossible; the axis ends there, unless something was read above it all the same
 */
export function axisBounds(
  values: readonly number[],
  lines: readonly number[],
  resolution: number,
  ceiling = Infinity,
): { min: number; max: number; interval: number } {
  const low = values.reduce((least, value) => Math.min(least, value), Infinity)
  const high = values.reduce((most, value) => Math.max(most, value), -Infinity)
  const reach = Math.max(2 * (high - low), 0.6 * Math.max(Math.abs(low), Math.abs(high)))
  const shown = [low, high, ...lines.filter((line) => line > low - reach && line < high + reach)]
  const from = Math.min(...shown)
  const to = Math.max(...shown)
  const pad = Math.max((to - from) * 0.06, resolution * 2)
  const interval = niceStep(Math.max((to - from + 2 * pad) / 3, resolution))
  const floor = low >= 0 ? Math.max(0, from - pad) : from - pad
  const top = Math.ceil((to + pad) / interval) * interval
  return {
    min: Math.floor(floor / interval) * interval,
    max: to <= ceiling ? Math.min(top, ceiling) : top,
    interval,
  }
}

/** The next of 1, 2, 2.5, 5 × a power of ten. */
function niceStep(least: number): number {
  const power = 10 ** Math.floor(Math.log10(least))
  const step = [1, 2, 2.5, 5, 10].find((factor) => factor * power >= least * 0.999) ?? 10
  return step * power
}
