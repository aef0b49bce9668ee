export {
  type Distrust,
  type Failure,
  type Outcome,
  failureSentence,
  type FailureKind,
  whatHappened,
  whatMends,
} from './outcome.ts'
export {
  type Certificate,
  type Exchange,
  foundSentence,
  newStages,
  type Stage,
  STAGE_LABELS,
  stageOf,
  type StageReport,
  STAGES,
  type StageState,
} from './check.ts'
export { costOf, USUAL_INTERVALS } from './cost.ts'
export { type Freshness, freshness, backoffMs, type SourceClock, silenceSentence } from './freshness.ts'
