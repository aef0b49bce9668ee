import pg from 'pg'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { freshDatabaseWithJobs } from '../testing/jobs.ts'
import { COLLECTOR_ROLE, giveRights, WEB_ROLE } from './rights.ts'

const passwords = { [COLLECTOR_ROLE]: 'a-password-of-the-collector', [WEB_ROLE]: 'a-password-of-the-web' }
let fresh: Awaited<ReturnType<typeof freshDatabaseWithJobs>>
let collector: pg.Client
let web: pg.Client

const as = async (role: keyof typeof passwords): Promise<pg.Client> => {
  const url = new URL(fresh.url)
  url.username = role
  url.password = passwords[role]
  const client = new pg.Client({ connectionString: url.href })
  await client.connect()
  return client
}

beforeAll(async () => {
  fresh = await freshDatabaseWithJobs()
  await giveRights(fresh.db, passwords)
  // Every start gives them again.
  await giveRights(fresh.db, passwords)
  collector = await as(COLLECTOR_ROLE)
  web = await as(WEB_ROLE)
})
afterAll(async () => {
  await Promise.all([collector.end(), web.end()])
  await fresh.drop()
})

test.each([
  ['alters what is recorded', "update change set who = 'nobody'"],
  ['takes away what is recorded', 'delete from change'],
  ['takes away what was before and after', 'delete from change_row'],
  ['empties a table', 'truncate alert'],
  ['drops a table', 'drop table gear'],
  ['takes a guard away', 'drop trigger only_added_to on change'],
  ['switches a guard off', 'alter table change disable trigger only_added_to'],
  ['passes guards by', 'set session_replication_role = replica'],
  ['makes a table', 'create table mine (id int)'],
  ['says that a migration was done', "insert into kysely_migration values ('999', '')"],
])('the web process never %s', async (_, statement) => {
  await expect(web.query(statement)).rejects.toMatchObject({ code: '42501' })
})
test.each([
  ['runs a program', "copy gear to program 'true'"],
  ['reads a file of the server', "select pg_read_file('/etc/hostname')"],
  ['writes a file of the server', "copy gear to '/tmp/never'"],
  ['makes a role', 'create role more'],
  ['becomes an administrator', 'set role rack'],
])('neither process ever %s', async (_, statement) => {
  for (const each of [web, collector])
    await expect(each.query(statement)).rejects.toMatchObject({ code: '42501' })
})
test('the web process reads, writes, adds to the record, makes the day of a reading, and leaves a job', async () => {
  await web.query("select make_hot('2031-04-05')")
  await web.query("select make_hot('2031-04-05')")
  await web.query("insert into gear (name, kind) values ('petrel-1', 'server')")
  await web.query("update gear set name = 'petrel-2'")
  await web.query("select graphile_worker.add_job('notify', '{}')")
  await web.query("select pg_notify('rack', '{}')")
  expect((await web.query('select count(*)::int as count from hot')).rows).toEqual([{ count: 0 }])
})
test('the collector makes and drops days, and what it makes is open to the web process', async () => {
  await collector.query("select make_hot('2031-04-06')")
  expect((await web.query('select count(*)::int as count from hot_2031_04_06')).rows).toEqual([{ count: 0 }])
  await collector.query('drop table hot_2031_04_06')
  await collector.query('drop table hot_2031_04_05')
})
