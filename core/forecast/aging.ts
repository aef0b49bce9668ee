import { DAY_MS, type Forecast, type ForecastInput } from './face.ts'

/**
 * Forecasts what gets a day older each day, in days: its dates are those of the calendar, and nothing of them is a guess.
 * @param others further lines of the same thing
 * @param sentence what is said of it
 */
export function forecastAge(
  { atMs, values, line, nowMs, horizonDays }: ForecastInput,
  others: readonly number[],
  sentence: string,
): { readonly told: Forecast; readonly otherMs: readonly (number | null)[] } {
  const last = values.findLastIndex((value) => !Number.isNaN(value))
  if (last === -1) {
    const none = new Float64Array(0)
    const days = { p10: none, p50: none, p90: none }
    const dates = { p10Ms: null, p50Ms: null, p90Ms: null }
    const told = {
      verdict: 'too-little' as const,
      ...dates,
      days,
      seen: [],
      sentence: 'Its age is not known.',
    }
    return { told, otherMs: others.map(() => null) }
  }
  const age = values[last]! + (nowMs - atMs[last]!) / DAY_MS
  const dateAt = (goal: number): number | null =>
    goal - age > horizonDays ? null : nowMs + Math.max(0, goal - age) * DAY_MS
  const ages = Float64Array.from({ length: horizonDays }, (_, day) => age + day)
  const atLine = dateAt(line)
  return {
    told: {
      verdict: age >= line ? 'over' : atLine === null ? 'not-in-sight' : 'crosses',
      p10Ms: atLine,
      p50Ms: atLine,
      p90Ms: atLine,
      days: { p10: ages, p50: ages, p90: ages },
      seen: [],
      sentence,
    },
    otherMs: others.map(dateAt),
  }
}
