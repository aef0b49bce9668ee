import { type GearState, rollUp } from '#core/gear'
import type { Severity } from '#core/rules'
import { freshness } from '#core/sources'
import { listOpenAlerts, listQuiets } from '#db/alerts'
import { listCallOuts } from '#db/callouts'
import {
  countGear,
  gearSeenBy,
  gearSeenOnlyBy,
  listGear,
  listGroups,
  listNamesOfGear,
  listTagRules,
} from '#db/gear'
import { type Db, readSite } from '#db/platform'
import { type Latest, type LatestReadings, latestReadings } from '#db/readings'
import { type GearScope, listGearScopes, listRules } from '#db/rules'
import { listRacks } from '#db/site'
import { countSources, listOverdue, type SourceClockRow } from '#db/sources'
import { installation } from './installation.ts'

/** A question that is asked when it is first needed, and answered once. */
export function once<T>(ask: () => Promise<T>): () => Promise<T> {
  let asked: Promise<T> | undefined
  return () => (asked ??= ask())
}

/** The newest reading of a series, of those that were asked for. */
export interface NewestReadings {
  get(seriesId: number): Latest | undefined
}

/**
 * The installation as it stands while one request is answered: several parts of an answer are made from the same lists,
 * and each list is asked for once, by whoever needs it first. For what is shown; what is changed looks again by itself.
 */
export class Present {
  constructor(
    readonly db: Db,
    readonly nowMs: number,
  ) {}

  readonly site = once(() => readSite(this.db))
  readonly sourceCount = once(() => countSources(this.db))
  readonly openAlerts = once(() => listOpenAlerts(this.db))
  /** All gear with everything that a list says of it; where names do, `names` is far cheaper. */
  readonly gear = once(() => listGear(this.db))
  readonly names = once(() => listNamesOfGear(this.db))
  readonly gearCount = once(() => countGear(this.db))
  readonly groups = once(() => listGroups(this.db))
  readonly tagRules = once(() => listTagRules(this.db))
  readonly rules = once(() => listRules(this.db))
  readonly scopes = once(async () => listGearScopes(this.db, undefined, await this.#scopeRules()))
  readonly callOuts = once(() => listCallOuts(this.db))
  readonly racks = once(() => listRacks(this.db))
  /** What is quiet, or will be. */
  readonly quiets = once(() => listQuiets(this.db, this.nowMs))
  /** The newest reading of every series. */
  readonly latest = once(() => latestReadings(this.db))
  readonly #latestOf = new Map<number, Promise<LatestReadings>>()
  /** The newest readings of some sources, by series; each source is asked for once. */
  async latestOf(sourceIds: readonly number[]): Promise<NewestReadings> {
    const missing = [...new Set(sourceIds)].filter((id) => !this.#latestOf.has(id))
    if (missing.length > 0) {
      const asked = latestReadings(this.db, missing)
      for (const id of missing) this.#latestOf.set(id, asked)
    }
    const found = [...new Set(await Promise.all(sourceIds.map((id) => this.#latestOf.get(id)!)))]
    return {
      get: (seriesId) => {
        for (const latest of found) {
          const newest = latest.get(seriesId)
          if (newest !== undefined) return newest
        }
        return undefined
      },
    }
  }

  /** Ids of the sources that have been silent for longer than expected. */
  readonly silent = once(async () => silentSourceIds(await listOverdue(this.db, this.nowMs), this.nowMs))

  /** Ids of gear that none of its sources hears. */
  readonly unheard = once(async () => gearSeenOnlyBy(this.db, [...(await this.silent())]))

  /** Of some gear, whom scopes can find. */
  async scopesOf(gearIds: readonly number[]): Promise<ReadonlyMap<number, GearScope>> {
    return listGearScopes(this.db, gearIds, await this.#scopeRules())
  }

  readonly #scopeRules = once(async () => {
    const [tagRules, groups, racks] = await Promise.all([this.tagRules(), this.groups(), this.racks()])
    const onFloor = racks.flatMap(({ xMm, yMm, ...rack }) =>
      xMm === null || yMm === null ? [] : [{ ...rack, xMm, yMm }],
    )
    return { tagRules, groups, racks: onFloor }
  })

  /** States of all gear that is not well, by its id. */
  readonly states = once(async (): Promise<ReadonlyMap<number, GearState>> => {
    const [alerts, unheard] = await Promise.all([
      this.openAlerts(),
      this.silent().then((silent) => gearSeenBy(this.db, [...silent])),
    ])
    const severities = new Map<number, (Severity | 'quiet')[]>()
    for (const { gearId, quietId, severity } of alerts)
      if (gearId !== null)
        severities.set(gearId, [
          ...(severities.get(gearId) ?? []),
          quietId === null ? severity : ('quiet' as const),
        ])
    return new Map(
      [...new Set([...severities.keys(), ...unheard])].map((id) => [
        id,
        rollUp(severities.get(id) ?? [], unheard.has(id)),
      ]),
    )
  })
}

/** The present of a request, shared by everything that answers it. */
export const presentOf = (locals: App.Locals): Present =>
  (locals.present ??= new Present(installation().db, Date.now()))

const silentSourceIds = (sources: readonly SourceClockRow[], nowMs: number): ReadonlySet<number> =>
  new Set(sources.filter((source) => freshness(source, nowMs) === 'silent').map(({ id }) => id))
