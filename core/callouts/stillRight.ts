import type { Severity } from '../rules/index.ts'
import { formatClock, formatElapsed } from '../units/index.ts'

/** An action that was due longer ago is not done any more: a collector slept, or a database was brought back. */
export const OLDEST_ACTION_MS = 10 * 60_000

/** What an action hangs on, when it was set up and now. */
export interface DueAction {
  readonly dueAtMs: number
  readonly wasSeverity: Severity
  /** Of its alert now. */
  readonly severity: Severity
  readonly clearedAtMs: number | null
  readonly nowMs: number
  readonly timeZone: string
}

/** Why a command or a stop that is due is not done after all; `null` when it is still right. */
export function actionOverdue(action: DueAction): string | null {
  const { dueAtMs, wasSeverity, severity, clearedAtMs, nowMs, timeZone } = action
  if (clearedAtMs !== null) return `not done: its alert cleared at ${formatClock(clearedAtMs, timeZone)}`
  if (severity !== wasSeverity) return `not done: its alert was ${wasSeverity} and is ${severity} now`
  if (nowMs - dueAtMs > OLDEST_ACTION_MS)
    return `not done: too late, it was due at ${formatClock(dueAtMs, timeZone)}, ${formatElapsed(nowMs - dueAtMs)} ago`
  return null
}
