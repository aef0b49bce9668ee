import { setPriority } from 'node:os'
import { parentPort, workerData } from 'node:worker_threads'
import { connect, openPool } from '#db/platform'
import { finishRehearsal, recordRehearsal, takeRehearsal } from '#db/rules'
import { Cancelled, rehearse } from './rehearse.ts'

// On Linux this is the thread's own priority: storing and judging go first.
setPriority(0, 5)
const pool = openPool((workerData as { databaseUrl: string }).databaseUrl, 2)
const db = connect(pool)
const TELL_MS = 150

for (let job = await takeRehearsal(db); job !== null; job = await takeRehearsal(db)) {
  const { id, body } = job
  let toldMs = 0
  try {
    const result = await rehearse(db, body, Date.now(), async (done) => {
      if (performance.now() - toldMs < TELL_MS) return true
      toldMs = performance.now()
      return recordRehearsal(db, id, done)
    })
    await finishRehearsal(db, id, { result })
  } catch (error) {
    if (!(error instanceof Cancelled)) {
      parentPort?.postMessage(String(error))
      await finishRehearsal(db, id, { problem: 'It could not be done; the log of the collector says why.' })
    }
  }
}
await db.destroy()
