import type { Findings, GearFinding } from '../gear/index.ts'
import { formatDate, formatNumber } from '../units/index.ts'

/** The battery that a UPS has now, as people say: all blocks of it, which are exchanged together. */
export interface Battery {
  /** A day as `2022-03-12`. */
  readonly installed: string
  /** How long its maker says that it lasts. */
  readonly years: number
}

const DAY_MS = 86_400_000
export const LEAST_YEARS = 1
export const MOST_YEARS = 25
/** No battery in use is older. */
const FIRST_DAY = '1990-01-01'

const dayMs = (day: string): number => Date.parse(`${day}T00:00:00Z`)
const dateText = (atMs: number): string => formatDate(atMs, 'UTC')

/** Days since it was put in, to within a hundredth: a value that changes no more often than that is kept in little room. */
export const batteryAge = ({ installed }: Pick<Battery, 'installed'>, atMs: number): number =>
  Math.max(0, Math.round(((atMs - dayMs(installed)) / DAY_MS) * 100) / 100)

/** The instant at which it is as old as it is made for: the same day of the year, whole months on. */
export function batteryEndMs({ installed, years }: Battery): number {
  const from = new Date(dayMs(installed))
  return Date.UTC(from.getUTCFullYear(), from.getUTCMonth() + Math.round(years * 12), from.getUTCDate())
}

/** Days that it is made for. */
export const batteryLife = (battery: Battery): number =>
  (batteryEndMs(battery) - dayMs(battery.installed)) / DAY_MS

/** @returns a battery, or what is wrong with what was given */
export function batteryIn(installed: string, years: string, nowMs: number): Battery | string {
  const day = installed.trim()
  const number = Number(years.trim().replace(',', '.'))
  if (!/^\d{4}-\d{2}-\d{2}$/.test(day) || new Date(dayMs(day) || 0).toISOString().slice(0, 10) !== day)
    return day === ''
      ? 'The day on which it was put in is missing.'
      : `“${day}” is no day: write it as 2022-03-12.`
  if (dayMs(day) > nowMs + DAY_MS)
    return `${dateText(dayMs(day))} has not come yet: enter the day once it is in.`
  if (day < FIRST_DAY) return `No battery of ${day.slice(0, 4)} is in use any more: look at the year.`
  if (!(number >= LEAST_YEARS && number <= MOST_YEARS))
    return `“${years.trim()}” is not the life of a battery: enter years from ${LEAST_YEARS} to ${MOST_YEARS}, as its maker says.`
  return { installed: day, years: Math.round(number * 12) / 12 }
}

const yearsText = (years: number): string => `${formatNumber(years, Number.isInteger(years) ? 0 : 1)} years`

/** “Put in on 12 Mar 2022 and made for 5 years: it reaches that age on 12 Mar 2027, in 103 days.” */
export function batterySentence(battery: Battery, nowMs: number): string {
  const endMs = batteryEndMs(battery)
  const days = Math.round((endMs - nowMs) / DAY_MS)
  const life = `Put in on ${dateText(dayMs(battery.installed))} and made for ${yearsText(battery.years)}`
  return days > 0
    ? `${life}: it reaches that age on ${dateText(endMs)}, in ${days} days.`
    : `${life}: it has been older than that since ${dateText(endMs)}.`
}

/** Under this key a UPS has it as a part: one that takes its place is another part, with a past of its own. */
export const batteryKey = (installed: string): string => `battery ${installed}`
/** “Battery of Mar 2022”. */
const nameOf = (installed: string): string => `Battery of ${dateText(dayMs(installed)).replace(/^\d+\s/, '')}`

/** What a source brings, with the batteries that people say its UPS units have, and their age. */
export function withBatteries(
  findings: Findings,
  batteries: ReadonlyMap<string, Battery>,
  atMs: number,
): Findings {
  const has = ({ key }: GearFinding): boolean => batteries.has(key)
  if (!findings.gear.some(has)) return findings
  return {
    ...findings,
    gear: findings.gear.map((gear) => {
      const battery = batteries.get(gear.key)
      return battery === undefined ? gear : { ...gear, parts: [...gear.parts, partOf(battery)] }
    }),
    readings: [
      ...findings.readings,
      ...findings.gear.filter(has).map(({ key }) => {
        const battery = batteries.get(key)!
        return {
          gear: key,
          part: batteryKey(battery.installed),
          measure: 'ups.battery.age' as const,
          value: batteryAge(battery, atMs),
        }
      }),
    ],
  }
}

const partOf = ({ installed, years }: Battery) => ({
  key: batteryKey(installed),
  kind: 'battery' as const,
  name: nameOf(installed),
  facts: { model: `made for ${yearsText(years)}` },
})
