export { type Count, growthRate, meanBetween, type Seen } from './counter.ts'
export { encodeSlots, decodeSlots, readSlot } from './slots.ts'
export { type Curve, joinCurves, NO_READINGS } from './curve.ts'
export { reduceForDrawing, reduceHours, findGaps, type Gap } from './drawing.ts'
export { alignToSlot, slotPhaseMs } from './slotTime.ts'
export { WINDOWS, type WindowKey, DEFAULT_WINDOW, type TimeWindow, windowOf } from './window.ts'
export { type Summary, summarize } from './summary.ts'
export { axisBounds } from './axis.ts'
export { namePlaces } from './lineNames.ts'
export {
  ChunkError,
  cut,
  decodeChunk,
  decodeChunks,
  decodeNumbers,
  decodePages,
  encodeChunk,
  lowerBound,
  type PageHead,
  pageHeads,
  readingsIn,
  type Squeezer,
} from './chunk.ts'
export {
  type Bucket,
  bucketCurve,
  bucketHours,
  decodeHours,
  encodeHours,
  HOUR_MS,
  type Hours,
  hoursBetween,
  hoursOf,
  joinHours,
  NO_HOURS,
  replaceHours,
} from './hours.ts'
export {
  heldRow,
  isOfHours,
  middlesOf,
  type Raster,
  rasterOf,
  type Row,
  rowOfCurve,
  rowOfHours,
} from './raster.ts'
export { Sketch, SKETCH_ERROR } from './sketch.ts'
export { addDays, decodeSketches, encodeSketches, sketchBytes } from './daySketches.ts'
export { percentilesOf } from './percentile.ts'
export { type Correction, mergeCurves } from './merge.ts'
export {
  type AgeSpace,
  DISK_LINES,
  diskSeverity,
  type MeasureSpace,
  type SizeOfDay,
  type SpaceAhead,
  spaceAhead,
  type SpaceShares,
} from './space.ts'
export { commonGaps } from './chart.ts'
