import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { RehearsalRequest, RehearsalResult, Rule } from '#core/rules'
import type { CreatedAt, MaybeInstant } from '../platform/columns.ts'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface RulesTables {
  rule: {
    id: Generated<number>
    key: string
    body: JSONColumnType<Rule>
    isDefault: boolean
    isOn: Generated<boolean>
    createdAt: CreatedAt
    createdBy: ColumnType<string | null, string | null | undefined, string | null>
  }
  rehearsal: {
    id: Generated<string>
    requestedAt: CreatedAt
    requestedBy: string
    body: JSONColumnType<RehearsalRequest>
    startedAt: MaybeInstant
    finishedAt: MaybeInstant
    cancelledAt: MaybeInstant
    done: Generated<number>
    result: JSONColumnType<RehearsalResult> | null
    problem: string | null
  }
}
