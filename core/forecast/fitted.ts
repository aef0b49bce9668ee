import type { Cleaned } from './clean.ts'
import type { ForecastInput } from './face.ts'
import type { Outlook } from './paths.ts'

/** A history that was fitted once; any number of lines can be held against it. */
export interface Fitted {
  readonly input: ForecastInput
  readonly cleaned: Cleaned
  readonly scale: Scale
  readonly outlook: Outlook | null
  /** What the last days say, where that is sooner and beyond doubt. */
  readonly fast: Outlook | null
  /** Days on which anything was heard. */
  readonly days: number
}

/** From the unit of the line to what is fitted, which rises towards the line and is about one. */
export interface Scale {
  readonly sign: 1 | -1
  readonly size: number
}
