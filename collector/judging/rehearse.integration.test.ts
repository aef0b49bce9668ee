import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Curve } from '#core/readings'
import { EVERYWHERE, type LevelRule, ofLast } from '#core/rules'
import type { Db } from '#db/platform'
import { sealPast } from '#db/readings'
import { cancelRehearsal, findRehearsal, requestRehearsal, insertRule } from '#db/rules'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { newSeries } from '#db/testing/series'
import { Cancelled, rehearse } from './rehearse.ts'
import { Rehearsals } from './rehearsals.ts'

const DAY = 86_400_000
const MINUTE = 60_000
// A day that begins a period of thirty: what is laid down as a whole lies in one.
const FROM_DAY = 690 * 30
const NOW = (FROM_DAY + 10) * DAY
let db: Db
let url: string
let drop: () => Promise<void>
let seriesIds: number[]

const rule: LevelRule = {
  kind: 'level',
  key: 'new',
  name: 'Warm',
  why: '',
  scope: { gearKind: 'server', partKind: 'sensor', where: EVERYWHERE },
  of: { measure: 'hw.temperature', with: null },
  direction: 'above',
  lines: [{ severity: 'warning', at: 30, back: 29 }],
  persistence: ofLast(2, 2),
}

beforeAll(async () => {
  ;({ db, drop, url } = await freshDatabaseWithJobs())
  const made = await newSeries(db, 7)
  // Of seven series of three measures the first, fourth and seventh are temperatures.
  seriesIds = [0, 3, 6].map((index) => made.seriesIds[index]!)
  const count = (10 * DAY) / (5 * MINUTE)
  const times = Float64Array.from({ length: count }, (_, index) => FROM_DAY * DAY + index * 5 * MINUTE)
  /** Warm for an hour from six o'clock on every so many days. */
  const curve = (everyDays: number): Curve => ({
    times,
    values: times.map((atMs) => {
      const day = Math.floor(atMs / DAY) - FROM_DAY
      const hour = (atMs % DAY) / 3_600_000
      return day % everyDays === 0 && hour >= 6 && hour < 7 ? 35 : 22
    }),
  })
  await sealPast(
    db,
    { sourceId: made.sourceId, fromDay: FROM_DAY, days: 10 },
    new Map([
      [seriesIds[0]!, curve(1)],
      [seriesIds[1]!, curve(2)],
      [seriesIds[2]!, curve(100)],
    ]),
  )
})
afterAll(() => drop())

const run = (asked: Partial<Parameters<typeof rehearse>[1]> = {}) =>
  rehearse(db, { rule, insteadOf: null, days: 30, wished: null, ...asked }, NOW, () => Promise.resolve(true))

describe('a rule over what is stored', () => {
  test('how many, on what, how long, at which hour', async () => {
    const result = await run()
    expect(result).toMatchObject({
      series: 3,
      readings: 3 * 2880,
      firstMs: FROM_DAY * DAY,
      alerts: 16,
      critical: 0,
      silent: 0,
      longestMs: 60 * MINUTE,
      medianMs: 60 * MINUTE,
    })
    expect(
      result.byHour.map((alerts, hour) => (alerts === 0 ? null : hour)).filter((hour) => hour !== null),
    ).toEqual([6])
    expect(result.subjects.map(({ seriesId, alerts }) => [seriesId, alerts])).toEqual([
      [seriesIds[0], 10],
      [seriesIds[1], 5],
      [seriesIds[2], 1],
    ])
    expect(result.lines?.counts.find(({ at }) => at > 22.5)?.alerts).toBe(16)
  })
  test('a line for a wished rate', async () => {
    expect((await run({ wished: 0 })).lines?.proposed?.at).toBeGreaterThanOrEqual(35)
    expect((await run({ wished: 16 })).lines?.proposed?.at).toBeLessThan(23)
  })
  test('only where it would be in force: another that is more specific keeps its series', async () => {
    const gear = await db
      .selectFrom('series')
      .select('partId')
      .where('id', '=', seriesIds[0]!)
      .executeTakeFirstOrThrow()
    const id = await insertRule(
      db,
      { ...rule, scope: { ...rule.scope, where: { kind: 'part', id: gear.partId! } } },
      'Bo',
    )
    expect((await run()).series).toBe(2)
    expect((await run({ insteadOf: id })).series, 'in its place').toBe(3)
  })
  test('a count is looked at minute by minute over all of its members', async () => {
    const counted = {
      kind: 'count',
      key: 'new',
      name: 'Two are warm',
      why: '',
      scope: rule.scope,
      measure: 'hw.temperature',
      member: { kind: 'level', direction: 'above', at: 30 },
      least: [{ severity: 'critical', count: 2 }],
      persistence: ofLast(2, 2),
    } as const
    const result = await run({ rule: counted })
    expect(result).toMatchObject({ series: 3, alerts: 5, critical: 5 })
    expect(result.subjects).toMatchObject([{ name: 'Two are warm', alerts: 5 }])
    expect(Math.round(result.longestMs / MINUTE)).toBe(60)
  })
  test('a series that is missing while its source is heard, and a source that is not heard', async () => {
    const made = await newSeries(db, 3)
    const [warm, volts] = [made.seriesIds[0]!, made.seriesIds[1]!]
    const at = (from: number, to: number): number[] =>
      Array.from({ length: (to - from) / 5 }, (_, index) => FROM_DAY * DAY + (from + index * 5) * MINUTE)
    const curve = (times: number[]): Curve => ({
      times: Float64Array.from(times),
      values: Float64Array.from(times, () => 20),
    })
    // The source is away for two hours on the second day; the temperature for three more on the third.
    const days = [...at(0, 1500), ...at(1620, 14_400)]
    await sealPast(
      db,
      { sourceId: made.sourceId, fromDay: FROM_DAY, days: 10 },
      new Map([
        [
          warm,
          curve(
            days.filter((ms) => ms < FROM_DAY * DAY + 3000 * MINUTE || ms >= FROM_DAY * DAY + 3180 * MINUTE),
          ),
        ],
        [volts, curve(days)],
      ]),
    )
    const { gearId } = await db
      .selectFrom('series')
      .select('gearId')
      .where('id', '=', warm)
      .executeTakeFirstOrThrow()
    const where = { kind: 'gear', id: gearId } as const
    const words = { key: 'new', name: 'Silent', why: '', severity: 'warning' } as const
    const scope = { gearKind: null, partKind: null, where } as const
    const silent = {
      ...words,
      scope,
      kind: 'silent',
      measure: 'hw.temperature',
      afterMs: 30 * MINUTE,
    } as const
    const noData = { ...words, scope, kind: 'noData', intervals: 3 } as const
    expect(await run({ rule: silent })).toMatchObject({ series: 1, alerts: 1, longestMs: 155 * MINUTE })
    expect(await run({ rule: noData })).toMatchObject({ series: 1, alerts: 1, longestMs: 110 * MINUTE })
  })
  test('is stopped when it is told to', async () => {
    await expect(
      rehearse(db, { rule, insteadOf: null, days: 30, wished: null }, NOW, () => Promise.resolve(false)),
    ).rejects.toThrow(Cancelled)
  })
})

describe('asked for', () => {
  const finished = async (id: string) => {
    for (let tries = 0; tries < 200; tries += 1) {
      const state = await findRehearsal(db, id)
      if (state?.isFinished || state?.isCancelled) return state
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    throw new Error('it never ended')
  }
  test('it is done in a thread, and its result is there; what the same person asked for before stops', async () => {
    const rehearsals = new Rehearsals(db, url)
    const asked = { rule, insteadOf: null, days: 366, wished: 1 }
    const first = await requestRehearsal(db, 'Bo', asked)
    const second = await requestRehearsal(db, 'Bo', asked)
    await rehearsals.look()
    expect(await finished(second)).toMatchObject({ done: 1, problem: null })
    expect((await findRehearsal(db, second))?.result?.series).toBeGreaterThan(0)
    expect(await findRehearsal(db, first)).toMatchObject({ isCancelled: true, result: null })
    const third = await requestRehearsal(db, 'Bo', asked)
    await cancelRehearsal(db, third)
    await rehearsals.look()
    expect(await finished(third)).toMatchObject({ isCancelled: true, result: null })
    await rehearsals.close()
  })
})
