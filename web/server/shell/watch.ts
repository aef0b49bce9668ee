import type { TimeWindow } from '#core/readings'
import { formatElapsed } from '#core/units'
import { foldCleared, watchSentence } from '#core/alerts'
import { listCleared, listOpenAlerts } from '#db/alerts'
import type { Db } from '#db/platform'
import { listGear } from '#db/gear'
import { listRules } from '#db/rules'
import { listCallOuts } from '#db/callouts'
import { listSources } from '#db/sources'
import { alertRows } from '../alerts/alertRows.ts'
import { silentSourceIds } from '../gear/gearStates.ts'
import { loadRooms } from '../site/roomViews.ts'

/** The first screen: what needs somebody now, where it is, and what went away by itself. */
export async function loadWatch(db: Db, window: TimeWindow, nowMs: number) {
  const [alerts, sources, gear, rooms, rules, callOuts, cleared] = await Promise.all([
    listOpenAlerts(db),
    listSources(db),
    listGear(db),
    loadRooms(db, nowMs),
    listRules(db),
    listCallOuts(db),
    lately(db, nowMs),
  ])
  const silent = silentSourceIds(sources, nowMs)
  const loud = alerts.filter(({ quietId }) => quietId === null)
  const rows = await alertRows(db, loud, {
    sources,
    rules,
    window,
    nowMs,
    isTold: callOuts.some(({ isOn }) => isOn),
  })
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
    foldedCount: loud.length - rows.length,
    quietCount: alerts.length - loud.length,
    /** The sources whose readings stand in the rows. */
    readerIds: [...new Set(loud.flatMap(({ readerId }) => readerId ?? []))],
    rooms,
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
