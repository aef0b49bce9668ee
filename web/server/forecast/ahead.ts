import { GEAR_KINDS, type MeasureKey, measureOf } from '#core/catalogue'
import { TOPICS, type Topic, type Verdict } from '#core/forecast'
import {
  countDue,
  countForecasts,
  countRunOut,
  listForecastPlaces,
  listForecasts,
  type Listing,
} from '#db/forecast'
import type { Present } from '../platform/present.ts'

/** What is shown of something that runs out. */
export interface AheadRow {
  readonly id: number
  readonly name: string
  /** What it is, and where. */
  readonly what: string
  readonly topic: Topic
  readonly verdict: Verdict
  readonly sentence: string
  readonly line: string
  readonly runOutMs: number | null
  readonly earlyMs: number | null
  readonly lateMs: number | null
  readonly orderByMs: number | null
  readonly leadDays: number
  readonly order: Listing['order']
  readonly room: string
  readonly tags: readonly string[]
  /** What else it can be found by: its rack, and what people have written down of it. */
  readonly about: string
}

const KIND_WORDS: Readonly<Partial<Record<MeasureKey, string>>> = {
  'hw.drive.life_left': 'drive',
  'hw.drive.written': 'drive, by what was written',
  'system.filesystem.inodes.utilization': 'inodes',
  'hw.pool.promise.utilization': 'promised space',
  'ups.battery.minutes_left': 'battery runtime',
  'hw.current': 'current of a phase',
  'ups.output.load': 'load of a UPS',
}

export function aheadRow(row: Listing): AheadRow {
  const { body, gear, part, gearKind, measure } = row
  const kind = KIND_WORDS[measure] ?? measureOf(measure).label.toLowerCase()
  return {
    id: row.seriesId,
    name: part === null ? gear : `${part} in ${gear}`,
    what: `${kind} · ${GEAR_KINDS[gearKind].label.toLowerCase()}`,
    topic: row.topic,
    verdict: row.verdict,
    sentence: body.sentence,
    line: body.line.words,
    runOutMs: row.runOutMs,
    earlyMs: body.earlyMs,
    lateMs: body.lateMs,
    orderByMs: row.orderByMs,
    leadDays: body.leadDays,
    order: row.order,
    room: row.room ?? '',
    tags: row.tags,
    about: [row.rack ?? '', ...Object.values(row.own)].join(' '),
  }
}

const SHOWN = {
  'runs-out': ['crosses', 'over'],
  'not-in-sight': ['not-in-sight'],
  'too-early': ['too-little'],
} as const satisfies Record<string, readonly Verdict[]>
export type Showing = keyof typeof SHOWN
export const isShowing = (text: string | null): text is Showing => text !== null && text in SHOWN

export const aheadRows = async ({ db }: Present, showing: Showing, most?: number): Promise<AheadRow[]> =>
  (await listForecasts(db, SHOWN[showing], { most })).map(aheadRow)

const WEEK_MS = 7 * 86_400_000
const HALF_YEAR_MS = 182 * 86_400_000

/** So many rows come with the page; the rest when it is open. */
const FIRST_ROWS = 60

/** What must be ordered first has its name in the sentence; mostly it stands at the top of the list. */
const NAMED = 2

async function dueNames(
  { db }: Present,
  before: Date,
  { rows, count }: { readonly rows: readonly AheadRow[]; readonly count: number },
): Promise<string[]> {
  const isDue = ({ orderByMs, order }: AheadRow): boolean =>
    order === null && orderByMs !== null && orderByMs < before.getTime()
  const atTop = rows.filter(isDue).slice(0, NAMED)
  if (atTop.length >= Math.min(NAMED, count)) return atTop.map(({ name }) => name)
  const due = await listForecasts(db, SHOWN['runs-out'], { dueBefore: before, most: NAMED })
  return due.map(aheadRow).map(({ name }) => name)
}

/** What runs out, and how many there are of each sort. */
export async function loadAhead(present: Present, showing: Showing) {
  const { db, nowMs } = present
  const week = new Date(nowMs + WEEK_MS)
  const [rows, counts, dueCount, withinHalfYear, places] = await Promise.all([
    aheadRows(present, showing, FIRST_ROWS),
    countForecasts(db),
    countDue(db, week),
    countRunOut(db, new Date(nowMs + HALF_YEAR_MS)),
    listForecastPlaces(db),
  ])
  const countOf = (verdicts: readonly Verdict[], topic?: Topic): number =>
    counts
      .filter((each) => verdicts.includes(each.verdict) && (topic === undefined || each.topic === topic))
      .reduce((sum, { count }) => sum + Number(count), 0)
  return {
    list: { rows, isWhole: rows.length < FIRST_ROWS },
    due: { count: dueCount, names: await dueNames(present, week, { rows, count: dueCount }) },
    withinHalfYear,
    places,
    counts: {
      all: counts.reduce((sum, { count }) => sum + Number(count), 0),
      runsOut: countOf(SHOWN['runs-out']),
      notInSight: countOf(SHOWN['not-in-sight']),
      tooEarly: countOf(SHOWN['too-early']),
    },
    topics: TOPICS.map((topic) => ({ topic, count: countOf(SHOWN['runs-out'], topic) })),
  }
}
