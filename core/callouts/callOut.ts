import type { Scope, Severity } from '../rules/index.ts'

/** What a message goes out by. `screen` is every open page of the application. */
export const CHANNEL_KINDS = ['mail', 'text', 'hook', 'screen'] as const
export type ChannelKind = (typeof CHANNEL_KINDS)[number]

/** What is told of an alert. */
export type MessageEvent = 'opened' | 'worse' | 'cleared'

/** When a step's turn comes: so long after the alert opened, or after so many of its source's intervals. */
export type After =
  { readonly kind: 'span'; readonly ms: number } | { readonly kind: 'intervals'; readonly count: number }

/** Who is reached by a channel that reaches people: all of a team, or who of it is on duty when it goes out. */
export type Recipients =
  { readonly kind: 'team'; readonly teamId: number } | { readonly kind: 'duty'; readonly teamId: number }

/** What is done belongs to the rules that are named (by their keys): of any other alert it is not done. */
export type Action =
  /** `to` is `null` of a hook and of the screen: those have no recipients. */
  | { readonly do: 'notify'; readonly channelId: number; readonly to: Recipients | null }
  /** A command that the administrator of the collector's machine has allowed there, by its name. */
  | { readonly do: 'command'; readonly name: string; readonly rules?: readonly string[] }
  /** Asks gear to stop through its own protocol. `null` is the gear that the alert is about. */
  | { readonly do: 'stop'; readonly gearId: number | null; readonly rules?: readonly string[] }

export interface Step {
  readonly after: After
  readonly action: Action
  /** A step that waits is left out once somebody has taken the alert, unless this says otherwise. */
  readonly evenIfTaken: boolean
}

/** Hours of the week in the site's clocks. A span that ends before it begins goes over midnight. */
export interface Hours {
  /** 0 is Monday. The day on which a span begins. */
  readonly days: readonly number[]
  /** Minutes after midnight; `to` may be 1440. */
  readonly fromMinute: number
  readonly toMinute: number
}

export interface CallOut {
  readonly name: string
  /** From this severity on. */
  readonly severity: Severity
  readonly scope: Scope
  /** `null` is always. */
  readonly hours: Hours | null
  /** What comes outside the hours waits until they begin, or is not told by this call-out. */
  readonly outside: 'wait' | 'leave'
  /** After a message about a trouble nothing more is told of it for so long, unless it gets worse. */
  readonly holdOffMs: number
  /** In any minute one step sends this many mails or texts at most; when more would go out, they go in one. */
  readonly mostAMinute: number
  readonly tellsCleared: boolean
  readonly steps: readonly Step[]
}

/** Of a source that does not say how often it is asked. */
const USUAL_INTERVAL_MS = 60_000

export const afterMs = (after: After, intervalMs: number | null): number =>
  after.kind === 'span' ? after.ms : after.count * (intervalMs ?? USUAL_INTERVAL_MS)

/** Whether a step's turn comes at once, when the alert opens. */
export const isFirst = ({ after }: Step): boolean =>
  after.kind === 'span' ? after.ms === 0 : after.count === 0

/**
 * Alerts of rules over what devices say: syslog (RFC 5424 §8.7) and notifications of SNMP v1 and v2c (RFC 3584 §1.1) come
 * from whoever can send to us, in whosever name.
 */
const isSaidByAnybody = (subject: string): boolean => subject.startsWith('text ')

/** Why an action may not be done for an alert, whoever has set it up; `null` when it may. @param subject of the alert */
export const actionProblem = (action: Action['do'], subject: string): string | null =>
  action !== 'notify' && isSaidByAnybody(subject)
    ? 'anybody can send such a text: it stops nothing and runs nothing'
    : null

/** Whether a step has anything to do with an alert of a rule. One that names no rule at all has, and says so. */
export const isMeantBy = (action: Action, ruleKey: string): boolean =>
  action.do === 'notify' || action.rules === undefined || action.rules.includes(ruleKey)

/** Why an action is not done that was set up before it had to name rules; `null` when it names them. */
export const namesNoRule = (action: Action): string | null =>
  action.do !== 'notify' && action.rules === undefined
    ? 'not done: it names no rule. Open its call-out and choose the rules that it belongs to'
    : null
