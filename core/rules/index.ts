export {
  type AheadRule,
  type Band,
  type BandRule,
  type ChangeRule,
  type CountRule,
  companionOf,
  EVERYWHERE,
  type Half,
  isSeriesRule,
  lasting,
  type LevelRule,
  type Line,
  lineOf,
  measureOfRule,
  MOST_COUNTED,
  type NoDataRule,
  ofLast,
  type PairRule,
  type Persistence,
  type Quantity,
  type RateRule,
  type Rule,
  type RuleKind,
  type Sample,
  type Scope,
  type SeriesRule,
  SEVERITIES,
  type Severity,
  type SilentRule,
  type StateRule,
  type TextRule,
  type Where,
  worst,
} from './rule.ts'
export {
  isBeyond,
  judge,
  type Judge,
  judgeFor,
  resume,
  type Standing,
  type Verdict,
  verdictOf,
  windowLength,
} from './judge.ts'
export {
  byPrecedence,
  contestOf,
  type InForce,
  isAt,
  type KeptRule,
  PRECEDENCE,
  ruleCovers,
  rulesInForce,
  rulesInForceFor,
  isOfKind,
  scopeCovers,
  type Subject,
} from './scope.ts'
export { DEFAULT_RULES } from './defaults/index.ts'
export {
  alertTitle,
  alertReason,
  clearedReason,
  silentReason,
  silentTitle,
  standingWords,
  type AlertFacts,
  listNames,
} from './sentences.ts'
export {
  formatDifference,
  formatQuantity,
  kindWords,
  lineWords,
  lower,
  persistenceOf,
  persistenceWords,
  quantityWords,
  ruleWords,
} from './words.ts'
export { offReason, runsOnlyWhenOn } from './switchedOff.ts'
export { textMatcher, textReason, textTitle, TextWindow } from './texts.ts'
export { countAsLevel, type Counted, countReason, countTitle, isMemberBeyond } from './counts.ts'
export {
  LineSearch,
  moveLine,
  type RehearsableRule,
  type RehearsalRequest,
  type RehearsalResult,
  type Rehearsed,
  type RehearsedSubject,
  rehearseSeries,
  type Stretch,
  summarise,
} from './rehearse.ts'
export { countedCurve, gapsOf, mergedTimes } from './rehearseOthers.ts'
export {
  fieldsOfRule,
  fieldsOfWhere,
  type Filled,
  RULE_KINDS,
  type RuleFields,
  ruleFromFields,
  whereFromFields,
  type WhereFields,
} from './fields/index.ts'
export { classesOf, type Coverage, coverageOf, type GearClasses, type SeriesCount } from './coverage.ts'
export { type PlaceNames, partIdsOf, scopeWords, whereWords } from './scopeWords.ts'
export { alwaysBeyond, rehearsalSentence, rehearsedWeeks } from './rehearsalWords.ts'
export * from './aheadRehearsal.ts'
export {
  aheadName,
  aheadReason,
  aheadTitle,
  type AheadVerdict,
  daysWords,
  hasLevel,
  judgeAhead,
  type Outlook,
} from './ahead.ts'
