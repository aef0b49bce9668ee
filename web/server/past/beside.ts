import { changeSentence } from '#core/gear'
import type { TimeWindow } from '#core/readings'
import { listGearChanges } from '#db/gear'
import { graveTexts } from '#db/logs'
import type { Db } from '#db/platform'
import { SYSLOG_SEVERITIES } from '#protocols/syslog'

const MOST = 30

/** What changed of some gear in a window, and what it said as an error or graver; each the newest first. */
export async function besideCurves(db: Db, gearIds: readonly number[], window: TimeWindow) {
  if (gearIds.length === 0) return { changes: [], said: { lines: [], isMore: false } }
  const [changes, lines] = await Promise.all([
    listGearChanges(db, { gearIds, within: window, limit: MOST }),
    graveTexts(db, gearIds, window, MOST + 1),
  ])
  return {
    changes: changes.map(({ id, atMs, gearId, gear, who, ...change }) => ({
      id,
      atMs,
      gearId,
      gear,
      words: changeSentence(change),
      who,
    })),
    said: {
      lines: lines
        .slice(0, MOST)
        .map(({ severity, ...line }) => ({ ...line, word: SYSLOG_SEVERITIES[severity] ?? String(severity) })),
      isMore: lines.length > MOST,
    },
  }
}
