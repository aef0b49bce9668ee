export {
  actionProblem,
  isMeantBy,
  namesNoRule,
  type After,
  afterMs,
  type CallOut,
  type Action,
  type Hours,
  isFirst,
  CHANNEL_KINDS,
  type ChannelKind,
  type Recipients,
  type Step,
  type MessageEvent,
} from './callOut.ts'
export { isWithin, nextWithin } from './hours.ts'
export { type DutyCalendar, onDuty, type Swap, type Turn, turnsBetween } from './duty.ts'
export { type LastNotified, type Telling, whenToNotify } from './holdOff.ts'
export {
  type LastOfStep,
  type PlannedStep,
  planStep,
  SETTLE_MS,
  type StepOccasion,
  stillAfterWords,
  takesBackEnd,
} from './planStep.ts'
export { actionOverdue, type DueAction, OLDEST_ACTION_MS } from './stillRight.ts'
export {
  documentOf,
  type Facts,
  htmlOf,
  type Letter,
  letterOf,
  plainOf,
  shortOf,
  subjectOf,
  wordOf,
} from './compose.ts'
export { type AlertNow, factsNow } from './wordedNow.ts'
export { againMs, type Going, howToGo, USUAL_MOST_A_MINUTE } from './together.ts'
export {
  afterWords,
  type CallNames,
  actionWords,
  hoursWords,
  CHANNEL_WORDS,
  severityWords,
  stepsSentence,
  weaknessesOf,
} from './words.ts'
export { afterOf, type CallOutFields, callOutFromFields } from './fields.ts'
export { dutyFromFields } from './dutyFields.ts'
