import { measureOf } from '#core/catalogue'
import { spaceAhead } from '#core/readings'
import type { Db } from '#db/platform'
import {
  DEFAULT_RETENTION,
  listRetention,
  expectedRate,
  listSurveys,
  spaceByAge,
  spaceByMeasure,
  spaceOfTables,
} from '#db/readings'

const DAY_MS = 86_400_000

/** What the readings take, by measure and age, and how that goes on. */
export async function loadSpace(db: Db, nowMs: number) {
  const today = Math.floor(nowMs / DAY_MS)
  const [tables, measures, ages, surveys, retention, rate] = await Promise.all([
    spaceOfTables(db),
    spaceByMeasure(db),
    spaceByAge(db),
    listSurveys(db, today - 40),
    listRetention(db),
    expectedRate(db),
  ])
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
    expected:
      rate.bytesAReading === null
        ? null
        : { readingsADay: rate.readingsADay, bytesADay: rate.readingsADay * rate.bytesAReading },
    freeBytes: surveys.at(-1)?.freeBytes ?? null,
    defaults: DEFAULT_RETENTION,
  }
}
