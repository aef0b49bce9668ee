import { type Action, actionOverdue, actionProblem, isFirst, isMeantBy, namesNoRule } from '#core/callouts'
import {
  hasCleared,
  isOpen,
  listCommands,
  type NotifiedAlert,
  type OpenMessage,
  skipMessage,
  tellsOf,
  toldAsOver,
} from '#db/callouts'
import { type Db, readSite } from '#db/platform'

// Why something that was meant to go out, or to be done, is not: looked at when it is planned, and again when it is due.

/** Why there is nobody who could do it now; `null` when there is. */
export async function whyImpossible(
  trx: Db,
  action: Action,
  { gearId }: NotifiedAlert,
): Promise<string | null> {
  if (action.do === 'stop' && action.gearId === null && gearId === null)
    return 'it is about no gear that could be stopped'
  if (action.do === 'command' && !(await listCommands(trx)).some(({ name }) => name === action.name))
    return `no collector allows the command “${action.name}”`
  return null
}

/** Whether it is not sent after all; that, and why, is then kept with it. */
export async function isSkipped(db: Db, message: OpenMessage): Promise<boolean> {
  const skipped = await reasonToSkip(db, message)
  if (skipped === null) return false
  await skipMessage(db, message.id, skipped)
  return true
}

async function whyOverdue(db: Db, message: OpenMessage): Promise<string | null> {
  const { severity, clearedAt, dueAt, facts } = message
  return actionOverdue({
    dueAtMs: dueAt.getTime(),
    wasSeverity: facts?.severity ?? severity ?? 'warning',
    severity: severity ?? 'warning',
    clearedAtMs: clearedAt?.getTime() ?? null,
    nowMs: Date.now(),
    timeZone: (await readSite(db)).timeZone,
  })
}

/** Somebody may have changed since what is done, and on which rules. */
function notMeantNow({ callOut, step, action, ruleKey }: OpenMessage): string | null {
  const now = callOut?.steps[step]?.action
  if (now?.do === action && isMeantBy(now, ruleKey ?? '')) return namesNoRule(now)
  return 'not done: its call-out does not say so any more'
}

/** Why a message that was due is not sent after all. */
async function reasonToSkip(db: Db, message: OpenMessage): Promise<string | null> {
  if (message.alertId === null) return null
  const { event, ruleKey, alertSubject, callOut } = message
  if (ruleKey === null || alertSubject === null) return 'its alert is gone'
  const problem = actionProblem(message.action, alertSubject)
  if (problem !== null) return problem
  if (message.action !== 'notify' && !message.isDry) {
    const overdue = (await whyOverdue(db, message)) ?? notMeantNow(message)
    if (overdue !== null) return overdue
  }
  if (event === 'cleared') {
    if (await isOpen(db, ruleKey, alertSubject)) return 'it is back'
    return (await toldAsOver(db, message)) ? 'told already: its beginning left late, as over' : null
  }
  // What was tried already is tried until it is through: somebody may have seen it.
  if (message.attempts > 0) return null
  if (message.isOn === false) return 'its call-out was switched off'
  if (message.facts?.next !== undefined && (await hasCleared(db, message.facts.next.alertId)))
    return 'it went away before its turn came'
  // A cause that this call-out is not for, being only a warning, say, tells nobody of what follows from it.
  if (message.cause !== null && message.causeAlertId !== null && message.callOutId !== null)
    if (await tellsOf(db, message.callOutId, message.causeAlertId))
      return `sent with its cause: ${message.cause}`
  if (message.quietId !== null) return 'it was quieted before anybody was told'
  const step = callOut?.steps[message.step]
  if (step === undefined || isFirst(step)) return null
  if (message.clearedAt !== null) return 'it went away before its turn came'
  return message.takenBy !== null && !step.evenIfTaken ? `${message.takenBy} has it` : null
}
