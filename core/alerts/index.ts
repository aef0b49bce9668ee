export { ALIKE_FROM, type AlikeRows, gatherAlike, type WatchEntry } from './alike.ts'
export {
  alertFinding,
  silenceFinding,
  takenSentence,
  type TakeOutcome,
  takeProblem,
  type WatchFinding,
  type WatchSentence,
  watchSentence,
} from './sentence.ts'
export { type Foldable, foldAlerts, foldCleared, isRecovering } from './fold.ts'
export { causesOf } from './cause.ts'
export { askedAbout } from './askedAbout.ts'
export {
  type Cause,
  type CausedAlert,
  isNextWord,
  isNextWordMeasure,
  isSilentAltogether,
  type TroubleKind,
  troubleOf,
} from './trouble.ts'
export type { CauseGear, CauseLink } from './ways.ts'
export { fedOnlyBy, type FollowOn, followOnWords, pluggedInto } from './following.ts'
export {
  type AlarmPart,
  type FeedLoss,
  feedsOfParts,
  lossesOf,
  lossSentence,
  type PartFeeds,
} from './selfMonitoring.ts'
export {
  type Accepted,
  type AcceptVerdict,
  compareAccepted,
  holdsAt,
  isQuieted,
  OFF_RULE,
  type QuietScope,
  type QuietSubject,
  type QuietTime,
} from './quiet.ts'
export {
  needsOf,
  type QuietGear,
  type QuietReach,
  reachOf,
  runsOnOthers,
  type Spared,
  sparedWords,
} from './quietReach.ts'
export { type QuietSpan, quietSpan, type QuietTimeFields } from './quietFields.ts'
export {
  type AlertRow,
  alertRow,
  alikeKey,
  lineOnCurve,
  notifiedWords,
  type OpenAlert,
  placeOf,
  type RowFacts,
  type RowMessage,
  MINUTES_LEFT,
  tellingSeries,
  type TinyCurve,
} from './rows.ts'
export { isRepeats, REPEATS, type Repeats, timeOfRepeating } from './repeats.ts'
