import { sql } from 'kysely'
import { randomBytes } from 'node:crypto'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Rule } from '#core/rules'
import { endOrder, insertOrder } from '#db/forecast'
import type { Db } from '#db/platform'
import { sealPast } from '#db/readings'
import { deleteRule, insertRule } from '#db/rules'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { madeSource } from '#db/testing/series'
import { makeForecasts } from '../jobs/forecasting.ts'
import { Notifier } from '../notify/notifier.ts'
import { AheadRules } from './aheadRules.ts'
import { AlertWriter } from './alertWriter.ts'

const DAY_MS = 86_400_000
const TODAY = Math.floor(Date.now() / DAY_MS)
const TIB = 1024 ** 4
let db: Db
let drop: () => Promise<void>
let sourceId: number
let rules: AheadRules
const ids: Record<string, number> = {}

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  rules = new AheadRules(db, new AlertWriter(db, new Notifier(randomBytes(32))), () => Promise.resolve(true))
  sourceId = await madeSource(db, 'made')
  for (const name of ['slow', 'quick']) await newStore(name)
  // With 7 of 10 TiB and 10 GiB a day the critical line is four months ahead.
  for (const name of ['slow', 'quick']) await fill(name, 120, 60, 7 * TIB, 10)
})
afterAll(() => drop())

async function newStore(name: string): Promise<void> {
  const gear = await db
    .insertInto('gear')
    .values({ name, kind: 'store', facts: '{}', rackId: null, unit: null, heightUnits: null })
    .returning('id')
    .executeTakeFirstOrThrow()
  for (const measure of ['utilization', 'usage', 'limit'] as const) {
    const row = await db
      .insertInto('series')
      .values({ sourceId, gearId: gear.id, partId: null, measure: `system.filesystem.${measure}` })
      .returning('id')
      .executeTakeFirstOrThrow()
    ids[`${name} ${measure}`] = row.id
  }
}

/** A store that holds so much on the last of these days, and grew by so many GiB a day until then. */
async function fill(
  name: string,
  fromDaysAgo: number,
  untilDaysAgo: number,
  used: number,
  grows: number,
): Promise<void> {
  for (let from = TODAY - fromDaysAgo; from < TODAY - untilDaysAgo;) {
    const until = Math.min(TODAY - untilDaysAgo, (Math.floor(from / 30) + 1) * 30)
    const times = Float64Array.from(
      { length: (until - from) * 24 },
      (_, hour) => from * DAY_MS + hour * 3_600_000,
    )
    const at = times.map((ms) => used - (TODAY - untilDaysAgo - ms / DAY_MS) * grows * 1024 ** 3)
    await sealPast(
      db,
      { sourceId, fromDay: from, days: until - from },
      new Map([
        [ids[`${name} usage`]!, { times, values: at }],
        [ids[`${name} utilization`]!, { times, values: at.map((each) => each / (10 * TIB)) }],
        [ids[`${name} limit`]!, { times, values: at.map(() => 10 * TIB) }],
      ]),
    )
    from = until
  }
}

const forecastAt = (nowMs: number) =>
  makeForecasts(db, { now: () => nowMs, over: new AbortController().signal })
const alerts = () =>
  db
    .selectFrom('alert')
    .select(['title', 'severity', 'reason', 'clearedAt', 'clearedReason', 'seriesId', 'subject'])
    .orderBy('id')
    .execute()

test('a store that is filled faster is told after the next forecast, once; the other is not', async () => {
  const before = (TODAY - 60) * DAY_MS
  await forecastAt(before)
  await rules.look(before)
  expect(await alerts()).toEqual([])

  await fill('slow', 60, 0, 7 * TIB + 60 * 10 * 1024 ** 3, 10)
  await fill('quick', 60, 0, 7.3 * TIB, 60)
  const now = TODAY * DAY_MS
  await forecastAt(now)
  await rules.look(now)
  await rules.look(now + 30_000)
  const told = await alerts()
  expect(told).toMatchObject([{ severity: 'warning', clearedAt: null, seriesId: ids['quick utilization'] }])
  // Critical is 82 % as shipped: 0.9 TiB at 60 GiB a day are 15.4 days.
  expect(told[0]!.title).toMatch(/^Datastore quick runs out in (14|15|16) days$/)
  expect(told[0]!.reason).toMatch(/^Space used reaches critical 82\.0.% on .* in 8 of 10 cases\. Grows/)
})

test('an order that is noted ends it, until the order is taken back', async () => {
  const now = TODAY * DAY_MS
  const order = {
    seriesId: ids['quick utilization']!,
    words: 'ten drives, order 4711',
    expectedOn: new Date(Date.now() + 5 * DAY_MS).toISOString().slice(0, 10),
  }
  await insertOrder(db, order, 'Bo Lindqvist')
  await rules.look(now + 60_000)
  const [first] = await alerts()
  expect(first!.clearedReason).toMatch(
    /^It has been ordered: ten drives, order 4711, expected on \d+ \w+ \d{4}\.$/,
  )
  await rules.look(now + 90_000)
  expect(await alerts()).toHaveLength(1)
  const { id } = await db.selectFrom('forecastOrder').select('id').executeTakeFirstOrThrow()
  await endOrder(db, id, 'Bo Lindqvist')
  await rules.look(now + 120_000)
  expect(await alerts()).toHaveLength(2)
})

test('a narrower rule takes the place of the shipped one, and what nothing is in force for goes without a word', async () => {
  const now = TODAY * DAY_MS
  const gear = await db.selectFrom('gear').select('id').where('name', '=', 'quick').executeTakeFirstOrThrow()
  const rule: Rule = {
    kind: 'ahead',
    key: 'new',
    name: 'Quick is emptied by hand',
    why: '',
    scope: { gearKind: null, partKind: null, where: { kind: 'gear', id: gear.id } },
    measure: 'system.filesystem.utilization',
    lines: [{ severity: 'critical', days: 3 }],
  }
  const id = await insertRule(db, rule, 'Bo Lindqvist')
  await rules.look(now + 150_000)
  expect((await alerts())[1]).toMatchObject({ clearedReason: 'Its rule is not in force here any more.' })
  await deleteRule(db, id, 'Bo Lindqvist')
  await rules.look(now + 180_000)
  // What was over for less than a minute goes on as the same alert.
  expect((await alerts()).filter(({ clearedAt }) => clearedAt === null)).toHaveLength(1)
})

test('once it is over its line, the rule of the line has the word', async () => {
  await fill('quick', 0, -30, 9.3 * TIB, 60)
  const later = (TODAY + 30) * DAY_MS
  await forecastAt(later)
  await rules.look(later)
  const last = (await alerts()).at(-1)!
  expect(last.clearedReason).toContain('It has reached its line')
})

test('where no rule tells of its line, the rule on days left says that it is over it', async () => {
  const later = (TODAY + 30) * DAY_MS + 60_000
  await sql`
    update rule set is_on = false
    where body ->> 'kind' = 'level' and body -> 'of' ->> 'measure' = 'system.filesystem.utilization'`.execute(
    db,
  )
  await rules.look(later)
  await rules.look(later + 30_000)
  const open = (await alerts()).filter(({ clearedAt }) => clearedAt === null)
  expect(open).toMatchObject([{ severity: 'critical', title: 'Datastore quick has reached its line' }])
  expect(open[0]!.reason).toMatch(/^Space used has reached critical 82/)
})
