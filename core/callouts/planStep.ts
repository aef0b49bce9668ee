import { formatClock, writeSpan } from '../units/index.ts'
import {
  actionProblem,
  afterMs,
  type CallOut,
  isFirst,
  type MessageEvent,
  namesNoRule,
  type Step,
} from './callOut.ts'
import { type LastNotified, whenToNotify } from './holdOff.ts'
import { isWithin, nextWithin } from './hours.ts'

/** What is told is told after this, for its cause may come after it. */
export const SETTLE_MS = 6000
/** What flaps is told to be over once it has stayed away for so long. */
const CALM_MS = 10 * 60_000

export interface LastOfStep extends LastNotified {
  readonly isWaiting: boolean
}

/** What a step is asked to tell, and what is known as it is asked. */
export interface StepOccasion {
  readonly event: MessageEvent
  readonly callOut: Pick<CallOut, 'hours' | 'outside' | 'holdOffMs' | 'tellsCleared'>
  readonly step: Step
  /** `intervalMs`: how often its source is asked; `null` when nobody says. */
  readonly alert: { readonly subject: string; readonly flaps: number; readonly intervalMs: number | null }
  readonly last: LastOfStep | null
  /** Nothing of this call-out was told, or is about to be, of this very alert. */
  readonly isNewHere: boolean
  readonly nowMs: number
  readonly timeZone: string
  readonly settleMs: number
}

export interface PlannedStep {
  readonly dueAtMs: number
  /** How long the alert will have lasted by then; `null` of what is told at once. ms. */
  readonly stillAfterMs: number | null
  /** Why it is written down and not told; `null` when it is told. */
  readonly skipped: string | null
}

/** Whether an opening takes back a message that it is over, which waits to be told. */
export const takesBackEnd = (event: MessageEvent, last: LastOfStep | null): boolean =>
  event === 'opened' && last?.event === 'cleared' && last.isWaiting

/** When a step tells of what happened, or why it does not; `null` when there is nothing to tell. */
export function planStep(occasion: StepOccasion): PlannedStep | null {
  if (!hasSomethingToTell(occasion)) return null
  const { event, callOut, step, alert, last, isNewHere, nowMs, timeZone, settleMs } = occasion
  const isLater = !isFirst(step) && event !== 'cleared' && (event === 'opened' || isNewHere)
  const stillMs = isLater ? afterMs(step.after, alert.intervalMs) : 0
  const calmMs = alert.flaps > 0 ? CALM_MS : 0
  const waitMs = event === 'cleared' ? calmMs : settleMs + stillMs
  const when = whenToNotify(event, nowMs, waitMs, callOut.holdOffMs, last)
  const dueMs = when.kind === 'known' ? nowMs : when.atMs
  const hoursMs = nextWithin(callOut.hours, dueMs, timeZone)
  const isLeft =
    callOut.outside === 'leave' && event !== 'cleared' && !isWithin(callOut.hours, dueMs, timeZone)
  const known =
    when.kind === 'known'
      ? `they know: told at ${formatClock(when.sinceMs, timeZone)}, and not that it had gone`
      : null
  const outside = isLeft || hoursMs === null ? 'it is outside the hours of this call-out' : null
  return {
    dueAtMs: hoursMs ?? dueMs,
    stillAfterMs: isLater ? stillMs : null,
    skipped: actionProblem(step.action.do, alert.subject) ?? namesNoRule(step.action) ?? known ?? outside,
  }
}

function hasSomethingToTell({ event, callOut, step, last, isNewHere }: StepOccasion): boolean {
  const isNotice = step.action.do === 'notify'
  switch (event) {
    case 'cleared':
      // Who was not told that it began needs not hear that it ended; who was told twice not again.
      return isNotice && callOut.tellsCleared && last !== null && last.event !== 'cleared'
    case 'worse':
      return isNewHere || (isNotice && last !== null && !last.isWaiting)
    case 'opened':
      // Of what comes and goes it is told that it came, and that it has stayed away.
      return last === null || !last.isSameAlert || last.event === 'cleared'
    default:
      return event satisfies never
  }
}

/** How a letter says how long the alert has lasted. */
export const stillAfterWords = ({ stillAfterMs }: PlannedStep): string | null =>
  stillAfterMs === null ? null : writeSpan(stillAfterMs)
