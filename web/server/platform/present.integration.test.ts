import pg from 'pg'
import { sql } from 'kysely'
import { afterAll, beforeAll, expect, test, vi } from 'vitest'
import { insertGroup, updateGear } from '#db/gear'
import { drawLink } from '#db/links'
import { type Db, type Kept, type KeptList, KeptLists } from '#db/platform'
import { insertRack, insertRoom, placeGearInRack, placeOnFloor } from '#db/site'
import { freshDatabase } from '#db/testing/database'
import { Present } from './present.ts'

let db: Db
let drop: () => Promise<void>
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(() => drop())

type Ask = (db: Db) => Promise<unknown>

/** Everything that a request keeps, as it asks for it. */
async function keptQuestions(): Promise<[KeptList, Ask][]> {
  const questions: [KeptList, Ask][] = []
  class Noted extends KeptLists {
    override take<T>(list: KeptList, ask: (db: Db) => Promise<T>, from: Db): Promise<Kept<T>> {
      questions.push([list, ask])
      return super.take(list, ask, from)
    }
  }
  const present = new Present(db, Date.now(), new Noted())
  for (const ask of Object.values(present))
    if (typeof ask === 'function') await (ask as () => Promise<unknown>)()
  return questions
}

test('whatever is read for a list that is kept raises that list when it changes', async () => {
  const questions = await keptQuestions()
  expect(questions.length).toBeGreaterThan(10)
  const { rows } = await sql<{ table: string; list: string }>`
    select tgrelid::regclass::text as table, unnest(string_to_array(encode(tgargs, 'escape'), '\\000')) as list
    from pg_trigger where tgfoid in ('list_changed'::regproc, 'gear_changed'::regproc)`.execute(db)
  const raises = new Set(rows.map(({ table, list }) => `${table} ${list}`))
  const tables = (
    await sql<{ name: string }>`select tablename as name from pg_tables where schemaname = 'public'`.execute(
      db,
    )
  ).rows.map(({ name }) => name)
  // A connection that is new is asked through the spy.
  const asked = vi.spyOn(pg.Client.prototype, 'query')
  const { db: own, drop: end } = await freshDatabase()
  for (const [list, ask] of questions) {
    asked.mockClear()
    await ask(own)
    const said = asked.mock.calls.map(([what]) =>
      typeof what === 'string' ? what : (what as { text?: string }).text,
    )
    const read = tables.filter((table) =>
      said.some((text) => new RegExp(`\\b(from|join)\\s+"?${table}\\b`).test(text ?? '')),
    )
    expect(read.length, `${ask.name} reads something`).toBeGreaterThan(0)
    for (const table of read) expect(raises, `${ask.name} reads ${table}`).toContain(`${table} ${list}`)
  }
  asked.mockRestore()
  await end()
})

test('what somebody has changed stands in the next answer', async () => {
  const lists = new KeptLists()
  const next = () => new Present(db, Date.now(), lists)
  const same = async () => {
    const now = next()
    const fresh = new Present(db, Date.now())
    for (const what of [
      'names',
      'gearCount',
      'standing',
      'linksByGear',
      'rooms',
      'racks',
      'groups',
      'scopes',
    ] as const)
      expect(await now[what](), what).toEqual(await fresh[what]())
  }
  await same()
  const gear = async (name: string): Promise<number> => {
    const { id } = await db
      .insertInto('gear')
      .values({
        name,
        kind: 'server',
        facts: '{}',
        own: '{}',
        rackId: null,
        unit: null,
        heightUnits: null,
        tags: [],
      })
      .returning('id')
      .executeTakeFirstOrThrow()
    return id
  }
  const [one, other, third] = [await gear('tern-01'), await gear('tern-02'), await gear('tern-03')]
  await same()
  const roomId = await insertRoom(db, {
    name: 'Hall',
    building: null,
    widthMm: 6000,
    depthMm: 6000,
    tileMm: 600,
  })
  const rackId = await insertRack(db, { roomId, name: 'A1', heightUnits: 42 })
  await same()
  await placeGearInRack(db, one, { rackId, unit: 4, heightUnits: 1 }, 'Asta')
  await same()
  await placeOnFloor(
    db,
    { gearId: other, roomId, xMm: 0, yMm: 0, widthMm: 600, depthMm: 900, turn: 0 },
    'Asta',
  )
  await same()
  await drawLink(db, { kind: 'fed-by', fromGearId: one, toGearId: third }, 'Asta')
  await same()
  await updateGear(db, third, { name: 'strip-9', tags: [] }, 'Asta')
  expect((await next().linksByGear()).get(one)?.[0]?.toName).toBe('strip-9')
  await same()
  await updateGear(db, other, { name: 'tern-02', tags: ['tide'] }, 'Asta')
  await same()
  await sql`update gear set facts = '{"cluster": "tide"}' where id = ${other}`.execute(db)
  await same()
  const kept = await next().scopes()
  await sql`update gear set facts = facts || '{"firmware": "2.1"}'`.execute(db)
  expect(await next().scopes(), 'another fact changes no list').toBe(kept)
  await insertGroup(db, {
    name: 'tide',
    note: '',
    rule: 'all',
    least: 1,
    unknown: 'bad',
    tag: null,
    memberIds: [one],
  })
  await same()
  await db.deleteFrom('gear').where('id', '=', one).execute()
  expect((await next().groups())[0]?.memberIds, 'who is gone is in no group').toEqual([])
  await same()
})
