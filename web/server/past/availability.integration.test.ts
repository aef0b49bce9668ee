import { afterAll, beforeAll, expect, test } from 'vitest'
import { parseServiceHours } from '#core/past'
import { insertQuiet } from '#db/alerts'
import { insertGroup } from '#db/gear'
import type { Db } from '#db/platform'
import { sealPast } from '#db/readings'
import { freshDatabase } from '#db/testing/database'
import { madeSource } from '#db/testing/series'
import { Present } from '../platform/present.ts'
import { nodesOf } from '../links/paths.ts'
import { keptByServices, loadAvailability } from './availability.ts'

const HOUR_MS = 3_600_000
const DAY_MS = 24 * HOUR_MS
const TODAY = Math.floor(Date.now() / DAY_MS)
const NOW = TODAY * DAY_MS
const FROM = NOW - 4 * DAY_MS
let db: Db
let drop: () => Promise<void>
let sourceId: number

const isIn = (hour: number, spans: readonly (readonly [number, number])[]): boolean =>
  spans.some(([from, to]) => hour >= from && hour < to)

/** A server that is off, and not heard, for some hours of the four days; a reading a minute. */
async function server(
  name: string,
  off: readonly (readonly [number, number])[],
  away: readonly (readonly [number, number])[] = [],
): Promise<number> {
  const { id } = await db
    .insertInto('gear')
    .values({ name, kind: 'server', facts: '{}', rackId: null, unit: null, heightUnits: null })
    .returning('id')
    .executeTakeFirstOrThrow()
  const series = await db
    .insertInto('series')
    .values({ sourceId, gearId: id, partId: null, measure: 'hw.power.state' })
    .returning('id')
    .executeTakeFirstOrThrow()
  for (let from = TODAY - 4; from < TODAY;) {
    const until = Math.min(TODAY, (Math.floor(from / 30) + 1) * 30)
    const times = Float64Array.from(
      { length: (until - from) * 1440 },
      (_, minute) => from * DAY_MS + minute * 60_000,
    ).filter((at) => !isIn((at - FROM) / HOUR_MS, away))
    const values = times.map((at) => (isIn((at - FROM) / HOUR_MS, off) ? 0 : 1))
    await sealPast(
      db,
      { sourceId, fromDay: from, days: until - from },
      new Map([[series.id, { times, values }]]),
    )
    from = until
  }
  return id
}

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  sourceId = await madeSource(db, 'made')
  const one = await server(
    'eider-1',
    [
      [10, 11],
      [50, 51],
    ],
    [[60, 62]],
  )
  const two = await server('eider-2', [[10.5, 12]])
  await insertQuiet(db, {
    scope: { where: { kind: 'gear', id: one }, measure: null, ruleKey: null },
    reason: 'new memory',
    who: 'Bo Lindqvist',
    fromMs: FROM + 49 * HOUR_MS,
    toMs: FROM + 52 * HOUR_MS,
    repeats: null,
  })
  await db
    .insertInto('alert')
    .values({
      ruleKey: 'gear-off',
      subject: 'series 1',
      seriesId: null,
      sourceId: null,
      gearId: two,
      partId: null,
      measure: 'hw.power.state',
      severity: 'critical',
      title: 'Server eider-2 is switched off',
      reason: '',
      line: null,
      value: 0,
      sinceAt: new Date(FROM + 10.5 * HOUR_MS),
      openedAt: new Date(FROM + 10.6 * HOUR_MS),
      clearedAt: new Date(FROM + 12 * HOUR_MS),
    })
    .execute()
  const group = { note: '', tag: null, least: 1, unknown: 'well' as const, memberIds: [one, two] }
  await insertGroup(db, { ...group, name: 'either', rule: 'any' })
  const both = await insertGroup(db, { ...group, name: 'both', rule: 'all', unknown: 'bad' })
  // Its hours and its level are its own: 12 hours of each of the four days.
  await insertGroup(db, {
    ...group,
    name: 'forecast',
    rule: 'all',
    memberIds: [],
    groupIds: [both],
    isService: true,
    level: 0.95,
    hours: parseServiceHours('Mon–Sun 00:00–12:00'),
  })
})
afterAll(() => drop())

const load = (query = '') =>
  loadAvailability(
    new Present(db, NOW),
    new URL(`http://past.test/past/availability?from=${FROM}&to=${NOW}${query}`),
  )
const rowOf = async (name: string, query = '') => (await load(query)).rows.find((row) => row.name === name)!

test('a server: an hour off, three of maintenance with an hour off in them, two hours not heard', async () => {
  const { of } = await rowOf('eider-1')
  expect(of.promisedMs).toBe(93 * HOUR_MS)
  expect(of.maintenanceMs).toBe(3 * HOUR_MS)
  expect(of.downMs).toBe(HOUR_MS)
  // From the last reading before to the first after it.
  expect(of.blindMs).toBe(2 * HOUR_MS + 60_000)
  expect(of.outages).toEqual([{ fromMs: FROM + 10 * HOUR_MS, toMs: FROM + 11 * HOUR_MS }])
  expect(of.share!).toBeCloseTo((93 - 1 - 2 - 1 / 60) / (93 - 2 - 1 / 60), 9)
})
test('a group of which one must work is down while both are off; of which all must, while one is', async () => {
  expect((await rowOf('either')).of).toMatchObject({ downMs: 0.5 * HOUR_MS, maintenanceMs: 0 })
  const { of } = await rowOf('both')
  // What was not heard counts apart, though the group takes it for bad.
  expect(of).toMatchObject({
    downMs: 2 * HOUR_MS,
    maintenanceMs: 3 * HOUR_MS,
    blindMs: 2 * HOUR_MS + 60_000,
  })
  expect(of.outages).toHaveLength(1)
})
test('a service: the groups in it, at its own level and in its own hours', async () => {
  const row = await rowOf('forecast', '&level=99.9 %25&hours=long')
  expect(row).toMatchObject({ what: 'service', level: 0.95, hours: 'Mon–Sun 00:00–12:00' })
  // Of both of them 10:00–12:00 on the first day; the rest of its troubles come after noon.
  expect(row.of).toMatchObject({ downMs: 2 * HOUR_MS, maintenanceMs: 3 * HOUR_MS })
  expect(row.of.promisedMs).toBe(45 * HOUR_MS)
  expect(row.budget.allowedMs).toBeCloseTo(0.05 * 48 * HOUR_MS, 0)

  const present = new Present(db, NOW)
  const [groups, scopes] = await Promise.all([present.groups(), present.scopes()])
  const services = nodesOf(groups, scopes, new Map()).filter(({ isService }) => isService)
  const kept = (await keptByServices(present, services, scopes)).get(services[0]!.id)!
  expect(kept.of.downMs).toBe(2 * HOUR_MS)
  expect(kept.days).toHaveLength(30)
  // The fourth day from the end begins with what is known: two of its twelve hours were lost.
  expect(kept.days.map(({ down }) => down).filter(Boolean)).toEqual([2 / 12])
  expect(kept.days.at(-4)!.down).toBe(2 / 12)
  expect(kept.days[0]).toMatchObject({ down: 0, blind: 1 })
})
test('an outage is told with the alert of its time, else with what the reading says', async () => {
  const { outages } = await load()
  const causes = (name: string) => outages.find((outage) => outage.name === name)!.cause
  expect(causes('eider-2')).toEqual(['Server eider-2 is switched off'])
  expect(causes('eider-1')).toEqual(['eider-1: switched off'])
  expect(causes('both')).toEqual(['eider-1: switched off', 'Server eider-2 is switched off'])
})
test('within service hours only, against a level; the error budget is what the level leaves', async () => {
  const found = await load('&hours=long&level=99 %25')
  expect(found.promisedMs).toBe(64 * HOUR_MS)
  const row = found.rows.find(({ name }) => name === 'eider-2')!
  expect(row.budget.allowedMs).toBeCloseTo(0.64 * HOUR_MS, 0)
  expect(row.budget.leftMs).toBeCloseTo((0.64 - 1.5) * HOUR_MS, 0)
  expect(found.sentence).toMatch(/^\d of 5 missed what is promised: most of all/)
})
test('what cannot be asked is said', async () => {
  expect((await load('&level=100 %25')).problems.join(' ')).toContain('lies between 0 and 100 %')
  expect((await load('&level=much')).problems.join(' ')).toContain('“much” is no number')
  expect((await load('&hours=whenever')).problems.join(' ')).toContain(
    '“whenever” is not days with times. Write “Mon–Fri 08:00–17:00”. Around the clock is taken.',
  )
  const backwards = await loadAvailability(
    new Present(db, NOW),
    new URL(`http://past.test/past/availability?from=${NOW}&to=${FROM}`),
  )
  expect(backwards.rows).toHaveLength(5)
})
