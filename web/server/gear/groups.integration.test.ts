import { afterAll, beforeAll, expect, test } from 'vitest'
import { insertGroup, listGroups, updateGroup } from '#db/gear'
import type { Db } from '#db/platform'
import { listGearScopes } from '#db/rules'
import { freshDatabase } from '#db/testing/database'
import { Present } from '../platform/present.ts'
import { groupForm } from './forms.ts'
import { groupOf } from './groupForms.ts'
import { services } from './watchSource.ts'

let db: Db
let drop: () => Promise<void>
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(() => drop())

const formOf = (fields: Readonly<Record<string, string>>) =>
  groupForm.safeParse({ note: '', rule: 'any', least: '1', unknown: 'open', tag: '', members: '', ...fields })
const filled = (fields: Readonly<Record<string, string>>) => formOf(fields).data!
/** As the form of a page does it. */
const change = (id: number, fields: Readonly<Record<string, string>>) =>
  db.transaction().execute(async (trx) => updateGroup(trx, id, await groupOf(trx, filled(fields), id)))
const add = (fields: Readonly<Record<string, string>>) =>
  db.transaction().execute(async (trx) => insertGroup(trx, await groupOf(trx, filled(fields))))

test('a group that would contain itself is refused with the circle, however far it goes', async () => {
  const [a, b] = [await add({ name: 'a' }), await add({ name: 'b', groups: 'a' })]
  await add({ name: 'c', groups: 'B' })
  await expect(change(a, { name: 'a', groups: 'c' })).rejects.toThrow(
    'a would contain itself: a contains c contains b contains a. Take one of them out of another.',
  )
  await expect(change(b, { name: 'b', groups: 'b' })).rejects.toThrow('b would contain itself.')
  await expect(add({ name: 'd', groups: 'nobody' })).rejects.toThrow('No group is called “nobody”.')
  await expect(add({ name: 'd', rule: 'atLeast', least: '3', groups: 'a, b' })).rejects.toThrow(
    'At least 3 of 2 can never be.',
  )
  expect((await listGroups(db)).map(({ name, groupIds }) => [name, groupIds])).toEqual([
    ['a', []],
    ['b', [a]],
    ['c', [b]],
  ])
})

test('two changes at once that would close a circle together: one is refused', async () => {
  for (let round = 0; round < 5; round += 1) {
    const [one, two] = [await add({ name: `one-${round}` }), await add({ name: `two-${round}` })]
    const ends = await Promise.allSettled([
      change(one, { name: `one-${round}`, groups: `two-${round}` }),
      change(two, { name: `two-${round}`, groups: `one-${round}` }),
    ])
    expect(ends.filter(({ status }) => status === 'rejected')).toHaveLength(1)
  }
})

test('gear of a group within another belongs to both for rules, and by itself to the inner one', async () => {
  const { id: gearId } = await db
    .insertInto('gear')
    .values({ name: 'reef-1', kind: 'switch', facts: '{}', rackId: null, unit: null, heightUnits: null })
    .returning('id')
    .executeTakeFirstOrThrow()
  const inner = await add({ name: 'path', members: 'reef-1' })
  const middle = await add({ name: 'paths', groups: 'path' })
  const outer = await add({ name: 'forecast', groups: 'paths' })
  const scope = (await listGearScopes(db)).get(gearId)!
  expect(scope.ownGroupIds).toEqual([inner])
  expect([...scope.groupIds].sort((a, b) => a - b)).toEqual([inner, middle, outer])
})

test('a promise is written as people write it, and what cannot be is said', async () => {
  const id = await add({
    name: 'service',
    isService: 'on',
    plain: 'the public forecast',
    owner: 'Forecast office',
    level: '99.95 %',
    hours: 'Mon–Fri 08:00–17:00; not 2026-12-25',
  })
  const kept = (await listGroups(db)).find((group) => group.id === id)!
  expect(kept).toMatchObject({ isService: true, plain: 'the public forecast', owner: 'Forecast office' })
  expect(kept.level).toBeCloseTo(0.9995, 12)
  expect(kept.hours?.days[0]).toEqual([[480, 1020]])
  expect(kept.hours?.except).toEqual(['2026-12-25'])

  const problem = (fields: Readonly<Record<string, string>>) =>
    formOf({ name: 'x', ...fields }).error?.issues[0]?.message
  expect(problem({ level: '100 %' })).toBe('A promised level lies between 0 and 100 %: “100 %” does not.')
  expect(problem({ level: 'all' })).toContain('“all” is no number')
  expect(problem({ hours: 'Mon 8–17' })).toBe('“8–17” is not a span of time. Write “08:00–17:00”.')
  expect(problem({ plain: 'It works. Really' })).toContain('a few words')
  expect(problem({})).toBeUndefined()
})

test('Watch tells of a service only when something is wrong with it, and leads with one that does not work', async () => {
  const nowMs = Date.now()
  const load = () =>
    services.load(new Present(db, nowMs), { key: 'own', fromMs: nowMs - 3_600_000, toMs: nowMs })
  await add({ name: 'works-of-the-harbour', isService: 'on', plain: 'the tide tables', members: 'reef-1' })
  expect((await load()).finding.clauses).toEqual([])
  expect((await load()).aside?.rows ?? []).not.toContainEqual(expect.objectContaining({ state: 'critical' }))
  const { id } = await db
    .selectFrom('gear')
    .select('id')
    .where('name', '=', 'reef-1')
    .executeTakeFirstOrThrow()
  await db
    .insertInto('alert')
    .values({
      ruleKey: 'gear-off',
      subject: 'series 1',
      seriesId: null,
      sourceId: null,
      gearId: id,
      partId: null,
      measure: 'hw.power.state',
      severity: 'critical',
      title: 'Switch reef-1 is switched off',
      reason: '',
      line: null,
      value: 0,
      sinceAt: new Date(nowMs - 60_000),
      openedAt: new Date(nowMs - 50_000),
      clearedAt: null,
    })
    .execute()
  const said = await load()
  expect(said.finding).toEqual({ urgent: 0, clauses: ['The tide tables do not work: the switch is lost.'] })
  expect(said.aside?.rows[0]).toMatchObject({
    name: 'The tide tables do not work: the switch is lost.',
    state: 'critical',
    atMs: null,
  })
})
