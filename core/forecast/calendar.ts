/** A whole day with something to be done on it. */
export interface CalendarDay {
  /** The same for the same thing, whatever its day becomes. */
  readonly uid: string
  readonly dayMs: number
  readonly summary: string
  readonly description: string
  readonly url: string
}

/** A time of every day or week, as the clocks show it wherever it is read (RFC 5545 §3.3.5, form 1). */
export interface CalendarWeekly {
  readonly uid: string
  /** Its first time, as if what clocks show were UTC. */
  readonly wallMs: number
  readonly minutes: number
  readonly every: 'day' | 'week'
  readonly summary: string
  readonly description: string
}

const MOST_OCTETS = 75
const encoder = new TextEncoder()

/** A calendar of whole days (RFC 5545): lines of 75 octets at most, ended by CR LF, texts escaped (3.1, 3.3.11). */
export function writeCalendar(name: string, days: readonly CalendarDay[], nowMs: number): string {
  return calendarOf(
    name,
    days.flatMap(({ uid, dayMs, summary, description, url }) => [
      'BEGIN:VEVENT',
      `UID:${text(uid)}`,
      `DTSTAMP:${stamp(nowMs)}`,
      `DTSTART;VALUE=DATE:${new Date(dayMs).toISOString().slice(0, 10).replaceAll('-', '')}`,
      `SUMMARY:${text(summary)}`,
      `DESCRIPTION:${text(description)}`,
      `URL:${url}`,
      'TRANSP:TRANSPARENT',
      'END:VEVENT',
    ]),
  )
}

/** A calendar of times that come again and again (RFC 5545 §3.8.5.3). */
export const writeWeekly = (name: string, times: readonly CalendarWeekly[], nowMs: number): string =>
  calendarOf(
    name,
    times.flatMap(({ uid, wallMs, minutes, every, summary, description }) => [
      'BEGIN:VEVENT',
      `UID:${text(uid)}`,
      `DTSTAMP:${stamp(nowMs)}`,
      `DTSTART:${stamp(wallMs).slice(0, -1)}`,
      `DURATION:PT${minutes}M`,
      `RRULE:FREQ=${every === 'day' ? 'DAILY' : 'WEEKLY'}`,
      `SUMMARY:${text(summary)}`,
      `DESCRIPTION:${text(description)}`,
      'END:VEVENT',
    ]),
  )

/** `20261129T020000Z`. */
const stamp = (atMs: number): string => new Date(atMs).toISOString().replaceAll(/[-:]|\.\d+/g, '')

const calendarOf = (name: string, events: readonly string[]): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Restless Rack//EN',
    'CALSCALE:GREGORIAN',
    `NAME:${text(name)}`,
    ...events,
    'END:VCALENDAR',
  ]
    .map((line) => `${fold(line)}\r\n`)
    .join('')

/** Controls have no place in a text; what separates values is escaped. */
const text = (value: string): string =>
  value
    .replaceAll(/\r\n?|\n/g, '\n')
    // eslint-disable-next-line no-control-regex -- these are what is taken out
    .replaceAll(/[\u0000-\u0009\u000b-\u001f\u007f]/g, ' ')
    .replaceAll(/[\\;,]/g, (sign) => `\\${sign}`)
    .replaceAll('\n', '\\n')

/** Breaks a line between characters, never within one. */
function fold(line: string): string {
  let folded = ''
  let octets = 0
  for (const sign of line) {
    const size = encoder.encode(sign).length
    if (octets + size > MOST_OCTETS) {
      folded += '\r\n '
      octets = 1
    }
    folded += sign
    octets += size
  }
  return folded
}
