// What forecasts are held against: simple methods that everybody knows.
import { DAY_MS, type ForecastInput } from '#core/forecast'

/** Days until the line by the tenth, fiftieth and ninetieth percentile. */
export type Dates = readonly [number, number, number]
export type Rival = (input: ForecastInput) => Dates

interface Daily {
  readonly at: number[]
  readonly values: number[]
}

/** The worst of each day, on the capacity of now: the rivals are spared what they could not do. */
export function dailyOf({
  atMs,
  values,
  nowMs,
  direction,
  isCounter,
  isPercentOfCapacity,
  capacity,
}: ForecastInput): Daily {
  const sign = direction === 'up' ? 1 : -1
  const days = new Map<number, number>()
  let before = 0
  for (let index = 0; index < values.length; index += 1) {
    const last = index === 0 ? 0 : values[index - 1]!
    if (isCounter === true && values[index]! < 0.98 * last) before += last
    const scale = isPercentOfCapacity === true ? capacity![index]! / capacity!.at(-1)! : 1
    const day = -Math.floor((nowMs - atMs[index]!) / DAY_MS)
    const value = sign * (values[index]! + before) * scale
    if (Number.isFinite(value)) days.set(day, Math.max(days.get(day) ?? -Infinity, value))
  }
  const at = [...days.keys()].sort((a, b) => a - b)
  return { at, values: at.map((day) => days.get(day)!) }
}

const goalOf = ({ line, direction }: ForecastInput): number => (direction === 'up' ? line : -line)

/** A line by least squares, its band from its slope’s error. */
const straight =
  (most: number): Rival =>
  (input) => {
    const daily = dailyOf(input)
    const from = daily.at.findIndex((day) => day >= -most)
    const [x, y] = [daily.at.slice(from), daily.values.slice(from)]
    const n = x.length
    const mx = x.reduce((a, b) => a + b, 0) / n
    const my = y.reduce((a, b) => a + b, 0) / n
    const sxx = x.reduce((sum, each) => sum + (each - mx) ** 2, 0)
    const slope = x.reduce((sum, each, i) => sum + (each - mx) * (y[i]! - my), 0) / (sxx || 1)
    const rest = y.reduce((sum, each, i) => sum + (each - my - slope * (x[i]! - mx)) ** 2, 0)
    const error = Math.sqrt(rest / Math.max(1, n - 2) / (sxx || 1))
    const days = (rate: number): number => {
      const now = my - slope * mx
      return now >= goalOf(input) ? 0 : rate > 0 ? (goalOf(input) - now) / rate : Infinity
    }
    return [days(slope + 1.2816 * error), days(slope), days(slope - 1.2816 * error)]
  }

/** Each day as the same of the week before, with the drift of the weeks. */
const seasonal: Rival = (input) => {
  const { at, values } = dailyOf(input)
  const n = values.length
  const weekly: number[] = []
  for (let index = 7; index < n; index += 1)
    weekly.push((values[index]! - values[index - 7]!) / Math.max(1, at[index]! - at[index - 7]!))
  const mean = weekly.reduce((a, b) => a + b, 0) / Math.max(1, weekly.length)
  const sd = Math.sqrt(weekly.reduce((sum, each) => sum + (each - mean) ** 2, 0) / Math.max(1, weekly.length))
  const last = Math.max(...values.slice(-7))
  const days = (rate: number): number =>
    last >= goalOf(input) ? 0 : rate > 0 ? (goalOf(input) - last) / rate : Infinity
  const error = sd / Math.sqrt(Math.max(1, weekly.length / 7))
  return [days(mean + 1.2816 * error), days(mean), days(mean - 1.2816 * error)]
}

/** Holt’s linear method (1957), undamped, its parameters by least squares, its band from simulated residuals. */
const holt: Rival = (input) => {
  const { values } = dailyOf(input)
  let best = { alpha: 0.5, beta: 0.1, squares: Infinity, level: 0, trend: 0, errors: [] as number[] }
  for (const alpha of [0.05, 0.1, 0.2, 0.35, 0.5, 0.7, 0.9, 1])
    for (const beta of [0.005, 0.02, 0.05, 0.1, 0.2, 0.4]) {
      let level = values[0]!
      let trend =
        (values.at(Math.min(values.length - 1, 7))! - values[0]!) / Math.min(values.length - 1 || 1, 7)
      const errors: number[] = []
      let squares = 0
      for (let index = 1; index < values.length; index += 1) {
        const error = values[index]! - (level + trend)
        errors.push(error)
        squares += error * error
        level = level + trend + alpha * error
        trend += alpha * beta * error
      }
      if (squares < best.squares) best = { alpha, beta, squares, level, trend, errors }
    }
  let state = 1
  const next = (): number => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647
  const reached = Array.from({ length: 300 }, () => {
    let { level, trend } = best
    if (level >= goalOf(input)) return 0
    for (let day = 1; day <= 400; day += 1) {
      const error = best.errors.length === 0 ? 0 : best.errors[Math.floor(next() * best.errors.length)]!
      if (level + trend + error >= goalOf(input)) return day
      level = level + trend + best.alpha * error
      trend += best.alpha * best.beta * error
    }
    return Infinity
  }).sort((a, b) => a - b)
  return [reached[30]!, reached[150]!, reached[270]!]
}

export const RIVALS: Readonly<Record<string, Rival>> = {
  'straight line through everything': straight(Infinity),
  'straight line, last 30 days': straight(30),
  'seasonal naive with drift': seasonal,
  'Holt’s linear method': holt,
}
