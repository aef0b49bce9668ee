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
export { costOf, costOfAll } from './cost.ts'
export { CREDENTIAL_KINDS, type CredentialKind, LEAST_RIGHTS } from './credential.ts'
export {
  type CredentialChoice,
  credentialKind,
  type ProtocolDescriptor,
  settingOf,
  type SourceField,
  spokenWords,
} from './descriptor.ts'
export {
  type Freshness,
  freshness,
  triedAgainMs,
  backoffMs,
  type SourceClock,
  silenceSentence,
} from './freshness.ts'
export {
  lineOfRow,
  MOST_REGISTER_LINES,
  nextLine,
  REGISTER_COLUMNS,
  type RegisterRow,
  rowOfLine,
} from './registerRows.ts'
export { type SilentGear, silenceWeight } from './silence.ts'
export { nextLags, skewOf, skewSeverity } from './skew.ts'
export {
  byMetric,
  fitsLine,
  labelsApart,
  type Mapped,
  type MappingLine,
  mapSeries,
  suggestLines,
  type ToldSeries,
} from './mapping.ts'
export {
  BYTE_ORDERS,
  type ByteOrder,
  decodeRaw,
  isBitTable,
  mapRegisters,
  REGISTER_TABLES,
  REGISTER_WORDS,
  type RegisterBlock,
  type RegisterLine,
  type RegisterMap,
  type RegisterSpan,
  type RegisterTable,
  type RegisterType,
  spansOf,
  valueOf,
} from './registers.ts'
export type { Told } from './told.ts'
export { MOST_HOSTS, parseRanges, type Ranges } from './range.ts'
export { rowsBack, type Slower, SLOWER_CHOICES, thin } from './thinning.ts'
export type { Recognised } from './recognised.ts'
