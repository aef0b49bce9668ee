// How readings are kept and asked for. Everything else uses these, and none of the tables.
export {
  ensurePartitions,
  insertMoments,
  latestReadings,
  layoutFor,
  type Latest,
  LatestReadings,
  type Moment,
  type MomentRow,
  recentMoments,
  type Stored,
} from './hot.ts'
export { dropEmptyPartitions, sealDay, type SourceDay, unsealedDays } from './seal.ts'
export { PERIOD_DAYS } from './days.ts'
export { firstSealedDays, sealPast } from './past.ts'
export { compactPeriod, periodsToCompact } from './compact.ts'
export {
  DEFAULT_RETENTION,
  expireReadings,
  listRetention,
  type Retention,
  writeRetention,
} from './retention.ts'
export {
  deleteOwnMeasure,
  listOwnMeasures,
  type MeasureUse,
  saveOwnMeasure,
  usesOfMeasures,
} from './ownMeasures.ts'
export { readSpan, readSpans } from './spans.ts'
export { readDayHours, readHours } from './summaries.ts'
export {
  type Aggregated,
  aggregate,
  type Drawn,
  type DrawnSeries,
  drawing,
  drawings,
  hasBeenIn,
  percentiles,
  silences,
  valueAt,
} from './queries.ts'
export { listNamedSeries, mergeReadings, type NamedSeries, readSlices } from './transfer.ts'
export * from './space.ts'
export { hoursOfMany, type Rastered, rasters } from './rasters.ts'
