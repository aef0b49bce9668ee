import type { MeasureKey, PartKind } from '../catalogue/index.ts'

/** What only runs while its gear is on: nothing of it is judged while that is switched off. */
const ONLY_WHEN_ON: ReadonlySet<MeasureKey> = new Set([
  'hw.fan.speed',
  'hw.fan.speed_ratio',
  'hw.voltage',
  'hw.frequency',
  'hw.network.up',
  'hw.network.bandwidth.utilization',
  'system.cpu.utilization',
  'system.memory.utilization',
  'system.process.count',
])

/** Whether a measure of a gear, or of a part of it, says nothing while the gear is switched off. */
export const runsOnlyWhenOn = (measure: MeasureKey, partKind: PartKind | null): boolean =>
  ONLY_WHEN_ON.has(measure) || (measure === 'hw.status' && partKind === 'fan')

/** The last word on what is not judged any more. */
export const offReason = 'Its gear is switched off: this runs only while it is on.'
