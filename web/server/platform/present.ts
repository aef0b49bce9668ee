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
  listOwnFields,
  listTagRules,
} from '#db/gear'
import { type Db, type Kept, type KeptList, KeptLists, readDemoProgress, readSite } from '#db/platform'
import { type Latest, type LatestReadings, latestReadings } from '#db/readings'
import { linksByGear, listAllLinks } from '#db/links'
import { type GearScope, listGearScopes, listRules } from '#db/rules'
import { listFloorPlaces, listRacks, listRooms, listStanding } from '#db/site'
import { countSources, listOverdue, type SourceClockRow } from '#db/sources'
import { installation } from './installation.ts'

/** A question that is asked when it is first needed, and answered once. */
export function once<T>(ask: () => Promise<T>): () => Promise<T> {
  let asked: Promise<T> | undefined
  return () => (asked ??= ask())
}

const scopesOfAll = (db: Db) => listGearScopes(db)
const namesOfAll = (db: Db) => listNamesOfGear(db)
const standingEverywhere = (db: Db) => listStanding(db)

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
    private readonly lists = new KeptLists(),
  ) {}

  readonly #looked = once(() => this.lists.look(this.db, this.nowMs))
  /** What is made of a list that seldom changes: kept from request to request for as long as it stays as it is. */
  #kept<T>(list: KeptList, ask: (db: Db) => Promise<T>): () => Promise<Kept<T>> {
    return once(async () => {
      await this.#looked()
      return this.lists.take(list, ask, this.db)
    })
  }

  readonly site = this.#kept('site', readSite)
  readonly demoProgress = this.#kept('settings', readDemoProgress)
  readonly sourceCount = once(() => countSources(this.db))
  readonly openAlerts = once(() => listOpenAlerts(this.db))
  /** All gear with everything that a list says of it; where names do, `names` is far cheaper. */
  readonly gear = once(() => listGear(this.db))
  readonly names = this.#kept('standing', namesOfAll)
  readonly gearCount = this.#kept('standing', countGear)
  /** What stands in racks and on floors, everywhere. */
  readonly standing = this.#kept('standing', standingEverywhere)
  readonly floorPlaces = this.#kept('standing', listFloorPlaces)
  readonly links = this.#kept('links', listAllLinks)
  readonly linksByGear = this.#kept('links', linksByGear)
  readonly groups = this.#kept('groups', listGroups)
  readonly tagRules = this.#kept('tagRules', listTagRules)
  readonly rules = this.#kept('rules', listRules)
  /** Whom scopes can find. */
  readonly scopes = this.#kept('scopes', scopesOfAll)
  readonly callOuts = this.#kept('callOuts', listCallOuts)
  readonly rooms = this.#kept('places', listRooms)
  readonly racks = this.#kept('places', listRacks)
  readonly ownFields = this.#kept('ownFields', listOwnFields)
  /** What is quiet, or will be. */
  readonly quiets = once(async () => listQuiets(this.db, this.nowMs, { site: await this.site() }))
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
    const all = await this.scopes()
    return new Map(
      gearIds.flatMap((id) => {
        const scope = all.get(id)
        return scope === undefined ? [] : [[id, scope] as const]
      }),
    )
  }

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
  (locals.present ??= new Present(installation().db, Date.now(), installation().lists))

const silentSourceIds = (sources: readonly SourceClockRow[], nowMs: number): ReadonlySet<number> =>
  new Set(sources.filter((source) => freshness(source, nowMs) === 'silent').map(({ id }) => id))
