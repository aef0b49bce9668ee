import { randomBytes } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { type CountRule, EVERYWHERE, lasting, ofLast, type TextRule } from '#core/rules'
import type { Db } from '#db/platform'
import { storeFindings } from '#db/gear'
import { ensurePartitions } from '#db/readings'
import { deleteRule, insertRule } from '#db/rules'
import { insertSource } from '#db/sources'
import { serverFindings } from '#db/testing/findings'
import { freshDatabaseWithJobs } from '#db/testing/jobs'
import { Counts, LOOK_MS } from './counts.ts'
import { Notifier } from '../notify/notifier.ts'
import { TextRules } from './textRules.ts'
import { AlertWriter } from './alertWriter.ts'

let db: Db
let drop: () => Promise<void>
let notifier: Notifier
const NOW = Date.now()

beforeAll(async () => {
  ;({ db, drop } = await freshDatabaseWithJobs())
  await ensurePartitions(db, NOW - 3_600_000, NOW + 86_400_000)
  notifier = new Notifier(randomBytes(32))
})
afterAll(() => drop())

async function server(
  name: string,
  rpm: number,
  atMs: number,
): Promise<{ sourceId: number; gearId: number }> {
  const known = await db.selectFrom('source').select('id').where('name', '=', name).executeTakeFirst()
  const sourceId =
    known?.id ??
    (await insertSource(db, {
      name,
      protocol: 'redfish',
      address: 'https://127.0.0.1',
      settings: {},
      intervalSeconds: 10,
      credentialId: null,
      token: null,
    }))
  const findings = serverFindings({ name, identities: [{ kind: 'serial', value: name }], rpm })
  await storeFindings(db, { sourceId, atMs, findings }, null)
  const gear = await db.selectFrom('gear').select('id').where('name', '=', name).executeTakeFirstOrThrow()
  return { sourceId, gearId: gear.id }
}
const alertsOf = (ruleKey: string) =>
  db
    .selectFrom('alert')
    .select(['id', 'title', 'reason', 'severity', 'clearedAt', 'clearedReason'])
    .where('ruleKey', '=', ruleKey)
    .orderBy('id')
    .execute()

describe('what devices say', () => {
  const rule: TextRule = {
    kind: 'text',
    key: 'new',
    name: 'Wrong passwords',
    why: '',
    scope: { gearKind: null, partKind: null, where: EVERYWHERE },
    pattern: 'failed password',
    atMost: 7,
    count: 3,
    windowMs: 60_000,
    severity: 'warning',
  }
  const said = (gearId: number, atMs: number, body: string, times = 1) => ({
    heardAt: new Date(atMs),
    severity: 5,
    body,
    app: 'sshd',
    times,
    gearId,
  })

  test('a burst is one alert with its count; it clears once its window has passed; a restart goes on', async () => {
    const { gearId } = await server('auk-1', 5000, NOW)
    const key = `own-${await insertRule(db, rule, 'Bo')}`
    let texts = new TextRules(db, new AlertWriter(db, notifier))
    await texts.take([
      said(gearId, NOW, 'Failed password for root'),
      said(gearId, NOW + 1000, 'session opened'),
    ])
    expect(await alertsOf(key)).toEqual([])
    await texts.take([said(gearId, NOW + 2000, 'Failed password for bo', 4)])
    expect(await alertsOf(key)).toMatchObject([
      { title: 'auk-1 says “Failed password for bo”', reason: expect.stringContaining('5 lines like') },
    ])
    texts = new TextRules(db, new AlertWriter(db, notifier))
    await texts.take([said(gearId, NOW + 5000, 'Failed password for asta', 40)])
    const open = await alertsOf(key)
    expect(open).toHaveLength(1)
    expect(open[0]?.reason).toContain('40 lines like')
    await texts.look(NOW + 64_000)
    expect((await alertsOf(key))[0]?.clearedAt).toBeNull()
    await texts.look(NOW + 65_000)
    expect((await alertsOf(key))[0]?.clearedAt).not.toBeNull()
    await texts.take([said(gearId, NOW + 70_000, 'Failed password', 3)])
    expect(await alertsOf(key)).toHaveLength(2)
  })
  test('an emergency is one alert, and critical; what is less is a warning as ever', async () => {
    const { gearId } = await server('auk-3', 5000, NOW)
    const texts = new TextRules(db, new AlertWriter(db, notifier))
    const graded = (severity: number, atMs: number) => ({
      ...said(gearId, atMs, 'fan tray failed'),
      severity,
    })
    await texts.take([graded(0, NOW)])
    expect(await alertsOf('device-emergency')).toMatchObject([{ severity: 'critical' }])
    expect(await alertsOf('device-alarmed')).toEqual([])
    await texts.take([graded(2, NOW + 1000)])
    expect(await alertsOf('device-alarmed')).toMatchObject([{ severity: 'warning' }])
  })
  test('a rule that is gone takes its alert along', async () => {
    const { gearId } = await server('auk-2', 5000, NOW)
    const id = await insertRule(db, { ...rule, pattern: 'out of memory', count: 1 }, 'Bo')
    const texts = new TextRules(db, new AlertWriter(db, notifier))
    await texts.take([said(gearId, NOW, 'Out of memory: killed process 7')])
    expect(await alertsOf(`own-${id}`)).toHaveLength(1)
    await deleteRule(db, id, 'Bo')
    texts.refresh()
    await texts.look(NOW)
    expect((await alertsOf(`own-${id}`))[0]?.clearedReason).toBe('Its rule is not in force here any more.')
  })
})

test('at least two of three: counted over sources, by the newest readings, without those not heard', async () => {
  const rule: CountRule = {
    kind: 'count',
    key: 'new',
    name: 'Fans of the row',
    why: '',
    scope: { gearKind: 'server', partKind: 'fan', where: EVERYWHERE },
    measure: 'hw.fan.speed',
    member: { kind: 'level', direction: 'below', at: 3000 },
    least: [{ severity: 'critical', count: 2 }],
    persistence: ofLast(2, 2),
  }
  for (const [name, rpm] of [
    ['tern-1', 1000],
    ['tern-2', 5000],
    ['tern-3', 1000],
  ] as const)
    await server(name, rpm, NOW + 100_000)
  await server('tern-4', 1000, NOW - 3_000_000)
  const key = `own-${await insertRule(db, rule, 'Bo')}`
  const counts = new Counts(db, new AlertWriter(db, notifier), () => Promise.resolve(true))
  await counts.look(NOW + 101_000)
  expect(await alertsOf(key)).toEqual([])
  await counts.look(NOW + 106_000)
  const [alert] = await alertsOf(key)
  expect(alert?.severity).toBe('critical')
  expect(alert?.title).toMatch(/^2 of 3: fan speed below 3.000.rpm$/)
  expect(alert?.reason).toMatch(/^Fans of the row: Fan 1 in tern-1 and Fan 1 in tern-3; \d+ not heard/)
  await server('tern-3', 5000, NOW + 110_000)
  const again = new Counts(db, new AlertWriter(db, notifier), () => Promise.resolve(true))
  await again.look(NOW + 111_000)
  await again.look(NOW + 116_000)
  expect((await alertsOf(key))[0]?.clearedAt).not.toBeNull()
})

test('a count that has to last goes on counting when another process takes over, or a rule is changed', async () => {
  const rule: CountRule = {
    kind: 'count',
    key: 'new',
    name: 'Fans of the second row',
    why: '',
    scope: { gearKind: 'server', partKind: 'fan', where: { kind: 'tag', tag: 'second row' } },
    measure: 'hw.fan.speed',
    member: { kind: 'level', direction: 'below', at: 3000 },
    least: [{ severity: 'warning', count: 2 }],
    persistence: lasting(60_000),
  }
  const startMs = NOW + 200_000
  const names = ['auk-1', 'auk-2']
  for (const name of names) await server(name, 5000, startMs)
  await db
    .updateTable('gear')
    .set({ tags: ['second row'] })
    .where('name', 'in', names)
    .execute()
  const key = `own-${await insertRule(db, rule, 'Bo')}`
  for (let second = 10; second <= 70; second += 10)
    for (const name of names) await server(name, 1000, startMs + second * 1000)
  // Nobody has looked until now; they have been slow since 10 s.
  const counts = new Counts(db, new AlertWriter(db, notifier), () => Promise.resolve(true))
  await counts.look(startMs + 65_000)
  expect(await alertsOf(key)).toEqual([])
  const other = new Counts(db, new AlertWriter(db, notifier), () => Promise.resolve(true))
  await other.look(startMs + 72_000)
  expect((await alertsOf(key)).map(({ title }) => title)).toEqual([expect.stringMatching(/^2 of 2: /)])
  const { sinceAt } = await db
    .selectFrom('alert')
    .select('sinceAt')
    .where('ruleKey', '=', key)
    .executeTakeFirstOrThrow()
  expect(Math.abs(sinceAt.getTime() - startMs - 10_000)).toBeLessThanOrEqual(LOOK_MS)
})
