import type { TimeWindow } from '#core/readings'
import { formatElapsed } from '#core/units'
import { foldCleared, watchSentence } from '#core/watch'
import { listCleared, listOpenAlerts } from '#db/alerts'
import type { Db } from '#db/connect'
import { listGear } from '#db/gear'
import { listRacks, listRooms } from '#db/places'
import { listRules } from '#db/rules'
import { readMailSetting } from '#db/settings'
import { listSources } from '#db/sources'
import { alertRows } from './alertRows.ts'
import { silentSourceIds } from './gearStates.ts'
import { gearDetails, roomViews } from './rackViews.ts'

/** The first screen: what needs somebody now, where it is, and what went away by itself. */
export async function loadWatch(db: Db, window: TimeWindow, nowMs: number) {
  const [alerts, sources, gear, rooms, racks, rules, mail, cleared] = await Promise.all([
    listOpenAlerts(db),
    listSources(db),
    listGear(db),
    listRooms(db),
    listRacks(db),
    listRules(db),
    readMailSetting(db),
    lately(db, nowMs),
  ])
  const silent = silentSourceIds(sources, nowMs)
  const details = await gearDetails(
    db,
    gear.filter((each) => each.rackId !== null),
  )
  const rows = await alertRows(db, alerts, { sources, rules, window, nowMs, hasMail: mail !== null })
  const sentence = watchSentence({
    criticalUntaken: rows.filter((row) => row.state === 'critical' && row.takenBy === null).length,
    criticalTaken: rows.filter((row) => row.state === 'critical' && row.takenBy !== null).length,
    warnings: rows.filter((row) => row.state === 'warning').length,
    silentSources: silent.size,
    sources: sources.length,
    gear: gear.length,
  })
  return {
    sentence,
    rows,
    foldedCount: alerts.length - rows.length,
    rooms: roomViews(rooms, racks, gear, silent, details),
    cleared,
  }
}

/** What cleared within the last day, newest first. */
async function lately(db: Db, nowMs: number) {
  const rows = await listCleared(db, new Date(nowMs - 86_400_000), 30)
  const all = rows.map(({ openedAt, clearedAt, ...row }) => ({
    ...row,
    openedAtMs: openedAt.getTime(),
    clearedAtMs: clearedAt.getTime(),
    lasted: formatElapsed(clearedAt.getTime() - openedAt.getTime()),
  }))
  return foldCleared(all).slice(0, 6)
}
