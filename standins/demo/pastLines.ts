import { hash01 } from '../model/noise.ts'
import { ARRAYS, CAMERAS, COOLINGS, RECORDER, SERVERS, SWITCHES, UPSES } from '../site/index.ts'

const HOUR_MS = 3_600_000
const DAYS = 7
/** The last minutes before the demo began are left to what its stand-ins say themselves, and to the rules that hear them. */
const UNTIL_MS = HOUR_MS

/** A line of syslog as a device of the demo has sent it, by the name of its gear. */
export interface PastLine {
  readonly gear: string
  readonly atMs: number
  /** 0 emergency to 7 debug (RFC 5424 §6.2.1). */
  readonly severity: number
  readonly app: string
  readonly text: string
  readonly times: number
}

/** Something that some gear says again and again. */
interface Habit {
  readonly of: readonly string[]
  readonly everyHours: number
  readonly severity: number
  readonly app: string
  /** @param chance in 0..1, another at each occurrence */
  readonly text: (chance: number) => string
  readonly times?: (chance: number) => number
}

const names = (list: readonly { readonly name: string }[]): string[] => list.map(({ name }) => name)
const whole = (chance: number, from: number, to: number): number =>
  from + Math.floor(chance * (to - from + 1))

const HABITS: readonly Habit[] = [
  {
    of: [...names(SERVERS), ...names(SWITCHES)],
    everyHours: 12,
    severity: 6,
    app: 'clock',
    text: (chance) => `synchronised, offset ${(chance * 2).toFixed(1)} ms`,
  },
  {
    of: names(SERVERS),
    everyHours: 30,
    severity: 6,
    app: 'login',
    text: (chance) =>
      `session of ${['asta', 'bo', 'backup'][whole(chance, 0, 2)]} opened, closed after ${whole(chance, 2, 40)} min`,
  },
  {
    of: names(SERVERS).slice(0, 8),
    everyHours: 24,
    severity: 5,
    app: 'backup',
    text: (chance) => `nightly copy done: ${whole(chance, 180, 420)} GB in ${whole(chance, 35, 90)} min`,
  },
  {
    of: names(SERVERS).slice(2, 4),
    everyHours: 40,
    severity: 4,
    app: 'memory',
    text: (chance) => `corrected error, module ${whole(chance, 1, 12)}`,
    times: (chance) => whole(chance, 1, 6),
  },
  {
    of: names(ARRAYS),
    everyHours: 24,
    severity: 5,
    app: 'scrub',
    text: (chance) => `pool read through in ${whole(chance, 140, 220)} min, 0 errors`,
  },
  {
    of: names(ARRAYS),
    everyHours: 52,
    severity: 4,
    app: 'drive',
    text: (chance) =>
      `slow answer of the drive in bay ${whole(chance, 1, 24)}: ${whole(chance, 900, 2600)} ms`,
  },
  {
    of: names(SWITCHES),
    everyHours: 17,
    severity: 5,
    app: 'port',
    text: (chance) => `port ${whole(chance, 1, 48)}: link down, up again after ${whole(chance, 2, 9)} s`,
  },
  {
    of: names(SWITCHES).slice(0, 1),
    everyHours: 9,
    severity: 4,
    app: 'login',
    text: (chance) => `wrong password of operator from 192.0.2.${whole(chance, 20, 90)}`,
    times: (chance) => whole(chance, 1, 3),
  },
  {
    of: names(UPSES),
    everyHours: 84,
    severity: 5,
    app: 'battery',
    text: (chance) => `self-test passed, ${whole(chance, 52, 58)} min left at this load`,
  },
  {
    of: names(UPSES).slice(0, 2),
    everyHours: 60,
    severity: 4,
    app: 'input',
    text: (chance) => `voltage fell to ${whole(chance, 196, 205)} V for ${whole(chance, 40, 300)} ms`,
  },
  {
    of: names(COOLINGS),
    everyHours: 36,
    severity: 5,
    app: 'filter',
    text: (chance) => `pressure across the filter ${whole(chance, 110, 150)} Pa`,
  },
  {
    of: [...CAMERAS, RECORDER],
    everyHours: 48,
    severity: 6,
    app: 'stream',
    text: (chance) => `stream begun anew after ${whole(chance, 1, 4)} lost frames`,
  },
  {
    of: [RECORDER],
    everyHours: 70,
    severity: 3,
    app: 'store',
    text: (chance) => `writing took ${whole(chance, 4, 9)} s, frames were dropped`,
  },
]

/** What the devices said in the week before the demo began, oldest first; the same for the same beginning. */
export function pastLines(bornMs: number): PastLine[] {
  const toMs = bornMs - UNTIL_MS
  const fromMs = bornMs - DAYS * 24 * HOUR_MS
  return HABITS.flatMap((habit, number) =>
    habit.of.flatMap((gear, which) => {
      const seed = number * 1000 + which
      const everyMs = habit.everyHours * HOUR_MS
      const lines: PastLine[] = []
      for (let step = Math.floor(fromMs / everyMs); step * everyMs < toMs; step += 1) {
        const atMs = Math.floor((step + hash01(seed, step)) * everyMs)
        if (atMs < fromMs || atMs >= toMs) continue
        const chance = hash01(seed + 500, step)
        const { severity, app } = habit
        lines.push({ gear, atMs, severity, app, text: habit.text(chance), times: habit.times?.(chance) ?? 1 })
      }
      return lines
    }),
  ).sort((one, other) => one.atMs - other.atMs)
}
