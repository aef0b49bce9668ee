// How readings are kept and asked for. Everything else uses these, and none of the tables.
export {
  ensurePartitions,
  insertMoments,
  latestReadings,
  layoutFor,
  type Latest,
  LatestReadings,
  type MomentRow,
  recentMoments,
  type Stored,
} from './readings/hot.ts'
export { dropEmptyPartitions, sealDay, type SourceDay, unsealedDays } from './readings/seal.ts'
export { sealPast } from './readings/past.ts'
export { compactPeriod, periodsToCompact } from './readings/compact.ts'
export {
  DEFAULT_RETENTION,
  expireReadings,
  listRetention,
  type Retention,
  writeRetention,
} from './readings/retention.ts'
export { readSpan, readSpans } from './readings/spans.ts'
export { readDayHours, readHours } from './readings/summaries.ts'
export {
  type Aggregated,
  aggregate,
  type Drawn,
  drawing,
  percentiles,
  silences,
  valueAt,
} from './readings/queries.ts'
export { listNamedSeries, mergeReadings, type NamedSeries, readSlices } from './readings/transfer.ts'
