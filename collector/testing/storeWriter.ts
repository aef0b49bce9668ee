import { appendFileSync } from 'node:fs'
import { connect, isServerAway, openPool } from '#db/platform'
import { ensurePartitions, insertMoments } from '#db/readings'
import { DAY, madeInstant, madeValue } from './madeReadings.ts'

// Writes made readings as fast as it may, and notes in a journal how far each commit was acknowledged: one line a commit.
// Started again after a crash it begins where the journal ends, so the last commit may be sent twice.

const [url = '', journal = '', from = '0', given = '[]'] = process.argv.slice(2)
const sources = JSON.parse(given) as { sourceId: number; layout: { id: number; seriesIds: number[] } }[]
const TOGETHER = 30

const db = connect(openPool(url, 2))
for (let index = Number(from); ;) {
  const rows = sources.flatMap(({ sourceId, layout }, source) =>
    Array.from({ length: TOGETHER }, (_, step) => ({
      sourceId,
      atMs: madeInstant(index + step),
      layout,
      values: layout.seriesIds.map((_, slot) => madeValue(source, slot, index + step)),
    })),
  )
  try {
    await ensurePartitions(db, madeInstant(index), madeInstant(index + TOGETHER) + DAY)
    await db.transaction().execute((trx) => insertMoments(trx, rows))
  } catch (error) {
    if (!isServerAway(error)) throw error
    await new Promise((resolve) => setTimeout(resolve, 100))
    continue
  }
  index += TOGETHER
  appendFileSync(journal, `${index}\n`)
}
