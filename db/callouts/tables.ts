import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { CallOut, DutyCalendar, ChannelKind, Recipients, Facts as MessageFacts } from '#core/callouts'
import type { CreatedAt, MaybeInstant } from '../platform/columns.ts'

/** What a message is for: who receives it, which command runs, which gear is asked to stop. */
export interface MessageTarget {
  readonly to?: Recipients | null
  readonly address?: string
  readonly command?: string
  readonly gearId?: number
  /** Of a dry run: all that a step covers. */
  readonly gearIds?: readonly number[]
}

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface CalloutsTables {
  person: { id: Generated<number>; name: string; email: string | null; phone: string | null }
  team: { id: Generated<number>; name: string; duty: JSONColumnType<DutyCalendar> | null }
  teamMember: { teamId: number; personId: number }
  channel: {
    id: Generated<number>
    name: string
    kind: ChannelKind
    settings: JSONColumnType<Record<string, unknown>>
    sealedSecret: Buffer | null
    createdAt: CreatedAt
  }
  callOut: {
    id: Generated<number>
    name: string
    isOn: Generated<boolean>
    body: JSONColumnType<CallOut, string, string>
    createdBy: ColumnType<string | null, string | null | undefined, string | null>
    createdAt: CreatedAt
  }
  /** Commands that the administrator of a collector's machine allows there. */
  allowedCommand: {
    collector: string
    name: string
    words: string
    heardAt: ColumnType<Date, Date | undefined, Date>
  }
  message: {
    id: string
    /** `null` of a test and of a dry run. */
    alertId: number | null
    /** Who it went to: filled in when it goes out. */
    recipients: string[]
    /** Who is told, or what is done, in words. */
    team: string
    event: Generated<'opened' | 'worse' | 'cleared' | 'test'>
    subject: string
    body: string
    createdAt: CreatedAt
    sentAt: MaybeInstant
    attempts: Generated<number>
    answer: ColumnType<string | null, string | null | undefined, string | null>
    /** Why it was not sent; such a message never will be. */
    skipped: ColumnType<string | null, string | null | undefined, string | null>
    callOutId: ColumnType<number | null, number | null | undefined, number | null>
    step: Generated<number>
    action: Generated<'notify' | 'command' | 'stop'>
    channelId: ColumnType<number | null, number | null | undefined, number | null>
    /** Whom a channel reaches; of a command its name, of a stop the gear. */
    target: JSONColumnType<MessageTarget> | null
    facts: JSONColumnType<MessageFacts> | null
    dueAt: ColumnType<Date, Date | undefined, Date>
    triedAt: MaybeInstant
    /** It was done and did not succeed, and is not tried again: a command that ended with an error. */
    isFailed: Generated<boolean>
    isDry: Generated<boolean>
  }
  heartbeat: {
    id: Generated<number>
    direction: 'out' | 'in'
    name: string
    url: ColumnType<string | null, string | null | undefined, string | null>
    sealedSecret: ColumnType<Buffer | null, Buffer | null | undefined, Buffer | null>
    tokenHash: ColumnType<Buffer | null, Buffer | null | undefined, Buffer | null>
    intervalSeconds: number
    since: CreatedAt
    triedAt: MaybeInstant
    throughAt: MaybeInstant
    answer: ColumnType<string | null, string | null | undefined, string | null>
  }
}
