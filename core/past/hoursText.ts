import type { ServiceHours } from './availability.ts'

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const
const MOST_TEXT = 600
const MOST_EXCEPT = 60
const DAY_MINUTES = 1440

/** What was entered for service hours cannot be read, and why. */
export class HoursError extends Error {
  override readonly name = 'HoursError'
}

type Times = readonly (readonly [fromMinute: number, toMinute: number])[]

/**
 * Service hours as people write them: “Mon–Fri 08:00–17:00; Sat 09:00–12:00, 13:00–16:00; not 2026-12-25”. A span that ends
 * before it begins goes on into the next day. Empty, “always” and “around the clock” are always.
 * @throws HoursError with what was read and what to write
 */
export function parseServiceHours(text: string): ServiceHours | null {
  const trimmed = text.trim().toLowerCase()
  if (trimmed === '' || trimmed === 'always' || trimmed === 'around the clock') return null
  if (text.length > MOST_TEXT) throw new HoursError(`Service hours have at most ${MOST_TEXT} characters.`)
  const days: [number, number][][] = DAYS.map(() => [])
  const except: string[] = []
  for (const part of trimmed
    .split(/[;\n]+/)
    .map((each) => each.trim())
    .filter(Boolean)) {
    if (part.startsWith('not '))
      except.push(
        ...part
          .slice(4)
          .split(/[,\s]+/)
          .filter(Boolean)
          .map(dateOf),
      )
    else addSpans(days, part)
  }
  if (except.length > MOST_EXCEPT)
    throw new HoursError(`At most ${MOST_EXCEPT} days can be left out; these are ${except.length}.`)
  if (days.every((times) => times.length === 0))
    throw new HoursError('No hours are left: name days and times, as in “Mon–Fri 08:00–17:00”.')
  return { days: days.map(joined), except: [...new Set(except)].sort() }
}

function addSpans(days: [number, number][][], part: string): void {
  const found = /^([a-z,–\- ]+?)\s+(\d.*)$/.exec(part)
  if (found === null)
    throw new HoursError(`“${part.slice(0, 40)}” is not days with times. Write “Mon–Fri 08:00–17:00”.`)
  const chosen = found[1]!.split(',').flatMap((each) => daysOf(each.trim()))
  for (const span of found[2]!.split(',').map((each) => each.trim())) {
    const [, from, to] = /^(\d{1,2}:\d{2})\s*[–-]\s*(\d{1,2}:\d{2})$/.exec(span) ?? []
    if (from === undefined || to === undefined)
      throw new HoursError(`“${span.slice(0, 40)}” is not a span of time. Write “08:00–17:00”.`)
    const [begins, ends] = [minuteOf(from), minuteOf(to)]
    if (begins === ends) throw new HoursError(`“${span}” has no length. For a whole day write “00:00–24:00”.`)
    for (const day of chosen)
      if (ends > begins) days[day]!.push([begins, ends])
      else {
        days[day]!.push([begins, DAY_MINUTES])
        if (ends > 0) days[(day + 1) % DAYS.length]!.push([0, ends])
      }
  }
}

function daysOf(words: string): number[] {
  const [first, last] = words.split(/[–-]/).map((each) => dayOf(each.trim()))
  if (last === undefined) return [first!]
  const count = ((last - first! + DAYS.length) % DAYS.length) + 1
  return Array.from({ length: count }, (_, index) => (first! + index) % DAYS.length)
}

function dayOf(word: string): number {
  const day = word.length < 2 ? -1 : DAYS.findIndex((name) => word.startsWith(name.toLowerCase().slice(0, 2)))
  if (day < 0) throw new HoursError(`“${word.slice(0, 20)}” is no day. Days are ${DAYS.join(', ')}.`)
  return day
}

function minuteOf(text: string): number {
  const [hour, minute] = text.split(':').map(Number)
  const minutes = hour! * 60 + minute!
  if (minute! > 59 || minutes > DAY_MINUTES)
    throw new HoursError(`“${text}” is no time of day: they go from 00:00 to 24:00.`)
  return minutes
}

function dateOf(text: string): string {
  const atMs = /^\d{4}-\d{2}-\d{2}$/.test(text) ? Date.parse(text) : NaN
  if (!Number.isFinite(atMs) || new Date(atMs).toISOString().slice(0, 10) !== text)
    throw new HoursError(`“${text.slice(0, 20)}” is no date. Write days left out as 2026-12-25.`)
  return text
}

/** Spans in order and apart. */
function joined(times: Times): [number, number][] {
  const made: [number, number][] = []
  for (const [from, to] of [...times].sort((a, b) => a[0] - b[0])) {
    const last = made.at(-1)
    if (last !== undefined && from <= last[1]) last[1] = Math.max(last[1], to)
    else made.push([from, to])
  }
  return made
}

const two = (count: number): string => String(count).padStart(2, '0')
const timeOf = (minute: number): string => `${two(Math.floor(minute / 60))}:${two(minute % 60)}`

/** Service hours as `parseServiceHours` reads them; days with the same times stand together. */
export function serviceHoursText(hours: ServiceHours | null): string {
  if (hours === null) return 'around the clock'
  const said = hours.days.map((times) =>
    times.map(([from, to]) => `${timeOf(from)}–${timeOf(to)}`).join(', '),
  )
  const parts: string[] = []
  for (let day = 0; day < DAYS.length;) {
    let last = day
    while (last + 1 < DAYS.length && said[last + 1] === said[day]) last += 1
    if (said[day] !== '') parts.push(`${DAYS[day]}${last === day ? '' : `–${DAYS[last]}`} ${said[day]}`)
    day = last + 1
  }
  return [...parts, ...(hours.except.length === 0 ? [] : [`not ${hours.except.join(', ')}`])].join('; ')
}
