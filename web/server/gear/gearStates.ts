import { freshness } from '#core/sources'
import { type GearState, rollUp } from '#core/gear'
import type { GearRow } from '#db/gear'
import { clockOf, type SourceRow } from '#db/sources'

/** Ids of the sources that have been silent for longer than expected. */
export const silentSourceIds = (sources: readonly SourceRow[], nowMs: number): Set<number> =>
  new Set(
    sources.filter((source) => freshness(clockOf(source), nowMs) === 'silent').map((source) => source.id),
  )

export const stateOf = (gear: GearRow, silent: ReadonlySet<number>): GearState =>
  rollUp(
    gear.openSeverities,
    gear.sourceIds.some((id) => silent.has(id)),
  )
