import {
  type Busy,
  isPicked,
  type KeptTime,
  pickWords,
  quietHours,
  quietSentence,
  sureWords,
  writePick,
} from '#core/past'
import { writeWeekly } from '#core/forecast'
import { HOUR_MS, NO_HOURS } from '#core/readings'
import { wallClock } from '#core/units'
import { type KnownJob, listKnownJobs } from '#db/past'
import { hoursOfMany } from '#db/readings'
import { listSubjects } from '#db/rules'
import type { Present } from '../platform/present.ts'
import { nameOf } from './combined.ts'
import { oftenAsked, picksIn, placeWords } from './picks.ts'

/** So many series are looked at together. */
const MOST_MEMBERS = 60
const DAY_MS = 24 * HOUR_MS
const WEEK_MS = 7 * DAY_MS
const MOST_WEEKS = 26

const numberIn = (
  text: string | null,
  [least, most]: readonly [number, number],
  otherwise: number,
): number => {
  const value = Number(text ?? '')
  return text !== null && Number.isInteger(value) && value >= least && value <= most ? value : otherwise
}

export async function loadQuietHours(present: Present, url: URL) {
  const lengthHours = numberIn(url.searchParams.get('len'), [1, 24], 3)
  const weeks = numberIn(url.searchParams.get('weeks'), [1, MOST_WEEKS], 8)
  const every = url.searchParams.get('every') === 'week' ? ('week' as const) : ('day' as const)
  const { picks, problems } = picksIn(url)
  const [{ timeZone }, jobs] = await Promise.all([present.site(), listKnownJobs(present.db)])
  const chosen = await membersOf(present, picks)
  const toMs = Math.ceil(present.nowMs / HOUR_MS) * HOUR_MS
  const hours = await hoursOfMany(
    present.db,
    chosen.members.map(({ id }) => id),
    toMs - weeks * WEEK_MS,
    toMs,
  )
  const members: Busy[] = chosen.members.map(({ id, name, sort }) => ({
    name,
    sort,
    hours: hours.get(id) ?? NO_HOURS,
  }))
  const found = quietHours(members, { lengthHours, timeZone, every, kept: jobs.flatMap(timesOf) })
  return {
    lengthHours,
    every,
    weeks,
    found,
    jobs,
    members: members.length,
    picks: chosen.picks,
    problems: [...problems, ...chosen.problems],
    often: picks.length === 0 ? await oftenAsked(present) : [],
    sentence: quietSentence(found, { lengthHours, every, members: members.length }),
  }
}

async function membersOf(present: Present, asked: ReturnType<typeof picksIn>['picks']) {
  const problems: string[] = []
  const members: { id: number; name: string; sort: string }[] = []
  const picks: { pick: string; words: string; count: number }[] = []
  if (asked.length === 0) return { members, picks, problems }
  const [words, scopes] = await Promise.all([placeWords(present), present.scopes()])
  const all = await listSubjects(
    present.db,
    { measures: [...new Set(asked.map(({ measure }) => measure))] },
    scopes,
  )
  for (const pick of asked) {
    const place = words(pick)
    const own = place === null ? [] : all.filter((subject) => isPicked(pick, subject))
    const room = own.slice(0, MOST_MEMBERS - members.length)
    const said = pickWords(pick, place ?? 'what is gone')
    picks.push({ pick: writePick(pick), words: said, count: own.length })
    if (own.length === 0) problems.push(`“${said}” has no series.`)
    if (own.length > room.length)
      problems.push(
        `“${said}” are ${own.length} series; at most ${MOST_MEMBERS} are looked at together. Name a cluster or a tag.`,
      )
    members.push(...room.map((subject) => ({ id: subject.id, name: nameOf(subject), sort: subject.measure })))
  }
  return { members, picks, problems }
}

const timesOf = ({ name, days, fromMinute, minutes }: KnownJob): KeptTime[] =>
  days.map((day) => ({ name, fromMinute: day * 1440 + fromMinute, minutes }))

/** When the clocks show the hour of a day or of a week next; all as the clocks show it. */
function nextOf(hour: number, every: 'day' | 'week', nowWall: number): number {
  const stepMs = every === 'day' ? DAY_MS : WEEK_MS
  // Weeks begin on Mondays: 1 January 1970 was a Thursday.
  const firstMs = every === 'day' ? 0 : 4 * DAY_MS
  const start = Math.floor((nowWall - firstMs) / stepMs) * stepMs + firstMs + hour * HOUR_MS
  return start >= nowWall ? start : start + stepMs
}

/** One of the windows as a time of every week (RFC 5545), from the next such day on. */
export async function quietCalendar(present: Present, url: URL): Promise<string | null> {
  const { found, lengthHours, every } = await loadQuietHours(present, url)
  const hour = numberIn(url.searchParams.get('hour'), [0, 167], -1)
  const window = found.windows.find((each) => each.hour === hour)
  if (window === undefined) return null
  const { timeZone, name } = await present.site()
  return writeWeekly(
    `Quiet hours of ${name}`,
    [
      {
        uid: `quiet-${every}-${hour}-${lengthHours}@restless-rack`,
        wallMs: nextOf(hour, every, wallClock(present.nowMs, timeZone)),
        every,
        minutes: lengthHours * 60,
        summary: 'Quiet window',
        description: `Expected ${Math.round(window.expected * 100)} % of the peak, at worst ${Math.round(window.worst * 100)} %, ${sureWords(window.times, every)}. Time of the site: ${timeZone}.`,
      },
    ],
    present.nowMs,
  )
}
