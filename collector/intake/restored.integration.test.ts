import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import { expect, inject, test } from 'vitest'
import { connect, type Db, openPool } from '#db/platform'
import {
  aggregate,
  drawing,
  ensurePartitions,
  insertMoments,
  latestReadings,
  layoutFor,
  percentiles,
  readSpan,
  valueAt,
} from '#db/readings'
import { freshDatabase } from '#db/testing/database'
import { everyLatest } from '#db/testing/latest'
import { newSeries } from '#db/testing/series'
import { compactPast, sealSettled } from '../jobs/housekeeping.ts'
import { DAY, FIRST_DAY, madeInstant, madeValue } from '../testing/madeReadings.ts'

const HOUR = DAY / 24
const SPAN = 34 * DAY

/** A hundred questions of all sorts, the same for the same seed. */
async function ask(db: Db, seriesIds: readonly number[], sourceId: number): Promise<unknown[]> {
  let state = 11
  const next = () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647
  const answers: unknown[] = []
  for (let count = 0; count < 100; count += 1) {
    const id = seriesIds[Math.floor(next() * seriesIds.length)]!
    const fromMs = FIRST_DAY * DAY + Math.floor(next() * SPAN)
    const toMs = fromMs + Math.floor(next() * 10 * DAY)
    const whole = { fromMs: Math.floor(fromMs / HOUR) * HOUR, toMs: Math.ceil(toMs / HOUR) * HOUR }
    const kinds = [
      () => readSpan(db, id, fromMs, toMs),
      () => drawing(db, id, { fromMs, toMs, pixels: 20 + Math.floor(next() * 500), longestGapMs: HOUR }),
      () => aggregate(db, id, { ...whole, bucketMs: 6 * HOUR }),
      () => percentiles(db, [id], { fromMs, toMs, ratios: [0.5, 0.95], exact: count % 2 === 0 }),
      () => valueAt(db, id, toMs),
      async () => everyLatest(await latestReadings(db, [sourceId])),
    ]
    answers.push(await kinds[count % kinds.length]!())
  }
  return answers
}

test('a dump by pg_dump, restored into an empty database, gives the same answer to 100 random questions', async () => {
  const { db, url, drop } = await freshDatabase()
  const folder = mkdtempSync(join(tmpdir(), 'rack-dump-'))
  const { sourceId, seriesIds } = await newSeries(db, 4)
  const layout = { id: await layoutFor(db, sourceId, seriesIds), seriesIds }
  await ensurePartitions(db, madeInstant(0), madeInstant(0) + SPAN + DAY)
  const rows = Array.from({ length: SPAN / (10 * 60_000) }, (_, index) => ({
    sourceId,
    atMs: madeInstant(index * 10),
    layout,
    values: seriesIds.map((_, slot) => madeValue(0, slot, index * 10)),
  }))
  for (let at = 0; at < rows.length; at += 1000) await insertMoments(db, rows.slice(at, at + 1000))
  const bounds = { now: () => FIRST_DAY * DAY + 33 * DAY, rest: 0, over: new AbortController().signal }
  await sealSettled(db, bounds)
  await compactPast(db, bounds)
  const answers = await ask(db, seriesIds, sourceId)

  const path = join(folder, 'rack.dump')
  const dumped = spawnSync('pg_dump', ['--format=custom', `--file=${path}`, url], { encoding: 'utf8' })
  expect(dumped.stderr).toBe('')
  const restoredUrl = url.replace(/\/test_/, '/restored_')
  const client = new pg.Client({ connectionString: inject('databaseUrl') })
  await client.connect()
  await client.query(`create database ${new URL(restoredUrl).pathname.slice(1)}`)
  const restored = spawnSync('pg_restore', ['--exit-on-error', `--dbname=${restoredUrl}`, path], {
    encoding: 'utf8',
  })
  expect(restored.stderr).toBe('')
  const second = connect(openPool(restoredUrl))
  expect(await ask(second, seriesIds, sourceId)).toEqual(answers)
  expect(JSON.stringify(answers).length, 'the questions had something to answer').toBeGreaterThan(10_000)

  await second.destroy()
  await client.query(`drop database ${new URL(restoredUrl).pathname.slice(1)} with (force)`)
  await client.end()
  await drop()
  rmSync(folder, { recursive: true })
})
