import { listNamesOfGear } from '#db/gear'
import { insertTexts } from '#db/logs'
import type { Db } from '#db/platform'
import { pastLines } from './pastLines.ts'

/** Stores the lines of the week before as if they had been heard; those of gear that the demo does not have are left out. */
export async function layPastLines(db: Db, bornMs: number): Promise<void> {
  const ids = new Map((await listNamesOfGear(db)).map(({ name, id }) => [name, id]))
  await insertTexts(
    db,
    pastLines(bornMs).flatMap(({ gear, atMs, severity, app, text, times }) => {
      const gearId = ids.get(gear)
      if (gearId === undefined) return []
      const at = new Date(atMs)
      const line = { heardAt: at, saidAt: at, address: '127.0.0.1', host: gear, kind: 'syslog' as const }
      return [{ ...line, severity, app, body: text, times, sourceId: null, gearId }]
    }),
  )
}
