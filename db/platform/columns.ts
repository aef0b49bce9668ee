import type { ColumnType, JSONColumnType } from 'kysely'

export type Instant = ColumnType<Date, Date, Date>
export type MaybeInstant = ColumnType<Date | null, Date | null | undefined, Date | null>
export type CreatedAt = ColumnType<Date, Date | undefined, never>
export type Facts = JSONColumnType<Record<string, string>>
