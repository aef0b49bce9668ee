import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { MeasureKey } from '#core/catalogue'
import type { Accepted, QuietScope } from '#core/alerts'
import type { Severity } from '#core/rules'
import type { CreatedAt, Instant, MaybeInstant } from '../platform/columns.ts'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface AlertsTables {
  alert: {
    id: Generated<number>
    ruleKey: string
    seriesId: number | null
    sourceId: number | null
    gearId: number | null
    partId: number | null
    measure: MeasureKey | null
    /** Whom it is about, in a word: “series 12”, “source 3”, “gear 4”. Open once of a rule. */
    subject: string
    severity: Severity
    title: string
    reason: string
    /** The line in force at that time, in words. */
    line: ColumnType<string | null, string | null | undefined, string | null>
    /** The reading that opened it. */
    value: ColumnType<number | null, number | null | undefined, number | null>
    causeId: ColumnType<number | null, number | null | undefined, number | null>
    /** How its cause leads to it, in words. */
    causePath: ColumnType<string | null, string | null | undefined, string | null>
    /** What it means for others, in a sentence. */
    consequence: ColumnType<string | null, string | null | undefined, string | null>
    /** How often it came and went while it was open as one. */
    flaps: Generated<number>
    quietId: ColumnType<number | null, number | null | undefined, number | null>
    sinceAt: Instant
    openedAt: Instant
    clearedAt: MaybeInstant
    clearedReason: string | null
    takenAt: MaybeInstant
    takenBy: string | null
  }
  quiet: {
    id: Generated<number>
    what: 'quiet' | 'accept'
    scope: JSONColumnType<QuietScope>
    reason: string
    who: string
    createdAt: CreatedAt
    startsAt: Instant
    endsAt: MaybeInstant
    repeats: string | null
    accepted: JSONColumnType<Accepted> | null
    announcedAt: MaybeInstant
    endedAt: MaybeInstant
    endedBy: string | null
    endedWhy: string | null
  }
  alertEvent: {
    id: Generated<number>
    alertId: number
    at: Instant
    what: string
    who: string | null
    text: string
  }
}
