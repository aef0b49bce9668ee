import { afterAll, beforeAll, expect, test } from 'vitest'
import type { KeptForecast, Verdict } from '#core/forecast'
import { insertOrder, type NewForecast, writeForecasts } from '#db/forecast'
import type { Db } from '#db/platform'
import { freshDatabase } from '#db/testing/database'
import { madeSource } from '#db/testing/series'
import { madeRack, madeRooms } from '#db/testing/site'
import type { Present } from '../platform/present.ts'
import { loadAhead } from './ahead.ts'

const DAY_MS = 86_400_000
const NOW = Math.floor(Date.now() / DAY_MS) * DAY_MS
let db: Db
let drop: () => Promise<void>
let sourceId: number

async function store(name: string, place: { rackId?: number; tags?: string[] } = {}): Promise<number> {
  const { id: gearId } = await db
    .insertInto('gear')
    .values({
      name,
      kind: 'store',
      facts: '{}',
      ...(place.rackId === undefined
        ? { rackId: null, unit: null, heightUnits: null }
        : { rackId: place.rackId, unit: 1, heightUnits: 1, face: 'both' as const }),
      tags: place.tags ?? [],
    })
    .returning('id')
    .executeTakeFirstOrThrow()
  const { id } = await db
    .insertInto('series')
    .values({ sourceId, gearId, partId: null, measure: 'system.filesystem.utilization' })
    .returning('id')
    .executeTakeFirstOrThrow()
  return id
}

/** @param orderInDays days until the order must be out; `null`: it does not run out */
function made(seriesId: number, orderInDays: number | null, verdict: Verdict = 'crosses'): NewForecast {
  const orderByMs = orderInDays === null ? null : NOW + orderInDays * DAY_MS
  const runOutMs = orderByMs === null ? null : orderByMs + 14 * DAY_MS
  const body: KeptForecast = {
    kind: 'space',
    measure: 'system.filesystem.utilization',
    line: { at: 0.85, words: 'critical 85 %' },
    given: 0.85,
    direction: 'up',
    leadDays: 14,
    earlyMs: null,
    lateMs: null,
    sentence: 'Grows.',
    seen: [],
    ahead: { everyDays: 7, p10: [], p50: [], p90: [] },
    others: [],
    whatIf: [],
    proofs: [],
    days: 100,
    marks: '',
  }
  return { seriesId, madeMs: NOW, topic: 'Space', verdict, runOutMs, orderByMs, body }
}

const load = (showing: Parameters<typeof loadAhead>[1]) => loadAhead({ db, nowMs: NOW } as Present, showing)

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  sourceId = await madeSource(db, 'generated')
  const [north] = await madeRooms(db, ['North Room', 'Empty Room'])
  const rackId = await madeRack(db, { name: 'N01', roomId: north!, xMm: 1000 })
  const [late, soon, ordered, idleB, idleA, young] = [
    await store('late', { tags: ['archive'] }),
    await store('soon', { rackId, tags: ['weather', 'archive'] }),
    await store('ordered'),
    await store('idle-b'),
    await store('idle-a'),
    await store('young'),
  ]
  await store('never forecast', { tags: ['nobody asks'] })
  await writeForecasts(db, [
    made(late, 40),
    made(soon, 3),
    made(ordered, 1),
    made(idleB, null, 'not-in-sight'),
    made(idleA, null, 'not-in-sight'),
    made(young, null, 'too-little'),
  ])
  const expectedOn = new Date(NOW + 5 * DAY_MS).toISOString().slice(0, 10)
  await insertOrder(db, { seriesId: ordered, words: 'two shelves', expectedOn }, 'asta')
})
afterAll(() => drop())

test('what must be ordered first stands first; what is ordered is not named as due', async () => {
  const { list, due, counts, withinHalfYear } = await load('runs-out')
  expect(list.rows.map(({ name }) => name)).toEqual(['ordered', 'soon', 'late'])
  expect(list.rows.map(({ order }) => order?.words ?? null)).toEqual(['two shelves', null, null])
  expect(due).toEqual({ count: 1, names: ['soon'] })
  expect(counts).toEqual({ all: 6, runsOut: 3, notInSight: 2, tooEarly: 1 })
  expect(withinHalfYear).toBe(3)
})

test('whatever is shown, what is due is named; what does not run out stands by its name', async () => {
  const { list, due } = await load('not-in-sight')
  expect(list.rows.map(({ name }) => name)).toEqual(['idle-a', 'idle-b'])
  expect(due).toEqual({ count: 1, names: ['soon'] })
})

test('rooms and tags to choose from are those of what is forecast', async () => {
  const { places } = await load('runs-out')
  expect(places).toEqual({ rooms: ['North Room'], tags: ['archive', 'weather'] })
})
