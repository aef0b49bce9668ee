import type { Generated, JSONColumnType } from 'kysely'
import type { CreatedAt } from './columns.ts'

/** What a collector says of itself. */
export interface CollectorHealth {
  readonly sources: number
  /** From the moment that a reading is heard until it is judged, of 99 in 100; ms. */
  readonly delayMs: number | null
  readonly spoolBytes: number
  /** By how much its clock is ahead of the database's; absent of one from before it said so. */
  readonly skewMs?: number
}

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface PlatformTables {
  site: { id: Generated<number>; name: string; timeZone: string }
  setting: { key: string; body: JSONColumnType<Record<string, unknown>> }
  /** `workers`: of the job queue, whose jobs are given to others when it dies. */
  collector: {
    name: string
    startedAt: CreatedAt
    seenAt: CreatedAt
    workers: Generated<string[]>
    health: JSONColumnType<CollectorHealth> | null
  }
  change: { id: Generated<number>; at: CreatedAt; who: string; what: string }
}
