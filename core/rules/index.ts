export {
  type Rule,
  type LevelRule,
  type StateRule,
  type NoDataRule,
  type Severity,
  type Sample,
  SEVERITIES,
  worst,
} from './rule.ts'
export { judge, type Verdict, windowLength } from './judge.ts'
export { lineInForce, ruleCovers, type Subject } from './scope.ts'
export { DEFAULT_RULES } from './defaults.ts'
export { alertTitle, alertReason, clearedReason, type Told, listNames } from './sentences.ts'
