import { randomBytes } from 'node:crypto'
import { sql } from 'kysely'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest'
import { EVERYWHERE, lasting, type LevelRule, ofLast, type Where } from '#core/rules'
import type { Findings } from '#core/gear'
import { takeAlert } from '#db/alerts'
import type { Db } from '#db/platform'
import { keptValues, type Placement, storeFindings } from '#db/gear'
import { ensurePartitions } from '#db/readings'
import { deleteRule, insertRule } from '#db/rules'
import { insertSource } from '#db/sources'
import { serverFindings } from '#db/testing/findings'
import { tellByMail } from '#db/testing/callouts'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { Judgement } from './judgement.ts'
import { Notifier } from '../notify/notifier.ts'
import { AlertWriter } from './alertWriter.ts'

const NOON = Date.UTC(2026, 10, 24, 12)
let db: Db
let drop: () => Promise<void>
let notifier: Notifier
let judgement: Judgement
let sourceId = 0
let count = 0
let placement: Placement | null = null

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  await ensurePartitions(db, NOON, NOON)
  await tellByMail(db, { port: 25 })
  notifier = new Notifier(randomBytes(32), 0)
})
afterAll(() => drop())
beforeEach(async () => {
  count += 1
  placement = null
  judgement = new Judgement(db, new AlertWriter(db, notifier))
  sourceId = await newSource()
})

const newSource = (): Promise<number> =>
  insertSource(db, {
    name: `source ${count}`,
    protocol: 'redfish',
    address: 'https://127.0.0.1',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })

/** A server whose fan and whose own word on it are as given. */
function fan(rpm: number | null, health = 0): Findings {
  const found = serverFindings({
    name: `petrel-${count}`,
    identities: [{ kind: 'serial', value: `J-${count}` }],
    rpm,
  })
  return {
    ...found,
    readings: [...found.readings, { gear: 'server', part: 'fan 1', measure: 'hw.status', value: health }],
  }
}
async function moment(second: number, findings: Findings): Promise<void> {
  const taken = { sourceId, atMs: NOON + second * 1000, heardAtMs: 0, durationMs: null, findings }
  const result = await storeFindings(db, taken, placement)
  placement = result.placement
  await judgement.judgeMoment({
    taken,
    seriesIds: placement.layout.seriesIds,
    values: keptValues(placement, findings),
  })
}
const alerts = () =>
  db
    .selectFrom('alert')
    .innerJoin('gear', 'gear.id', 'alert.gearId')
    .select([
      'alert.id',
      'ruleKey',
      'severity',
      'title',
      'reason',
      'sinceAt',
      'openedAt',
      'clearedAt',
      'clearedReason',
    ])
    .where('gear.name', '=', `petrel-${count}`)
    .orderBy('alert.id')
    .execute()
const told = async () => {
  const ids = (await alerts()).map((alert) => alert.id)
  const rows = await db
    .selectFrom('message')
    .select('subject')
    .where('alertId', 'in', [0, ...ids])
    .orderBy('createdAt')
    .execute()
  return rows.map((row) => row.subject.replace(/^\[.*?\] /, ''))
}

/** A host of many cores, each as busy as given; with the mean where it tells of that. */
function host(cores: readonly number[], mean: number | null): Findings {
  const measure = 'system.cpu.utilization' as const
  const parts = cores.map((_, index) => ({
    key: `processor ${index}`,
    kind: 'processor' as const,
    name: `Processor ${index}`,
    facts: {},
  }))
  return {
    gear: [{ key: 'host', kind: 'host', name: `petrel-${count}`, identities: [], facts: {}, parts }],
    links: [],
    readings: [
      ...cores.map((value, index) => ({ gear: 'host', part: `processor ${index}`, measure, value })),
      ...(mean === null ? [] : [{ gear: 'host', part: null, measure, value: mean }]),
    ],
  }
}

describe('a host of 64 cores', () => {
  const busy = Array.from({ length: 64 }, () => 1)

  test('that is busy raises one alert, of its mean', async () => {
    for (let second = 0; second < 80; second += 10) await moment(second, host(busy, 1))
    expect((await alerts()).map(({ ruleKey, severity }) => [ruleKey, severity])).toEqual([
      ['processor-busy', 'critical'],
    ])
  })
  test('of which one core is busy raises none', async () => {
    const one = busy.map((_, index) => (index === 7 ? 1 : 0.1))
    for (let second = 0; second < 80; second += 10) await moment(second, host(one, 0.11))
    expect(await alerts()).toEqual([])
  })
  test('that tells of no mean is judged by its cores', async () => {
    for (let second = 0; second < 80; second += 10) await moment(second, host([1, 0.1], null))
    expect(await alerts()).toHaveLength(1)
  })
})

test('of many alerts of one moment, one that cannot be written keeps back itself only', async () => {
  await sql`
    create function refuse_one() returns trigger language plpgsql as
      $$ begin if new.title like '%Processor 5%' then raise 'not this one'; end if; return new; end $$`.execute(
    db,
  )
  await sql`create trigger refuse_one before insert on alert for each row execute function refuse_one()`.execute(
    db,
  )
  const every = host(
    Array.from({ length: 12 }, () => 1),
    null,
  )
  try {
    const refusals: string[] = []
    for (let second = 0; second < 60; second += 10)
      await moment(second, every).catch((error: unknown) => refusals.push(String(error)))
    expect(refusals[0]).toContain('1 of 12 changes of alerts')
    expect(await alerts()).toHaveLength(11)
  } finally {
    await sql`drop function refuse_one cascade`.execute(db)
  }
  await moment(60, every)
  expect((await alerts()).filter(({ title }) => title.includes('Processor 5'))).toHaveLength(1)
  expect(await alerts()).toHaveLength(12)
})

describe('a level', () => {
  test('opens after k of n readings, gets worse and better, and clears, each once', async () => {
    const course: [second: number, rpm: number][] = [
      [0, 5000],
      [10, 2000],
      [20, 2100],
      [30, 1500],
      [40, 1400],
      [50, 2200],
      [60, 2300],
      [70, 2300],
      [80, 5000],
      [90, 5000],
    ]
    const seen: string[] = []
    for (const [second, rpm] of course) {
      await moment(second, fan(rpm))
      const [alert] = await alerts()
      seen.push(alert === undefined ? '-' : alert.clearedAt !== null ? 'cleared' : alert.severity)
    }
    expect(seen).toEqual([
      '-',
      '-',
      'warning',
      'warning',
      'critical',
      'critical',
      'warning',
      'warning',
      'warning',
      'cleared',
    ])
    const [alert] = await alerts()
    expect(alert).toMatchObject({
      ruleKey: 'fan-slow',
      sinceAt: new Date(NOON + 10_000),
      openedAt: new Date(NOON + 20_000),
    })
    expect(alert?.clearedReason).toMatch(/^Back to 5.000.rpm after 1.min\.$/)
    const events = await db
      .selectFrom('alertEvent')
      .select('what')
      .where('alertId', '=', alert!.id)
      .orderBy('id')
      .execute()
    expect(events.map((event) => event.what)).toEqual(['opened', 'worse', 'better', 'cleared'])
    expect(await told()).toEqual([
      expect.stringMatching(/^New: Fan 1 at 2.100.rpm/),
      expect.stringMatching(/^Worse: Fan 1 at 1.400.rpm/),
      expect.stringMatching(/^Cleared: Fan 1 at 5.000.rpm/),
    ])
  })
  test('one sample over the line is noise, and a missing one neither opens nor clears', async () => {
    for (const [second, rpm] of [
      [0, 5000],
      [10, 0],
      [20, 5000],
      [30, null],
      [40, 5000],
    ] as const)
      await moment(second, fan(rpm))
    expect(await alerts()).toEqual([])
  })
  test('goes on where a collector that was restarted left off', async () => {
    await moment(0, fan(5000))
    await moment(10, fan(0))
    judgement = new Judgement(db, new AlertWriter(db, notifier))
    await moment(20, fan(0))
    expect((await alerts()).map((alert) => alert.severity)).toEqual(['critical'])
    judgement = new Judgement(db, new AlertWriter(db, notifier))
    await moment(30, fan(0))
    expect(await alerts(), 'an open alert is not opened again').toHaveLength(1)
    await moment(40, fan(5000))
    await moment(50, fan(5000))
    expect((await alerts())[0]?.clearedAt).not.toBeNull()
  })
  test('a reading that is dated in the future is judged as of now, and mutes nothing that comes after it', async () => {
    let nowMs = NOON
    judgement = new Judgement(db, new AlertWriter(db, notifier), () => nowMs)
    const at = async (second: number, findings: Findings, datedSecond = second) => {
      nowMs = NOON + second * 1000
      await moment(datedSecond, findings)
    }
    await at(0, fan(5000), 3000)
    for (const second of [10, 20]) await at(second, fan(0))
    expect((await alerts()).map(({ severity, clearedAt }) => [severity, clearedAt])).toEqual([
      ['critical', null],
    ])
    expect((await alerts())[0]!.openedAt.getTime()).toBeLessThanOrEqual(nowMs)
  })
  test('a clock of ours that was ahead and is set back mutes nothing, without a restart', async () => {
    let aheadMs = 3_600_000
    let second = 0
    judgement = new Judgement(db, new AlertWriter(db, notifier), () => NOON + second * 1000 + aheadMs)
    await moment(3600, fan(5000))
    aheadMs = 0
    for (second of [10, 20]) await moment(second, fan(0))
    expect((await alerts()).map(({ severity }) => severity)).toEqual(['critical'])
  })
  test('a moment that comes late is stored and judged no more', async () => {
    await moment(100, fan(5000))
    await moment(110, fan(5000))
    for (const second of [10, 20, 30]) await moment(second, fan(0))
    expect(await alerts()).toEqual([])
  })
})

test('one trouble seen in two ways is one message, and both alerts are kept', async () => {
  await moment(0, fan(5000))
  await moment(10, fan(0, 2))
  await moment(20, fan(0, 2))
  expect((await alerts()).map((alert) => [alert.ruleKey, alert.title])).toEqual([
    ['part-health', `Fan 1 stopped in petrel-${count}`],
    ['fan-slow', `Fan 1 stopped in petrel-${count}`],
  ])
  expect(await told()).toEqual([expect.stringContaining('New: Fan 1 stopped')])
})

describe('rules of one’s own', () => {
  const base = {
    kind: 'level',
    key: 'new',
    name: 'Fan of this one',
    why: '',
    of: { measure: 'hw.fan.speed', with: null },
    direction: 'below',
    persistence: ofLast(1, 1),
  } as const
  const fans = { gearKind: 'server', partKind: 'fan' } as const
  const gearId = async () =>
    (await db.selectFrom('gear').select('id').where('name', '=', `petrel-${count}`).executeTakeFirstOrThrow())
      .id
  const own = (where: Where, at: number): LevelRule => ({
    ...base,
    scope: { ...fans, where },
    lines: [{ severity: 'warning', at, back: null }],
  })

  test('one for this gear takes the place of the one for all, and what that had raised goes; deleted, it is back', async () => {
    await moment(0, fan(2000))
    await moment(10, fan(2000))
    expect((await alerts()).map(({ ruleKey }) => ruleKey)).toEqual(['fan-slow'])
    const id = await insertRule(db, own({ kind: 'gear', id: await gearId() }, 1000), 'Bo')
    judgement.refresh()
    await moment(20, fan(2000))
    expect(await alerts()).toMatchObject([{ clearedReason: 'Its rule is not in force here any more.' }])
    await moment(30, fan(900))
    expect((await alerts()).at(-1)).toMatchObject({
      ruleKey: `own-${id}`,
      severity: 'warning',
      clearedAt: null,
    })
    await deleteRule(db, id, 'Bo')
    judgement.refresh()
    await moment(40, fan(900))
    await moment(50, fan(900))
    expect((await alerts()).filter(({ clearedAt }) => clearedAt === null)).toMatchObject([
      { ruleKey: 'fan-slow', severity: 'critical' },
    ])
  })
  test('a tag that is given later brings its rule', async () => {
    const id = await insertRule(db, own({ kind: 'tag', tag: 'quiet-room' }, 4000), 'Bo')
    await moment(0, fan(3500))
    expect(await alerts()).toEqual([])
    await db
      .updateTable('gear')
      .set({ tags: ['quiet-room'] })
      .where('name', '=', `petrel-${count}`)
      .execute()
    judgement.refresh()
    await moment(10, fan(3500))
    expect((await alerts()).map(({ ruleKey }) => ruleKey)).toEqual([`own-${id}`])
    await deleteRule(db, id, 'Bo')
  })
  test('what was seen up to a change of rules still counts', async () => {
    const id = await insertRule(
      db,
      {
        ...own({ kind: 'gear', id: 0 }, 4000),
        persistence: lasting(60_000),
        scope: { ...fans, where: EVERYWHERE },
      },
      'Bo',
    )
    for (const second of [0, 10, 20, 30]) await moment(second, fan(3500))
    judgement.refresh()
    for (const second of [40, 50, 60]) await moment(second, fan(3500))
    expect((await alerts()).map(({ ruleKey, sinceAt }) => [ruleKey, sinceAt])).toEqual([
      [`own-${id}`, new Date(NOON)],
    ])
    await deleteRule(db, id, 'Bo')
  })
  test('a series that is missing while its source is heard', async () => {
    const id = await insertRule(
      db,
      {
        kind: 'silent',
        key: 'new',
        name: 'Fan not heard',
        why: '',
        scope: { ...fans, where: EVERYWHERE },
        measure: 'hw.fan.speed',
        afterMs: 30_000,
        severity: 'warning',
      },
      'Bo',
    )
    await moment(0, fan(5000))
    for (const second of [10, 20]) await moment(second, fan(null))
    expect(await alerts()).toEqual([])
    await moment(30, fan(null))
    expect(await alerts()).toMatchObject([
      { title: `Fan 1 in petrel-${count} is not heard`, clearedAt: null },
    ])
    await moment(40, fan(5000))
    expect((await alerts())[0]?.clearedAt).not.toBeNull()
    await deleteRule(db, id, 'Bo')
  })
})

test('an alert is taken once, and by a name', async () => {
  await moment(0, fan(0))
  await moment(10, fan(0))
  const id = (await alerts())[0]!.id
  const at = new Date(NOON)
  const both = await Promise.all([takeAlert(db, id, 'Bo', at), takeAlert(db, id, 'Asta', at)])
  expect(both.map((each) => each.kind).sort()).toEqual(['alreadyTaken', 'taken'])
  expect(await takeAlert(db, 999_999, 'Bo', at)).toEqual({ kind: 'unknown' })
})

test('a pair holds over two sources of one gear, and not on what is too old', async () => {
  const otherId = await insertSource(db, {
    name: `other ${count}`,
    protocol: 'otlp',
    address: '127.0.0.1',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: `token of other ${count}`,
  })
  const load = async (second: number, value: number): Promise<void> => {
    const { gear } = fan(5000)
    const [{ key }] = gear as [(typeof gear)[number]]
    const findings: Findings = {
      gear: [{ ...gear[0]!, parts: [] }],
      links: [],
      readings: [{ gear: key, part: null, measure: 'system.cpu.utilization', value }],
    }
    const atMs = NOON + second * 1000
    await storeFindings(db, { sourceId: otherId, atMs, findings }, null)
  }
  await load(0, 0.02)
  await moment(0, fan(5000))
  const { id } = await db
    .selectFrom('gear')
    .select('id')
    .where('name', '=', `petrel-${count}`)
    .executeTakeFirstOrThrow()
  const ruleId = await insertRule(
    db,
    {
      kind: 'pair',
      key: 'new',
      name: 'Draws power and does nothing',
      why: '',
      scope: { gearKind: null, partKind: null, where: { kind: 'gear', id } },
      first: { measure: 'hw.power', direction: 'above', at: 200, back: null },
      second: { measure: 'system.cpu.utilization', direction: 'below', at: 0.1, back: null },
      severity: 'warning',
      persistence: ofLast(1, 1),
    },
    'Bo',
  )
  judgement.forget()
  await moment(10, fan(5000))
  const own = async () => (await alerts()).filter(({ ruleKey }) => ruleKey === `own-${ruleId}`)
  expect((await own()).map(({ clearedAt }) => clearedAt)).toEqual([null])
  await load(15, 0.8)
  await moment(20, fan(5000))
  expect((await own())[0]?.clearedAt).not.toBeNull()
  await load(25, 0.02)
  await moment(70, fan(5000))
  expect(await own(), 'what was said 45 s ago is not held against it').toHaveLength(1)
  await deleteRule(db, ruleId, 'Bo')
})

describe('a server that is switched off', () => {
  const power = (state: 0 | 1, rpm: number, health = 0): Findings => {
    const found = fan(rpm, health)
    return {
      ...found,
      readings: [...found.readings, { gear: 'server', part: null, measure: 'hw.power.state', value: state }],
    }
  }
  test('is one alert, whatever of it stands still, until it is on again and judged as before', async () => {
    for (const second of [0, 10, 20]) await moment(second, power(1, 4800))
    for (const second of [30, 40, 50, 60]) await moment(second, power(0, 0, 2))
    expect((await alerts()).map(({ ruleKey, title, clearedAt }) => [ruleKey, title, clearedAt])).toEqual([
      ['gear-off', `Server petrel-${count} is switched off`, null],
    ])
    for (const second of [70, 80, 90]) await moment(second, power(1, 4800))
    expect((await alerts()).map(({ clearedAt }) => clearedAt?.getTime() ?? null)).toEqual([NOON + 70_000])
    for (const second of [100, 110, 120]) await moment(second, power(1, 0))
    expect((await alerts()).at(-1)).toMatchObject({ ruleKey: 'fan-slow', clearedAt: null })
  })
  test('takes along what was open of what stands still with it; one that was never on is no trouble', async () => {
    for (const second of [0, 10, 20]) await moment(second, power(1, 0))
    expect((await alerts())[0]).toMatchObject({ ruleKey: 'fan-slow', clearedAt: null })
    await moment(30, power(0, 0))
    expect((await alerts())[0]?.clearedReason).toContain('switched off')
    count += 1000
    sourceId = await newSource()
    placement = null
    for (const second of [0, 10, 20, 30]) await moment(second, power(0, 0))
    expect(await alerts()).toEqual([])
  })
})
