import { HOUSEKEEPING } from './housekeeping.ts'
import { FORECASTING } from './forecasting.ts'
import type { JobThread } from './job.ts'

/** All threads of regular work. */
export const THREADS: readonly JobThread[] = [
  {
    name: 'housekeeping',
    // A day is sealed in parts that fit into it (`sealDay`); without a limit the garbage grows before it is collected.
    memoryMiB: { old: 56, young: 8 },
    jobs: HOUSEKEEPING,
  },
  { name: 'forecasting', memoryMiB: { old: 192, young: 32 }, jobs: FORECASTING },
]
