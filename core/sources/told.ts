import type { ToldSeries } from './mapping.ts'
import type { RegisterBlock } from './registers.ts'

/** What a far side says in its own words, for somebody who writes a mapping for it. */
export type Told =
  | { readonly kind: 'series'; readonly series: readonly ToldSeries[] }
  | {
      readonly kind: 'registers'
      readonly blocks: readonly RegisterBlock[]
      /** Why what was to be looked at could not be read, where the device refuses it. */
      readonly refused?: string
    }
