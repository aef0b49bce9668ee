import { sql } from 'kysely'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Findings } from '#core/gear'
import type { Db } from '#db/platform'
import { storeFindings } from '../gear/index.ts'
import { ensurePartitions } from '../readings/index.ts'
import { freshDatabase } from '../testing/database.ts'
import {
  deleteRating,
  findPage,
  listDrives,
  listDriveSeries,
  listModels,
  ratedBytesByPart,
  servicesAround,
  stretchesOfMoved,
  writePaces,
  writeRatings,
} from './index.ts'

let db: Db
let drop: () => Promise<void>
let sourceId: number
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  const { id } = await db
    .insertInto('source')
    .values({ name: 'petrel-09', protocol: 'otlp', address: 'petrel-09', intervalSeconds: 60 } as never)
    .returning('id')
    .executeTakeFirstOrThrow()
  sourceId = id
  await ensurePartitions(db, NOON - 86_400_000, NOON + 86_400_000)
})
afterAll(() => drop())

const NOON = Date.UTC(2026, 4, 4, 12)
const page = (octet: number): string => Buffer.alloc(512, octet).toString('base64')

/** A host with two bays, each with a drive and its page. */
function hostWith(serials: readonly string[], octet: number): Findings {
  return {
    gear: [
      {
        key: 'host',
        kind: 'server',
        name: 'petrel-09',
        identities: [{ kind: 'serial', value: 'NV-9' }],
        facts: {},
        parts: serials.map((serial, bay) => ({
          key: `drive ${bay}`,
          kind: 'drive' as const,
          name: `d${bay}`,
          facts: { model: 'S1 1.9T', serial },
        })),
      },
    ],
    links: [],
    readings: serials.map((_, bay) => ({
      gear: 'host',
      part: `drive ${bay}`,
      measure: 'hw.drive.written' as const,
      value: 1e12 + bay,
    })),
    pages: serials.map((_, bay) => ({
      gear: 'host',
      part: `drive ${bay}`,
      kind: 'ata-smart' as const,
      data: page(octet + bay),
      thresholds: bay === 0 ? page(9) : null,
    })),
  }
}
const store = (findings: Findings, atMs: number) =>
  db.transaction().execute((trx) => storeFindings(trx, { sourceId, atMs, findings }, null))

test('the newest page of a drive is kept as it came, and an older one that comes late does not replace it', async () => {
  await store(hostWith(['A', 'B'], 1), NOON)
  await store(hostWith(['A', 'B'], 3), NOON + 60_000)
  await store(hostWith(['A', 'B'], 5), NOON - 60_000)
  const [first, second] = await listDrives(db)
  const kept = await findPage(db, first!.partId)
  expect(kept?.readMs).toBe(NOON + 60_000)
  expect(kept?.page).toEqual({
    kind: 'ata-smart',
    data: Buffer.alloc(512, 3),
    thresholds: Buffer.alloc(512, 9),
  })
  expect((await findPage(db, second!.partId))?.page).toMatchObject({ thresholds: null })
  expect(await findPage(db, 999_999)).toBeNull()
})

test('another serial number in a bay is another drive; a drive that moves takes its history along', async () => {
  const [first, second] = await listDrives(db)
  await store(hostWith(['C', 'A'], 1), NOON + 120_000)
  const { inBay, elsewhere } = await servicesAround(db, second!.partId)
  expect(inBay.map(({ serial, untilMs }) => [serial, untilMs === null])).toEqual([
    ['A', true],
    ['B', false],
  ])
  expect(elsewhere.map(({ bay, serial }) => [bay, serial])).toEqual([['d0', 'A']])
  const series = await listDriveSeries(db, { measures: ['hw.drive.written'] })
  const of = (partId: number) => series.find((each) => each.partId === partId)!.id
  const stretches = await stretchesOfMoved(db, ['hw.drive.written'])
  // A was in the first bay from the beginning; what the second bay told before is B's.
  const moved = stretches.get(of(second!.partId))!
  expect(moved.map(({ seriesId }) => seriesId)).toEqual([of(first!.partId), of(second!.partId)])
  expect(moved[0]).toMatchObject({ fromMs: 0 })
  expect(moved[0]!.toMs).toBe(moved[1]!.fromMs)
  expect(stretches.get(of(first!.partId))).toHaveLength(1)
})

test('ratings by model, and how much is written a day, are of each drive', async () => {
  const rating = { model: 'S1 1.9T', ratedBytes: 3.5e15, origin: 'data sheet' }
  await writeRatings(db, [rating], 'Asta Holm')
  await writeRatings(db, [{ ...rating, ratedBytes: 3.6e15 }], 'Bo Lindqvist')
  const [first] = await listDrives(db)
  await writePaces(db, [{ partId: first!.partId, writtenDaily: 2e12, days: 30 }])
  expect(await listDrives(db, first!.partId)).toMatchObject([{ ratedBytes: 3.6e15, writtenDaily: 2e12 }])
  expect((await ratedBytesByPart(db)).get(first!.partId)).toBe(3.6e15)
  expect(await listModels(db)).toMatchObject([
    { model: 'S1 1.9T', drives: 2, hasLife: false, ratedBytes: 3.6e15, madeBy: 'Bo Lindqvist' },
  ])
  expect(await deleteRating(db, 'S1 1.9T')).toBe(true)
  expect(await deleteRating(db, 'S1 1.9T')).toBe(false)
})

test('what is no longer watched keeps no pages, and is in no list', async () => {
  const [first] = await listDrives(db)
  const before = await findPage(db, first!.partId)
  await sql`update source_item set state = 'left' where part_key = 'drive 0'`.execute(db)
  await store(hostWith(['C', 'A'], 7), NOON + 180_000)
  expect(await findPage(db, first!.partId)).toEqual(before)
  expect((await listDrives(db)).map(({ name }) => name)).toEqual(['d1'])
})
