import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { CreatedAt } from './columns.ts'

/** `refusal`: somebody who is signed in tried what their role does not allow. */
export type RecordKind = 'change' | 'sign-in' | 'refusal'

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
  /** Who did what; it is only added to. */
  change: {
    id: Generated<number>
    at: CreatedAt
    who: string
    what: string
    kind: Generated<RecordKind>
    outcome: Generated<'done' | 'refused'>
    /** Of whoever acts in the transaction (`actAs`), when not said. */
    accountId: ColumnType<string | null, string | null | undefined, never>
    address: ColumnType<string | null, string | null | undefined, never>
    /** Of all that one transaction did. */
    act: ColumnType<string | null, never, never>
  }
  /** What rows that people set up were before, and are after; written by the database. */
  changeRow: {
    id: Generated<number>
    act: ColumnType<string, never, never>
    of: ColumnType<string, never, never>
    name: ColumnType<string | null, never, never>
    before: ColumnType<Record<string, unknown> | null, never, never>
    after: ColumnType<Record<string, unknown> | null, never, never>
  }
}
