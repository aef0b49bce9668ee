import type { MeasureKey } from '../catalogue/index.ts'
import type { Severity, Where } from '../rules/rule.ts'
import { isAt, type Subject } from '../rules/scope.ts'

/** What is quieted: some gear, a part, a place; one measure of it, or all; one alert. */
export interface QuietScope {
  readonly where: Where
  /** `null` is every measure, and silence of the source too. */
  readonly measure: MeasureKey | null
  /** Alerts of one rule only. */
  readonly ruleKey: string | null
  /** Gear of a place that is quiet although gear elsewhere hangs on it: somebody has named it. */
  readonly named?: readonly number[]
  /** It is expected to be switched off: that it is, and that nothing is heard of it then, is no alert to anybody. */
  readonly isOff?: true
}

/** The shipped rule about what is switched off. */
export const OFF_RULE = 'gear-off'

/** A state as it was when somebody accepted it. Accepted is this, and nothing else. */
export interface Accepted {
  readonly ruleKey: string
  readonly subject: string
  readonly severity: Severity
  /** Of a state. A level is accepted as such, for its value is never twice the same. */
  readonly state: number | null
}

/** Some time in which a quiet holds: ms since the epoch; without an end it holds until somebody ends it. */
export interface QuietTime {
  readonly fromMs: number
  readonly toMs: number | null
}

export const holdsAt = ({ fromMs, toMs }: QuietTime, atMs: number): boolean =>
  fromMs <= atMs && (toMs === null || atMs < toMs)

export interface QuietSubject extends Omit<Subject, 'measure' | 'gearKind' | 'partKind'> {
  readonly measure: MeasureKey | null
  readonly ruleKey: string
}

export const isQuieted = ({ where, measure, ruleKey }: QuietScope, subject: QuietSubject): boolean =>
  (measure === null || measure === subject.measure) &&
  (ruleKey === null || ruleKey === subject.ruleKey) &&
  isAt(where, subject)

export type AcceptVerdict = { readonly kind: 'same' } | { readonly kind: 'changed'; readonly why: string }

/** Whether what was accepted is still what it was. Milder is a change, too: somebody has touched it. */
export function compareAccepted(
  accepted: Accepted,
  now: { readonly severity: Severity; readonly state: number | null; readonly words: string } | null,
): AcceptVerdict {
  if (now === null) return { kind: 'changed', why: 'It went away; should it come again, that is news.' }
  if (now.severity !== accepted.severity)
    return { kind: 'changed', why: `It was accepted as ${accepted.severity} and is ${now.severity} now.` }
  if (accepted.state !== null && now.state !== accepted.state)
    return { kind: 'changed', why: `It is not the state that was accepted any more: ${now.words}.` }
  return { kind: 'same' }
}
