import { afterAll, beforeAll, expect, test } from 'vitest'
import { DAY_MS, HOUR_MS } from '#core/forecast'
import type { Findings } from '#core/gear'
import { listForecasts } from '#db/forecast'
import { mergeGear, storeMoments } from '#db/gear'
import type { Db } from '#db/platform'
import { findBattery, listAgeSeries, writeBattery } from '#db/power'
import { ensurePartitions, readSpan } from '#db/readings'
import { freshDatabase } from '#db/testing/database'
import { madeSource } from '#db/testing/series'
import { Batteries } from '../intake/batteries.ts'
import { fillBatteryPasts } from './batteryPast.ts'
import { makeForecasts } from './forecasting.ts'

const NOW = Date.UTC(2026, 10, 27, 12)
const bounds = { now: () => NOW, over: new AbortController().signal }
let db: Db
let drop: () => Promise<void>
let upsId: number
let sourceId: number

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, NOW - DAY_MS, NOW + 3 * DAY_MS)
  sourceId = await madeSource(db, 'ebb-A')
  await tell(NOW - 60_000)
  upsId = (await db.selectFrom('gear').select('id').executeTakeFirstOrThrow()).id
}, 60_000)
afterAll(() => drop())

/** What the UPS tells by itself, taken with what people say of its batteries. */
async function tell(
  atMs: number,
  of: { readonly sourceId: number; readonly key: string } = { sourceId, key: 'ebb-A' },
) {
  const told: Findings = {
    gear: [
      {
        key: of.key,
        kind: 'ups',
        name: of.key,
        identities: [],
        facts: {},
        parts: [{ key: 'output', kind: 'output', name: 'Output', facts: {} }],
      },
    ],
    links: [],
    readings: [{ gear: of.key, part: null, measure: 'hw.battery.charge', value: 1 }],
  }
  const batteries = new Batteries(db)
  await batteries.look()
  const findings = batteries.add(of.sourceId, atMs, told)
  await db
    .transaction()
    .execute((trx) => storeMoments(trx, [{ sourceId: of.sourceId, atMs, findings }], new Map()))
}

const parts = () =>
  db.selectFrom('part').select(['name', 'isPresent']).where('kind', '=', 'battery').orderBy('id').execute()
async function forecasts() {
  await makeForecasts(db, bounds)
  const rows = await listForecasts(db, ['crosses', 'not-in-sight', 'over', 'too-little'])
  return rows.filter(({ measure }) => measure === 'ups.battery.age')
}

test('batteries that people note have the past of their age at once, made once', async () => {
  await writeBattery(db, upsId, { installed: '2022-03-12', years: 5 }, 'Asta Holm')
  await tell(NOW)
  expect(await parts()).toEqual([{ name: 'Battery of Mar 2022', isPresent: true }])
  expect(await fillBatteryPasts(db, bounds)).toBe(400)
  expect(await fillBatteryPasts(db, bounds)).toBe(0)
  const [series] = await listAgeSeries(db)
  const { times, values } = await readSpan(db, series!.id, NOW - 300 * DAY_MS, NOW - DAY_MS)
  expect(times.length).toBeGreaterThan(298 * 24)
  times.forEach((at, index) =>
    expect(Math.abs(values[index]! - (at - Date.UTC(2022, 2, 12)) / DAY_MS)).toBeLessThan(0.06),
  )
})

test('they reach the age that they are made for on the day of the calendar, and another when that was corrected', async () => {
  const [age] = await forecasts()
  expect(age).toMatchObject({ gear: 'ebb-A', verdict: 'crosses', topic: 'Power' })
  expect(Math.abs(age!.runOutMs! - Date.UTC(2027, 2, 12)) / DAY_MS).toBeLessThan(0.1)
  // Nothing of it is a guess.
  expect([age!.body.earlyMs, age!.body.lateMs]).toEqual([age!.runOutMs, age!.runOutMs])
  expect(age!.body.sentence).toContain('a day older each day')
  await writeBattery(db, upsId, { installed: '2022-03-12', years: 6 }, 'Asta Holm')
  const [later] = await forecasts()
  expect(Math.abs(later!.runOutMs! - Date.UTC(2028, 2, 12)) / DAY_MS).toBeLessThan(0.1)
})

test('other batteries are another part, and what is forecast is their age', async () => {
  await writeBattery(db, upsId, { installed: '2026-11-01', years: 5 }, 'Bo Lindqvist')
  await tell(NOW + HOUR_MS)
  expect((await parts()).map(({ isPresent }) => isPresent)).toEqual([false, true])
  expect(await fillBatteryPasts(db, bounds)).toBe(26)
  const [age, ...others] = await forecasts()
  expect(others).toEqual([])
  expect(age).toMatchObject({ verdict: 'not-in-sight', runOutMs: null })
})

test('they stay with a UPS that becomes one with another, and go when nobody knows any more', async () => {
  const other = await madeSource(db, 'ebb-A by its card')
  await tell(NOW + HOUR_MS, { sourceId: other, key: 'card' })
  const { gearId: cardId } = await db
    .selectFrom('sighting')
    .select('gearId')
    .where('sourceId', '=', other)
    .executeTakeFirstOrThrow()
  await mergeGear(db, { keptId: cardId, mergedId: upsId, who: 'Asta Holm' })
  expect(await findBattery(db, cardId)).toMatchObject({ installed: '2026-11-01' })
  await tell(NOW + 2 * HOUR_MS, { sourceId: other, key: 'card' })
  expect(new Set((await listAgeSeries(db)).map((each) => each.sourceId))).toContain(other)
  await writeBattery(db, cardId, null, 'Asta Holm')
  expect(await findBattery(db, cardId)).toBeUndefined()
  await tell(NOW + 3 * HOUR_MS)
  expect(await forecasts()).toEqual([])
})
