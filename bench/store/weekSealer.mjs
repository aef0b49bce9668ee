// Seals as the housekeeping thread does, by the clock that it is told.
import { parentPort, workerData } from 'node:worker_threads'
import { register } from 'tsx/esm/api'

register()
const { connect, openPool } = await import('../../db/platform/connect.ts')
const { sealSettled } = await import('../../collector/jobs/housekeeping.ts')
const db = connect(openPool(workerData.url, 2))
let nowMs = 0
let isRunning = false
parentPort?.on('message', async (atMs) => {
  nowMs = atMs
  if (isRunning) return
  isRunning = true
  await sealSettled(db, { now: () => nowMs, rest: 0, over: new AbortController().signal })
  isRunning = false
})
