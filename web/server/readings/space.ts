import { measureOf } from '#core/catalogue'
import { spaceAhead } from '#core/readings'
import type { Db } from '#db/platform'
import {
  DEFAULT_RETENTION,
  listRetention,
  expectedReadingsADay,
  listSurveys,
  readShares,
  spaceOfTables,
} from '#db/readings'

const DAY_MS = 86_400_000

/** What the readings take, by measure and age, and how that goes on. */
export async function loadSpace(db: Db, nowMs: number) {
  const today = Math.floor(nowMs / DAY_MS)
  const [tables, { atMs, measures, ages }, surveys, retention, readingsADay] = await Promise.all([
    spaceOfTables(db),
    readShares(db, nowMs),
    listSurveys(db, today - 40),
    listRetention(db),
    expectedReadingsADay(db),
  ])
  const readings = measures.reduce((sum, each) => sum + each.readings, 0)
  const bytes = measures.reduce((sum, each) => sum + each.bytes + each.summaryBytes, 0)
  const ahead = spaceAhead(surveys)
  return {
    tables,
    measures: measures.map((each) => ({
      ...each,
      label: measureOf(each.measure).label,
      isDefault: !retention.has(each.measure),
      retention: retention.get(each.measure) ?? DEFAULT_RETENTION,
    })),
    ages: ages.map(({ fromDay, ...each }) => ({ ...each, fromMs: fromDay * DAY_MS })),
    ahead,
    /** By the intervals that are set: what stands in until the size was watched for some days. */
    expected: readings === 0 ? null : { readingsADay, bytesADay: (readingsADay * bytes) / readings },
    /** When it was surveyed what measures and ages take. */
    surveyedMs: atMs,
    freeBytes: surveys.at(-1)?.freeBytes ?? null,
    defaults: DEFAULT_RETENTION,
  }
}
