import type { GearState } from '#core/topology'
import { worstState } from '#core/topology'
import { foldByPart } from '#core/watch'
import { listOpenAlerts } from '#db/alerts'
import type { Db } from '#db/connect'
import { listGear } from '#db/gear'
import { readSite } from '#db/settings'
import { listSources } from '#db/sources'
import { silentSourceIds, stateOf } from './gearStates.ts'

export interface Lamp {
  readonly state: Exclude<GearState, 'well'>
  readonly count: number
}

/** What stands around every screen: the site, the lamps of the rail, how fresh everything is. */
export async function loadShell(db: Db, nowMs: number) {
  const [site, sources, alerts, gear] = await Promise.all([
    readSite(db),
    listSources(db),
    listOpenAlerts(db),
    listGear(db),
  ])
  const silent = silentSourceIds(sources, nowMs)
  const heard = sources.flatMap((source) =>
    source.lastHeardAt === null ? [] : [source.lastHeardAt.getTime()],
  )
  const states = gear.map((each) => stateOf(each, silent))
  const leads = foldByPart(alerts.map((alert) => ({ ...alert, openedAtMs: alert.openedAt.getTime() }))).map(
    (group) => group.lead,
  )
  const critical = leads.filter((alert) => alert.severity === 'critical' && alert.takenAt === null).length
  const failing = sources.filter((source) => source.failure !== null || silent.has(source.id)).length
  const watch: Lamp | null =
    critical > 0
      ? { state: 'critical', count: critical }
      : leads.length > 0
        ? { state: 'warning', count: leads.length }
        : null
  return {
    site,
    lamps: {
      watch,
      gear: lampOf(states),
      sources: failing === 0 ? null : ({ state: 'noData', count: failing } satisfies Lamp),
    },
    heard: {
      lastMs: heard.length === 0 ? null : Math.max(...heard),
      sources: sources.length,
      silent: silent.size,
    },
    nowMs,
  }
}

function lampOf(states: readonly GearState[]): Lamp | null {
  const worst = worstState(states)
  return worst === 'well' ? null : { state: worst, count: states.filter((state) => state === worst).length }
}
