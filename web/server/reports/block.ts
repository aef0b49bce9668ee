import type { z } from 'zod'
import type { MeasureKey } from '#core/catalogue'
import type { GearState } from '#core/gear'
import type { TimeWindow } from '#core/readings'
import type { Present } from '../platform/present.ts'

/** What a subject can put into a report or on a board. Each part that it has nothing for is left out. */
export interface BlockView {
  /** What was found, in words with numbers. */
  readonly sentence: string
  readonly figures?: readonly { readonly label: string; readonly text: string; readonly state: GearState }[]
  readonly table?: {
    readonly columns: readonly { readonly label: string; readonly isNumber: boolean }[]
    /** Texts as they are read, in the order of the columns. */
    readonly rows: readonly (readonly string[])[]
  }
  readonly curves?: readonly {
    readonly label: string
    readonly measure: MeasureKey
    /** ms since the epoch. */
    readonly times: readonly number[]
    readonly values: readonly number[]
  }[]
  /** An SVG element of its own, without scripts and without references outwards. */
  readonly drawing?: string
}

export interface Block<Parameters> {
  readonly key: string
  readonly name: string
  /** What is asked before it can be shown, and kept with the report or board. */
  readonly parameters: z.ZodType<Parameters>
  readonly load: (parameters: Parameters, present: Present, window: TimeWindow) => Promise<BlockView>
}
