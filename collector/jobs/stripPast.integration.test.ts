import { afterAll, beforeAll, expect, test } from 'vitest'
import { DAY_MS, HOUR_MS } from '#core/forecast'
import type { Findings } from '#core/gear'
import { listForecasts } from '#db/forecast'
import { storeMoments } from '#db/gear'
import type { Db } from '#db/platform'
import { listAloneSeries, listStrips } from '#db/power'
import { ensurePartitions, latestReadings, readSpan, sealPast } from '#db/readings'
import { freshDatabase } from '#db/testing/database'
import { madeSource } from '#db/testing/series'
import { Strips } from '../intake/strips.ts'
import { makeForecasts } from './forecasting.ts'
import { fillStripPasts } from './stripPast.ts'

const NOW = Date.UTC(2026, 10, 27, 12)
const TODAY = Math.floor(NOW / DAY_MS)
const bounds = { now: () => NOW, over: new AbortController().signal }
let db: Db
let drop: () => Promise<void>
const sources = new Map<string, number>()
let strips: Strips

/** Watts of an outlet: the second of B grows 20 W a day, up to 4,000 W now. */
const outletWatts = (strip: string, outlet: number, atMs: number): number =>
  strip === 'X-B' && outlet === 2 ? 4000 + (20 * (atMs - NOW)) / DAY_MS : 500 * outlet
/** The first outlet of each feeds a server with two cords, the second of B and the third of A another; what is left has one. */
const CORDS: Readonly<Record<string, readonly [outlet: number, gear: string][]>> = {
  'X-A': [
    [1, 'auk-1'],
    [3, 'auk-2'],
    [4, 'lone'],
  ],
  'X-B': [
    [1, 'auk-1'],
    [2, 'auk-2'],
  ],
}
const UUIDS: Readonly<Record<string, string>> = {
  'auk-1': '1f0c7a52-93c4-4f51-8a5e-3f6d2b9c1e01',
  'auk-2': '1f0c7a52-93c4-4f51-8a5e-3f6d2b9c1e02',
  lone: '1f0c7a52-93c4-4f51-8a5e-3f6d2b9c1e03',
}
const wattsOf = (strip: string, atMs: number): number =>
  CORDS[strip]!.reduce((sum, [outlet]) => sum + outletWatts(strip, outlet, atMs), 0)

async function tell(strip: string, atMs: number): Promise<void> {
  const told: Findings = {
    gear: [
      {
        key: strip,
        kind: 'pdu',
        name: strip,
        identities: [],
        facts: {},
        parts: CORDS[strip]!.map(([outlet]) => ({
          key: `outlet ${outlet}`,
          kind: 'outlet',
          name: `Outlet ${outlet}`,
          facts: {},
        })),
      },
      ...CORDS[strip]!.map(([, name]) => ({
        key: name,
        kind: 'server' as const,
        name,
        identities: [{ kind: 'uuid' as const, value: UUIDS[name]! }],
        facts: {},
        parts: [],
      })),
    ],
    links: CORDS[strip]!.map(([outlet, name]) => ({
      kind: 'fed-by',
      from: name,
      to: strip,
      fromPart: null,
      toPart: `outlet ${outlet}`,
    })),
    readings: [
      { gear: strip, part: null, measure: 'hw.power', value: wattsOf(strip, atMs) },
      ...CORDS[strip]!.map(([outlet]) => ({
        gear: strip,
        part: `outlet ${outlet}`,
        measure: 'hw.power' as const,
        value: outletWatts(strip, outlet, atMs),
      })),
    ],
  }
  const sourceId = sources.get(strip)!
  const findings = strips.add(sourceId, atMs, told)
  await db.transaction().execute((trx) => storeMoments(trx, [{ sourceId, atMs, findings }], new Map()))
}

async function alone(strip: string): Promise<number | null | undefined> {
  const { id: gearId } = await db
    .selectFrom('gear')
    .select('id')
    .where('name', '=', strip)
    .executeTakeFirstOrThrow()
  const id = (await listAloneSeries(db)).get(`${sources.get(strip)!} ${gearId}`)
  return id === undefined ? undefined : (await latestReadings(db)).get(id)?.value
}

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, NOW - DAY_MS, NOW + DAY_MS)
  strips = new Strips(db)
  for (const name of Object.keys(CORDS)) sources.set(name, await madeSource(db, name))
  for (const name of Object.keys(CORDS)) await tell(name, NOW - 60_000)
}, 60_000)
afterAll(() => drop())

test('what a strip would carry alone: its own load, and the cords of shared gear that hang on the other', async () => {
  expect(await alone('X-A'), 'nothing was known of the other yet').toBeUndefined()
  await strips.look(NOW)
  for (const name of Object.keys(CORDS)) await tell(name, NOW)
  // A carries 500 + 1,500 + 2,000 W; from B 500 and 4,000 W would come to it.
  expect(await alone('X-A')).toBeCloseTo(8500, 0)
  // B carries 4,500 W; from A come 500 and 1,500 W, and not what hangs on A alone.
  expect(await alone('X-B')).toBeCloseTo(6500, 0)
})

test('of another time nothing is said, nor while the other strip is not heard', async () => {
  await tell('X-A', NOW - 3 * HOUR_MS)
  const later = NOW + HOUR_MS
  await strips.look(later)
  await tell('X-A', later)
  expect(await alone('X-A')).toBeNull()
})

test('it has a past from those of its outlets at once, made once, and is forecast from it', async () => {
  const all = (await listStrips(db)).map((strip) => ({ ...strip, name: strip.key }))
  for (const { name, sourceId, gearId } of all) {
    const rows = await db
      .selectFrom('series')
      .leftJoin('part', 'part.id', 'series.partId')
      .select(['series.id', 'part.key'])
      .where('series.gearId', '=', gearId)
      .where('measure', '=', 'hw.power')
      .execute()
    for (let day = TODAY - 90; day < TODAY; day += 30 - (day % 30)) {
      const days = Math.min(TODAY, day + 30 - (day % 30)) - day
      const times = Float64Array.from({ length: days * 288 }, (_, at) => day * DAY_MS + at * 300_000)
      const curve = (key: string | null) => ({
        times,
        values: times.map((at) =>
          key === null ? wattsOf(name, at) : outletWatts(name, Number(key.slice('outlet '.length)), at),
        ),
      })
      const curves = new Map(rows.map(({ id, key }) => [id, curve(key)]))
      await sealPast(db, { sourceId, fromDay: day, days }, curves)
    }
  }
  expect(await fillStripPasts(db, bounds)).toBe(180)
  expect(await fillStripPasts(db, bounds)).toBe(0)
  const strip = all.find(({ name }) => name === 'X-A')!
  const id = (await listAloneSeries(db)).get(`${strip.sourceId} ${strip.gearId}`)!
  const { times, values } = await readSpan(db, id, NOW - 80 * DAY_MS, NOW - DAY_MS)
  expect(times.length).toBeGreaterThan(78 * 288)
  times.forEach((at, index) => {
    const off = values[index]! - (4500 + outletWatts('X-B', 2, at))
    if (Math.abs(off) > 1) throw new Error(`${values[index]} at ${new Date(at).toISOString()}`)
  })
  await makeForecasts(db, bounds)
  const rows = await listForecasts(db, ['crosses', 'not-in-sight', 'over', 'too-little'])
  const ahead = rows.find(({ gear, measure }) => gear === 'X-A' && measure === 'hw.power.alone')!
  // The critical line of 11,000 W is 2,500 W away: 125 days at 20 W a day.
  expect(ahead).toMatchObject({ verdict: 'crosses', topic: 'Power' })
  expect(Math.abs((ahead.runOutMs! - NOW) / DAY_MS - 125)).toBeLessThan(8)
})
