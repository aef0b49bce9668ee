import { afterAll, beforeAll, expect, test } from 'vitest'
import { openAlert } from '#db/alerts'
import type { Db } from '#db/platform'
import { insertRack, insertRoom } from '#db/site'
import { freshDatabase } from '#db/testing/database'
import { Present } from '../platform/present.ts'
import { loadWhere } from './rooms.ts'

const NOW = Date.UTC(2026, 10, 30, 12)
let db: Db
let drop: () => Promise<void>
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(() => drop())

const server = async (name: string, rackId: number, unit: number, face: 'both' | 'left' = 'both') =>
  (
    await db
      .insertInto('gear')
      .values({ name, kind: 'server', facts: '{}', own: '{}', rackId, unit, heightUnits: 2, face })
      .returning('id')
      .executeTakeFirstOrThrow()
  ).id

test('few racks are drawn with everybody in them, of many only who is not well is named', async () => {
  const roomId = await insertRoom(db, { name: 'Hall' })
  const rackId = await insertRack(db, { roomId, name: 'R00', heightUnits: 42 })
  const hot = await server('hot', rackId, 1)
  await server('well', rackId, 10)
  await server('strip', rackId, 20, 'left')
  await openAlert(db, {
    subject: 'gear hot',
    ruleKey: 'inlet',
    gearId: hot,
    seriesId: null,
    sourceId: null,
    partId: null,
    measure: null,
    severity: 'critical',
    title: 'hot is hot',
    reason: 'It is.',
    sinceAt: new Date(NOW),
    openedAt: new Date(NOW),
  })
  const first = async () => (await loadWhere(new Present(db, NOW)))[0]!.racks[0]!
  const few = await first()
  expect(few.gear.map(({ name, state }) => `${name} ${state}`)).toEqual([
    'strip well',
    'well well',
    'hot critical',
  ])
  expect(few.taken).toEqual([])
  for (let rack = 1; rack < 40; rack += 1)
    await insertRack(db, { roomId, name: `R${String(rack).padStart(2, '0')}`, heightUnits: 42 })
  const many = await first()
  expect(many.gear.map(({ id }) => id)).toEqual([hot])
  expect(many.taken, 'the units of the one that is well, and none of a strip').toEqual([10, 2])
  await db.deleteFrom('alert').execute()
  expect(await first(), 'all are well').toMatchObject({ gear: [], taken: [10, 2, 1, 2] })
})
