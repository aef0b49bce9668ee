// Histories of finite things of the sorts that machine rooms have, each with the future that it was made to have.
import { DAY_MS, type ForecastInput, type FiniteKind, HOUR_MS } from '#core/forecast'

export interface Case {
  readonly family: string
  readonly input: ForecastInput
  /** Days until the expected worst value of the day reaches the line; infinite when it never does. */
  readonly truthDays: number
  /** Whether there is too little of it to say anything. */
  readonly isShort: boolean
}

export interface Dice {
  readonly next: () => number
  readonly normal: () => number
}

const NOW_MS = Date.UTC(2026, 10, 27, 10)
const AHEAD = 400

/** A course in days before and after now, without noise, and how it is seen. */
interface Course {
  readonly days: number
  readonly level: (day: number) => number
  readonly noise: number
  readonly hourly?: boolean
  /** What the hour of the day adds; the worst of the day is level plus its maximum. */
  readonly dayWave?: number
  readonly kind?: FiniteKind
  readonly direction?: 'up' | 'down'
  readonly line?: number
  readonly see?: (value: number, day: number) => number
  readonly keep?: (day: number) => boolean
  readonly extra?: Partial<ForecastInput>
}

type Family = (dice: Dice) => Course

const between = ({ next }: Dice, from: number, to: number): number => from + next() * (to - from)
const NEVER = Infinity

/** A line that the course reaches after so many days; for a course that never does, one beyond all it has. */
function lineFor(course: Course, wanted: number): number {
  const { level, direction = 'up', dayWave = 0 } = course
  const sign = direction === 'up' ? 1 : -1
  let most = -Infinity
  for (let day = -course.days; day <= wanted; day += 0.5) most = Math.max(most, sign * level(day))
  return sign * (most + dayWave)
}

const linear =
  (perDay: number, at = 500) =>
  (day: number) =>
    at + perDay * day
const afterStep = (course: (day: number) => number, at: number, size: number) => (day: number) =>
  course(day) + (day >= at ? size : 0)

/** Growth that comes by jumps at random, or at the ends of months. */
function jumping(
  dice: Dice,
  every: number,
  size: number,
  isRegular: boolean,
  days: number,
): (day: number) => number {
  const at: { day: number; size: number }[] = []
  for (let day = -days + between(dice, 1, every); day < AHEAD;) {
    at.push({ day, size: size * between(dice, 0.6, 1.4) })
    day += isRegular ? every + dice.normal() : -Math.log(1 - dice.next()) * every
  }
  return (day) => 300 + at.reduce((sum, jump) => sum + (jump.day <= day ? jump.size : 0), 0)
}

const FAMILIES: Readonly<Record<string, Family>> = {
  'steady growth': (dice) => ({
    days: 200,
    level: linear(between(dice, 0.3, 2)),
    noise: between(dice, 0.5, 3),
  }),
  'steady growth, by the hour': (dice) => ({
    days: 90,
    level: linear(between(dice, 0.5, 3)),
    noise: 1.5,
    hourly: true,
    dayWave: between(dice, 2, 10),
  }),
  'bulk copy in slow growth': (dice) => ({
    days: 180,
    level: afterStep(linear(between(dice, 0.2, 0.8)), -between(dice, 20, 120), between(dice, 60, 200)),
    noise: 1.5,
  }),
  'bulk copy, else flat': (dice) => ({
    days: 150,
    level: afterStep(() => 400, -between(dice, 15, 100), between(dice, 80, 200)),
    noise: between(dice, 1, 3),
    line: 800,
  }),
  'cleaned up': (dice) => ({
    days: 160,
    level: afterStep(linear(between(dice, 0.5, 2)), -between(dice, 15, 80), -between(dice, 60, 150)),
    noise: 2,
  }),
  'faster since lately': (dice) => {
    const [slow, fast, at] = [between(dice, 0.1, 0.4), between(dice, 1.5, 4), between(dice, 14, 60)]
    return { days: 200, level: (day) => 500 + slow * day + (fast - slow) * Math.max(0, day + at), noise: 1.5 }
  },
  'slower since lately': (dice) => {
    const [fast, slow, at] = [between(dice, 2, 4), between(dice, 0.3, 0.9), between(dice, 25, 70)]
    return { days: 200, level: (day) => 500 + fast * day - (fast - slow) * Math.max(0, day + at), noise: 2 }
  },
  'jumps at random': (dice) => {
    const days = 240
    return { days, level: jumping(dice, between(dice, 12, 25), 25, false, days), noise: 1 }
  },
  'jumps at month ends': (dice) => {
    const days = 300
    return { days, level: jumping(dice, 30.4, between(dice, 20, 50), true, days), noise: 1 }
  },
  'quiet, then full within days': (dice) => {
    const [rate, since] = [between(dice, 20, 60), between(dice, 1.2, 3)]
    return {
      days: 60,
      level: (day) => 400 + rate * Math.max(0, day + since),
      noise: 1,
      hourly: true,
      line: 400 + rate * (since + between(dice, 2, 9)),
    }
  },
  'pattern of the week': (dice) => {
    const [rate, wave] = [between(dice, 0.4, 1.5), between(dice, 8, 20)]
    return {
      days: 150,
      level: (day) => 400 + rate * day + wave * (Math.abs(Math.floor(day) % 7) < 2 ? 0 : 1),
      noise: 2,
    }
  },
  'pattern of the year': (dice) => {
    const [rate, wave, phase] = [between(dice, 0.15, 0.5), between(dice, 20, 50), between(dice, 0, 6)]
    return {
      days: 760,
      level: (day) => 500 + rate * day + wave * Math.sin((2 * Math.PI * day) / 365.25 + phase),
      noise: 4,
    }
  },
  'saw-tooth, its peaks grow': (dice) => {
    const [period, size, rate] = [
      Math.round(between(dice, 6, 14)),
      between(dice, 60, 120),
      between(dice, 0.4, 1),
    ]
    const offset = Math.floor(between(dice, 0, period))
    return {
      days: 180,
      level: (day) => {
        const phase = (((Math.floor(day) + offset) % period) + period) % period
        return 400 + rate * day + (size * phase) / (period - 1)
      },
      noise: 1.5,
    }
  },
  'saw-tooth, no growth': (dice) => {
    const [period, size] = [Math.round(between(dice, 6, 14)), between(dice, 60, 120)]
    return {
      days: 180,
      level: (day) => 400 + (size * (((Math.floor(day) % period) + period) % period)) / (period - 1),
      noise: 2,
      line: 640,
    }
  },
  'outliers and zeros': (dice) => {
    const bad = new Map(
      Array.from({ length: 6 }, () => [Math.floor(-between(dice, 3, 170)), dice.next() < 0.5 ? 0 : 3]),
    )
    return {
      days: 180,
      level: linear(between(dice, 0.4, 1.5)),
      noise: 1.5,
      see: (value, day) => value * (bad.get(Math.floor(day)) ?? 1),
    }
  },
  'gaps and outages': (dice) => {
    const gaps = Array.from({ length: 4 }, () => -between(dice, 10, 170))
    return {
      days: 180,
      level: linear(between(dice, 0.4, 1.5)),
      noise: 2,
      keep: (day) => !gaps.some((from) => day > from && day < from + 12) && dice.next() > 0.1,
    }
  },
  shrinking: (dice) => ({ days: 150, level: linear(-between(dice, 0.2, 1)), noise: 2, line: 700 }),
  'flat and noisy': (dice) => ({ days: 150, level: () => 500, noise: between(dice, 5, 15), line: 600 }),
  'levelling off': (dice) => {
    const [tau, top] = [between(dice, 40, 70), between(dice, 200, 300)]
    const level = (day: number): number => 300 + top * (1 - Math.exp(-(day + 180) / tau))
    return {
      days: 180,
      level,
      noise: 1.5,
      line: dice.next() < 0.5 ? 300 + top * 1.06 : level(between(dice, 15, 50)),
    }
  },
  accelerating: (dice) => {
    const tau = between(dice, 60, 110)
    return {
      days: 200,
      level: (day) => 300 + 90 * Math.exp(day / tau),
      noise: 1.5,
      line: 300 + 90 * Math.exp(between(dice, 20, 90) / tau),
    }
  },
  'wear by whole percents': (dice) => {
    const rate = between(dice, 0.06, 0.4)
    return {
      days: 300,
      level: (day) => 60 + rate * day,
      noise: 0,
      kind: 'wear',
      see: Math.floor,
      line: Math.ceil(60 + rate * between(dice, 10, 200)),
    }
  },
  'bytes written, with restarts': (dice) => {
    const rate = between(dice, 1, 3)
    const resets = [-between(dice, 100, 140), -between(dice, 30, 80)]
    const level = (day: number): number => rate * (day + 200)
    return {
      days: 200,
      level,
      noise: 0.3,
      kind: 'written',
      see: (value, day) => value - Math.max(0, ...resets.filter((at) => at <= day).map((at) => level(at))),
      extra: { isCounter: true },
    }
  },
  'capacity enlarged': (dice) => {
    const [at, factor] = [-between(dice, 20, 100), between(dice, 1.3, 2)]
    return {
      days: 180,
      level: (day) => 40 + between0(day) * 0.1,
      noise: 0.3,
      see: (value, day) => (day < at ? value * factor : value),
      extra: { isPercentOfCapacity: true, capacity: Float64Array.of(at, factor) },
    }
  },
  'battery that declines, by load': (dice) => {
    const [rate, swing] = [between(dice, 0.02, 0.08), between(dice, 0.1, 0.3)]
    return {
      days: 300,
      level: (day) => 28 - rate * (day + 300) * 0.5,
      noise: 0.2,
      kind: 'runtime',
      direction: 'down',
      extra: { load: Float64Array.of(swing) },
    }
  },
  'demand of hosts': (dice) => {
    const rate = between(dice, 0.03, 0.12)
    return {
      days: 150,
      level: (day) => 60 + rate * day + (Math.abs(Math.floor(day) % 7) < 2 ? -8 : 0),
      noise: 1.5,
      hourly: true,
      dayWave: 10,
      kind: 'demand',
    }
  },
  'a few days only': (dice) => ({
    days: Math.round(between(dice, 3, 5)),
    level: linear(1),
    noise: 1.5,
    line: 700,
  }),
  'growth that wanders': (dice) => {
    const [rate, step] = [between(dice, 0.8, 2), between(dice, 0.8, 2)]
    const walk = new Map<number, number>()
    let sum = 0
    for (let day = -201; day < AHEAD; day += 1) {
      sum += rate + (day < 0 ? step * dice.normal() : 0)
      walk.set(day, sum)
    }
    return { days: 200, level: (day) => 300 + (walk.get(Math.floor(day)) ?? 0), noise: 0.5 }
  },
}
const between0 = (day: number): number => day

export const familyNames = Object.keys(FAMILIES)

export function makeCase(family: string, dice: Dice): Case {
  const course = FAMILIES[family]!(dice)
  const { days, level, noise, direction = 'up', dayWave = 0, see = (value) => value } = course
  const wanted = dice.next() < 0.25 ? between(dice, 150, 260) : between(dice, 6, 140)
  const line = course.line ?? lineFor(course, wanted)
  const every = course.hourly === true ? 1 / 24 : 1
  const at: number[] = []
  for (let day = -days; day <= 0; day += every) if (course.keep?.(day) ?? true) at.push(day)
  const wave = (day: number): number => (dayWave === 0 ? 0 : dayWave * Math.cos(2 * Math.PI * (day - 0.6)))
  const load = course.extra?.load === undefined ? null : loadOf(course.extra.load[0]!)
  const values = at.map((day) => {
    const seen = see(level(day) + wave(day) + noise * dice.normal() * (course.hourly ? 0.5 : 1), day)
    return load === null ? seen : seen * (50 / load(day)) ** 1.2
  })
  const input: ForecastInput = {
    kind: course.kind ?? 'space',
    atMs: Float64Array.from(at, (day) => NOW_MS + Math.round(day * 24) * HOUR_MS),
    values: Float64Array.from(values),
    line: load === null ? line : line,
    direction,
    nowMs: NOW_MS,
    horizonDays: 180,
    seed: 7,
    ...course.extra,
    ...(load === null ? {} : { load: Float64Array.from(at, load) }),
    ...(course.extra?.capacity === undefined
      ? {}
      : {
          capacity: Float64Array.from(at, (day) =>
            day < course.extra!.capacity![0]! ? 1000 : 1000 * course.extra!.capacity![1]!,
          ),
        }),
  }
  return { family, input, truthDays: truthOf(course, line), isShort: days < 7 }
}

const loadOf = (swing: number) => (day: number) => 50 * (1 + swing * Math.sin((2 * Math.PI * day) / 40))

/** When the course, without noise, is at the line. */
function truthOf({ level, direction = 'up', dayWave = 0, see, kind }: Course, line: number): number {
  const sign = direction === 'up' ? 1 : -1
  for (let day = 0; day < AHEAD; day += 0.05) {
    const value = kind === 'wear' ? see!(level(day), day) : level(day)
    if (sign * value + dayWave >= sign * line - 1e-9) return day
  }
  return NEVER
}

export { DAY_MS }
