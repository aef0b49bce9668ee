// Seals all settled days as the housekeeping thread does, once, and says how many rows it moved.
import { parentPort, workerData } from 'node:worker_threads'
import { register } from 'tsx/esm/api'

register()
const { connect, openPool } = await import('../../db/connect.ts')
const { sealDay, unsealedDays } = await import('../../db/readings.ts')
const db = connect(openPool(workerData.url, 2))
let moved = 0
for (const each of await unsealedDays(db, workerData.beforeDay)) moved += await sealDay(db, each)
await db.destroy()
parentPort?.postMessage(moved)
