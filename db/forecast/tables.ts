import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { KeptForecast, Topic, Verdict } from '#core/forecast'
import type { CreatedAt, Instant, MaybeInstant } from '../platform/columns.ts'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface ForecastTables {
  forecast: {
    seriesId: number
    madeAt: Instant
    topic: Topic
    verdict: Verdict
    runOutAt: MaybeInstant
    orderBy: MaybeInstant
    body: JSONColumnType<KeptForecast>
  }
  forecastOrder: {
    id: Generated<number>
    seriesId: number
    words: string
    expectedOn: ColumnType<Date, string, string>
    madeBy: string
    madeAt: CreatedAt
    endedAt: MaybeInstant
  }
  leadTime: {
    id: Generated<number>
    topic: Topic
    tag: string | null
    gearId: number | null
    days: number
    madeBy: string
    madeAt: CreatedAt
  }
  forecastMark: {
    seriesId: number
    at: Instant
    isGrowth: boolean
    madeBy: string
    madeAt: CreatedAt
  }
}
