import { sql } from 'kysely'
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest'
import { deleteTagRule, insertTagRule, listTagRules } from '../gear/groups.ts'
import { freshDatabase } from '../testing/database.ts'
import type { Db } from './connect.ts'
import { KeptLists } from './keptLists.ts'

const MINUTE = 60_000
let db: Db
let drop: () => Promise<void>
let nowMs = Date.UTC(2026, 10, 30, 12)
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(() => drop())
beforeEach(async () => {
  await db.deleteFrom('tagRule').execute()
})

/** Lists with a count of how often they were asked for. */
function counted() {
  const lists = new KeptLists()
  let asked = 0
  const ask = async (from: Db): Promise<string[]> => {
    asked += 1
    return (await listTagRules(from)).map(({ tag }) => tag)
  }
  return {
    lists,
    times: () => asked,
    read: async () => {
      await lists.look(db, nowMs)
      return lists.take('tagRules', ask, db)
    },
  }
}
const add = (tag: string, by: Db = db) =>
  insertTagRule(by, tag, { name: `${tag}-*`, kind: null, roomId: null, rackId: null, sourceId: null })

test('a list is asked for once until a transaction that changes it is committed', async () => {
  const { read, times } = counted()
  await add('tide')
  expect([await read(), await read(), await read()]).toEqual([['tide'], ['tide'], ['tide']])
  expect(times()).toBe(1)
  await sql`insert into setting (key, body) values ('elsewhere', '{}')`.execute(db)
  await read()
  expect(times(), 'another list was changed').toBe(1)

  await db.transaction().execute(async (trx) => {
    await add('gale', trx)
    expect(await read(), 'not committed yet').toEqual(['tide'])
  })
  expect(await read()).toEqual(['gale', 'tide'])
  expect(times()).toBe(2)
  await deleteTagRule(db, (await listTagRules(db))[0]!.id)
  expect(await read()).toEqual(['tide'])
  await sql`truncate tag_rule`.execute(db)
  expect(await read()).toEqual([])
})

test('what is rolled back is no change, and what is committed after others that began later is one', async () => {
  const { read, times } = counted()
  expect(await read()).toEqual([])
  await db
    .transaction()
    .execute(async (trx) => {
      await add('tide', trx)
      throw new Error('undone')
    })
    .catch(() => undefined)
  await read()
  expect(times()).toBe(1)

  await db.transaction().execute(async (early) => {
    await add('early', early)
    await add('late')
    expect(await read()).toEqual(['late'])
    expect(await read()).toEqual(['late'])
  })
  expect(await read()).toEqual(['early', 'late'])
})

test('whoever has committed a change reads it, however many change and read at the same time', async () => {
  const { read } = counted()
  const missed: string[] = []
  await Promise.all(
    Array.from({ length: 6 }, async (_, who) => {
      for (let turn = 0; turn < 15; turn += 1) {
        const tag = `tag-${who}-${turn}`
        await db.transaction().execute(async (trx) => {
          await add(tag, trx)
          if (turn % 3 === 0) await read()
        })
        if (!(await read()).includes(tag)) missed.push(tag)
      }
    }),
  )
  expect(missed).toEqual([])
})

test('a list that could not be read is asked for again, and none is believed for longer than a minute', async () => {
  const lists = new KeptLists()
  await lists.look(db, nowMs)
  let asked = 0
  const ask = (): Promise<number[]> => {
    asked += 1
    return asked === 1 ? Promise.reject(new Error('the database is away')) : Promise.resolve([asked])
  }
  await expect(lists.take('rules', ask, db)).rejects.toThrow('away')
  expect(await lists.take('rules', ask, db)).toEqual([2])
  nowMs += 2 * MINUTE
  await lists.look(db, nowMs)
  expect(await lists.take('rules', ask, db)).toEqual([3])
})

test('nobody can change what others read, too', async () => {
  const lists = new KeptLists()
  await lists.look(db, nowMs)
  const kept = await lists.take(
    'rules',
    () =>
      Promise.resolve([
        { id: 2, of: ['a'] },
        { id: 1, of: [] as string[] },
      ]),
    db,
  )
  expect(() => (kept as unknown as { id: number }[]).sort((a, b) => a.id - b.id)).toThrow(TypeError)
  expect(() => kept[0]!.of.push('b')).toThrow(TypeError)
})

test('which transactions changed a list long ago is forgotten with the next change', async () => {
  await add('tide')
  await sql`update list_change set at = at - interval '2 days'`.execute(db)
  await add('gale')
  const { rows } = await sql<{ count: number }>`
    select count(*)::int as count from list_change where list = 'tagRules'`.execute(db)
  expect(rows[0]!.count).toBe(1)
})
