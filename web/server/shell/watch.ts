import { foldCleared, gatherAlike, watchSentence } from '#core/alerts'
import type { TimeWindow } from '#core/readings'
import { formatElapsed } from '#core/units'
import { listCleared } from '#db/alerts'
import type { Db } from '#db/platform'
import { openAlerts } from '../alerts/watchSource.ts'
import { ahead } from '../forecast/watchSource.ts'
import { services } from '../gear/watchSource.ts'
import type { Present } from '../platform/present.ts'
import { loadWhere } from '../site/rooms.ts'
import { silence } from '../sources/watchSource.ts'
import type { WatchSource } from './watchSource.ts'

/** Who has something to say on Watch, in the order of the sentence. */
export const WATCH_SOURCES: readonly WatchSource[] = [services, openAlerts, silence, ahead]

/** The first screen: what needs somebody now, where it is, and what went away by itself. */
export async function loadWatch(present: Present, window: TimeWindow) {
  const [said, rooms, cleared] = await Promise.all([
    Promise.all(WATCH_SOURCES.map((source) => source.load(present, window))),
    loadWhere(present),
    lately(present.db, present.nowMs),
  ])
  return {
    sentence: watchSentence(said.map(({ finding }) => finding)),
    entries: gatherAlike(said.flatMap(({ rows }) => rows)),
    notes: said.flatMap(({ notes }) => notes),
    asides: said.flatMap(({ aside }) => aside ?? []),
    sourceIds: said.flatMap(({ sourceIds }) => sourceIds),
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
