import type { AlertRow, WatchFinding } from '#core/alerts'
import type { GearState } from '#core/gear'
import type { TimeWindow } from '#core/readings'
import type { LiveEvent } from '#db/platform'
import type { Present } from '../platform/present.ts'

/** What a subject contributes to Watch: clauses for its sentence, and rows for its list. */
export interface WatchSource {
  /** It is asked again when one of these changes. */
  readonly hears: readonly LiveEvent['topic'][]
  readonly load: (present: Present, window: TimeWindow) => Promise<WatchSaid>
}

export interface WatchSaid {
  readonly finding: WatchFinding
  /** What needs somebody, the worst first. */
  readonly rows: readonly AlertRow[]
  /** The sources whose readings stand in the rows. */
  readonly sourceIds: readonly number[]
  /** About what is left out of the rows: “3 quieted or accepted”. */
  readonly notes: readonly string[]
  /** What can wait, in a list of its own beside what needs somebody. */
  readonly aside?: Aside
}

export interface Aside {
  readonly title: string
  readonly note: string
  readonly href: string
  readonly rows: readonly {
    readonly href: string
    readonly name: string
    readonly text: string
    readonly state?: GearState
    /** By when; `null` where it is so now. */
    readonly atMs: number | null
  }[]
}
