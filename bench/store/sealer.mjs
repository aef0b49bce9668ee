// Seals all settled days as the housekeeping thread does, once, and says how many rows it moved.
import { setPriority } from 'node:os'
import { parentPort, workerData } from 'node:worker_threads'
import { register } from 'tsx/esm/api'

register()
setPriority(0, 10)
const { connect, openPool } = await import('../../db/platform/connect.ts')
const { sealSettled } = await import('../../collector/jobs/housekeeping.ts')
const db = connect(openPool(workerData.url, 2))
const moved = await sealSettled(db, {
  now: () => workerData.nowMs,
  rest: 9,
  over: new AbortController().signal,
})
await db.destroy()
parentPort?.postMessage(moved)
