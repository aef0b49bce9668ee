export { type Failure, type Outcome, failureSentence, type FailureKind } from './outcome.ts'
export { type Freshness, freshness, backoffMs, type SourceClock, silenceSentence } from './freshness.ts'
