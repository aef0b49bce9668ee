import type { Generated, JSONColumnType } from 'kysely'
import type { MeasureKey, OwnMeasure } from '#core/catalogue'
import type { CreatedAt, Instant } from '../platform/columns.ts'
import type { SpaceShares } from '#core/readings'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface ReadingsTables {
  layout: { id: Generated<number>; sourceId: number; seriesIds: number[] }
  hot: { sourceId: number; ts: Instant; layout: number; vals: Buffer }
  chunk: {
    seriesId: number
    day: number
    days: number
    readings: number
    firstMs: string
    lastMs: string
    data: Buffer
  }
  summary: { seriesId: number; period: number; hours: Buffer; sketches: Buffer }
  lastSealed: { sourceId: number; ts: Instant; layout: number; vals: Buffer }
  correction: {
    id: Generated<string>
    seriesId: number
    atMs: number
    was: number
    became: number
    noticedAt: CreatedAt
  }
  ownMeasure: {
    key: string
    body: JSONColumnType<Omit<OwnMeasure, 'key'>>
    madeBy: string
    madeAt: CreatedAt
  }
  retention: { measure: MeasureKey; rawDays: number; summaryDays: number }
  spaceSurvey: {
    day: number
    databaseBytes: string
    freeBytes: string | null
    shares: JSONColumnType<SpaceShares> | null
  }
}
