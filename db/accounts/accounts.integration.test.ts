import { verify } from '@node-rs/argon2'
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'kysely'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { mayDo } from '#core/accounts'
import {
  changeRole,
  deleteAccount,
  giveRole,
  insertAccount,
  insertFirstAdministrator,
  LastAdministrator,
  listAccounts,
  switchAccount,
} from './accounts.ts'
import { findAccountLink, insertAccountLink, insertInvited, useAccountLink } from './links.ts'
import { listRecord } from './record.ts'
import { insertApiToken, listApiTokens, tokenHolder } from './tokens.ts'
import { actAs, recordChange, recordHappened } from '../platform/record.ts'
import { transact } from '../platform/connect.ts'
import { insertRoom } from '../site/index.ts'
import { openAlerts, takeAlert } from '../alerts/alerts.ts'
import type { Db } from '../platform/connect.ts'
import { newToken, openKeyFile, seal, tokenHash, unseal } from '../sources/secrets.ts'
import {
  insertCredential,
  listCredentials,
  openSources,
  insertSource,
  listSources,
} from '../sources/sources.ts'
import { freshDatabase } from '../testing/database.ts'

let db: Db
let drop: () => Promise<void>
const folder = mkdtempSync(join(tmpdir(), 'rack-key-'))
const key = openKeyFile(join(folder, 'secret.key'))

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(async () => {
  await drop()
  rmSync(folder, { recursive: true })
})

describe('accounts', () => {
  test('of two who set up at once, one becomes administrator', async () => {
    const person = (name: string) => ({ name, email: `${name}@example.org`, password: 'ten letters' })
    const made = await Promise.all(['a', 'b', 'c'].map((name) => insertFirstAdministrator(db, person(name))))
    expect(made.filter(Boolean)).toHaveLength(1)
    expect(await listAccounts(db)).toHaveLength(1)
  })

  test('a password is kept as an argon2id hash only', async () => {
    await insertAccount(db, {
      name: 'Cleo',
      email: 'Cleo@Example.org',
      password: 'only-cleo-knows',
      role: 'see',
    })
    const { rows } = await sql<{
      password: string
    }>`select password from account join "user" on "user".id = "userId" where email = 'cleo@example.org'`.execute(
      db,
    )
    expect(rows[0]?.password).toMatch(/^\$argon2id\$/)
    expect(await verify(rows[0]!.password, 'only-cleo-knows')).toBe(true)
    expect(
      await insertAccount(db, {
        name: 'Other',
        email: 'cleo@example.org',
        password: 'another one',
        role: 'see',
      }),
    ).toBeNull()
  })

  test('the last administrator stays one', async () => {
    const [admin] = (await listAccounts(db)).filter((each) => each.role === 'administer')
    for (const lose of [
      () => changeRole(db, admin!.id, 'see'),
      () => switchAccount(db, admin!.id, false),
      () => deleteAccount(db, admin!.id),
    ])
      await expect(lose()).rejects.toThrow(LastAdministrator)
    const invited = await insertInvited(db, { name: 'Ivo', email: 'ivo@example.org', role: 'administer' })
    await expect(changeRole(db, admin!.id, 'see'), 'who is only invited cannot come in').rejects.toThrow(
      LastAdministrator,
    )
    await deleteAccount(db, invited!)
    const told = await transact(db, (trx) => giveRole(trx, admin!.id, 'see'))
    expect(told, 'not by a directory either').toBe(false)
    const cleo = (await listAccounts(db)).find((each) => each.name === 'Cleo')!
    await changeRole(db, cleo.id, 'administer')
    await changeRole(db, admin!.id, 'see')
    expect((await listAccounts(db)).map(({ role }) => role).sort()).toEqual(['administer', 'see'])
  })

  test.each([
    { role: 'see', needed: 'operate', may: false },
    { role: 'operate', needed: 'operate', may: true },
    { role: 'administer', needed: 'see', may: true },
  ] as const)('who may $role may $needed: $may', ({ role, needed, may }) => {
    expect(mayDo(role, needed)).toBe(may)
  })
})

const inAnHour = () => new Date(Date.now() + 3_600_000)

describe('links by which somebody chooses a password', () => {
  const invited = async (email: string) =>
    (await insertInvited(db, { name: 'Ivo', email, role: 'see' })) ?? expect.fail('not made')
  const linkTo = (userId: string, expiresAt = inAnHour()) =>
    insertAccountLink(db, { userId, purpose: 'invite', madeBy: 'Asta', expiresAt })

  test('work once, of two at once for one', async () => {
    const secret = await linkTo(await invited('once@example.org'))
    expect(await findAccountLink(db, secret)).toMatchObject({ name: 'Ivo', purpose: 'invite' })
    const used = await Promise.all(
      ['one of two words', 'the other of them'].map((password) =>
        transact(db, (trx) => useAccountLink(trx, secret, password)),
      ),
    )
    expect(used.filter((each) => each !== undefined)).toHaveLength(1)
    expect(await findAccountLink(db, secret)).toBeUndefined()
  })

  test('not when they are too old, replaced, or the account is switched off', async () => {
    const id = await invited('old@example.org')
    expect(await findAccountLink(db, await linkTo(id, new Date(Date.now() - 1)))).toBeUndefined()
    const first = await linkTo(id)
    const second = await linkTo(id)
    expect(await findAccountLink(db, first)).toBeUndefined()
    expect(await findAccountLink(db, second)).toBeDefined()
    await switchAccount(db, id, false)
    await switchAccount(db, id, true)
    expect(await findAccountLink(db, second), 'it went with the switching off').toBeUndefined()
    expect(await findAccountLink(db, 'made-up')).toBeUndefined()
  })

  test('are kept as hashes only', async () => {
    const secret = await linkTo(await invited('hash@example.org'))
    const { rows } = await sql<{
      all: string
    }>`select string_agg(account_link::text, ' ') as all from account_link`.execute(db)
    expect(rows[0]?.all).not.toContain(secret)
  })
})

describe('tokens of programs', () => {
  test('may what they and their person both may, until they end or the person is switched off', async () => {
    const id = (await insertAccount(db, {
      name: 'Dara',
      email: 'dara@example.org',
      password: 'a few words of hers',
      role: 'operate',
    }))!
    const make = (name: string, rest: object = {}) =>
      insertApiToken(db, {
        name,
        userId: id,
        role: 'administer',
        madeBy: 'Dara',
        expiresAt: inAnHour(),
        ...rest,
      })
    const token = await make('report')
    expect(await tokenHolder(db, token)).toMatchObject({ name: 'Dara (token report)', role: 'operate' })
    expect((await listApiTokens(db, id))[0]?.lastUsedAt).not.toBeNull()
    expect(await tokenHolder(db, await make('over', { expiresAt: new Date(Date.now() - 1) }))).toBeUndefined()
    const machine = await make('wall', { userId: null, role: 'see' })
    await switchAccount(db, id, false)
    expect(await tokenHolder(db, token)).toBeUndefined()
    expect(await tokenHolder(db, machine)).toMatchObject({ name: 'wall (token)', role: 'see' })
    expect(await tokenHolder(db, 'rr_made_up')).toBeUndefined()
  })
})

describe('the record', () => {
  const all = { words: [], kind: null, outcome: null, fromMs: null, toMs: null }

  test('holds who, from where, and what of what people set up was before and is after, without secrets', async () => {
    await transact(db, async (trx) => {
      await actAs(trx, { id: 'asta', address: '192.0.2.7' })
      const roomId = await insertRoom(trx, { name: 'Hall of the record', widthMm: 6000, depthMm: 4000 })
      await trx.updateTable('room').set({ name: 'Hall renamed' }).where('id', '=', roomId).execute()
      await insertCredential(trx, key, {
        name: 'recorded',
        kind: 'basic',
        secret: { username: 'u', password: 'pw-of-it' },
        hosts: ['127.0.0.0/8'],
      })
      await recordChange(trx, 'Asta', 'made a room')
    })
    const [line] = await listRecord(db, { ...all, words: ['renamed'] }, 10)
    expect(line).toMatchObject({
      who: 'Asta',
      what: 'made a room',
      accountId: 'asta',
      address: '192.0.2.7',
      outcome: 'done',
      rows: [
        { of: 'room', name: 'Hall of the record', before: null },
        { of: 'room', before: { name: 'Hall of the record' }, after: { name: 'Hall renamed' } },
        { of: 'credential', name: 'recorded', before: null },
      ],
    })
    expect(Object.keys(line!.rows[2]!.after!)).not.toContain('sealed')
    expect(JSON.stringify(line)).not.toContain('pw-of-it')
  })

  test('what nobody does is not in it, and a change that is rolled back is not either', async () => {
    await insertRoom(db, { name: 'By nobody', widthMm: 6000, depthMm: 4000 })
    await transact(db, async (trx) => {
      await actAs(trx, { id: 'asta', address: '192.0.2.7' })
      await insertRoom(trx, { name: 'Taken back', widthMm: 6000, depthMm: 4000 })
      await recordChange(trx, 'Asta', 'made a room that is none')
      throw new Error('no')
    }).catch(() => undefined)
    expect(await listRecord(db, { ...all, words: ['nobody'] }, 10)).toEqual([])
    expect(await listRecord(db, { ...all, words: ['Taken back'] }, 10)).toEqual([])
  })

  test('is only added to', async () => {
    await recordHappened(db, {
      kind: 'sign-in',
      outcome: 'refused',
      who: 'Somebody',
      what: 'was not let in',
      accountId: null,
      address: '192.0.2.8',
    })
    expect(await listRecord(db, { ...all, outcome: 'refused' }, 10)).toHaveLength(1)
    for (const statement of [
      sql`update change set what = 'nothing'`,
      sql`delete from change`,
      sql`truncate change`,
      sql`delete from change_row`,
    ])
      await expect(statement.execute(db)).rejects.toThrow(/only added to/)
  })
})

describe('secrets', () => {
  test('a credential is sealed in the database and opens with the key only', async () => {
    const secret = { username: 'reader', password: 'a-very-own-password' }
    const credentialId = await insertCredential(db, key, {
      name: 'controllers',
      kind: 'basic',
      secret,
      hosts: ['127.0.0.0/8'],
    })
    await insertSource(db, {
      name: 's',
      protocol: 'redfish',
      address: 'https://x',
      settings: {},
      intervalSeconds: 10,
      credentialId,
      token: newToken(),
    })
    const { rows } = await sql<{
      text: string
    }>`select encode(sealed, 'escape') as text from credential`.execute(db)
    expect(rows[0]?.text).not.toContain('a-very-own-password')
    expect(await openSources(db, key)).toMatchObject([{ secret, isShut: false }])
    expect(await openSources(db, Buffer.alloc(32, 1))).toMatchObject([{ secret: {}, isShut: true }])
  })

  test('what screens are given holds nothing secret', async () => {
    const shown = JSON.stringify([await listSources(db), await listCredentials(db)])
    expect(shown).not.toMatch(/a-very-own-password|sealed|tokenHash/)
  })

  test('one flipped bit is noticed', () => {
    const sealed = seal(key, { password: 'x' })
    sealed[sealed.length - 1]! ^= 1
    expect(() => unseal(key, sealed)).toThrow()
  })

  test('the key file is for its owner only, is kept, and must be a key', () => {
    const path = join(folder, 'secret.key')
    expect(statSync(path).mode & 0o777).toBe(0o600)
    expect(openKeyFile(path)).toEqual(key)
    expect(readFileSync(path, 'utf8').trim()).toHaveLength(64)
    writeFileSync(join(folder, 'broken'), 'not a key')
    expect(() => openKeyFile(join(folder, 'broken'))).toThrow(/64 hexadecimal/)
    expect(tokenHash('a')).toHaveLength(32)
  })
})

test('an alert is opened once, and taken once, by the first', async () => {
  const at = new Date()
  const [source] = await listSources(db)
  const alert = {
    ruleKey: 'no-data',
    seriesId: null,
    sourceId: source!.id,
    gearId: null,
    partId: null,
    measure: null,
    subject: 'source 1',
    severity: 'warning' as const,
    title: 't',
    reason: 'r',
    sinceAt: at,
    openedAt: at,
  }
  const [id, again, other] = await openAlerts(db, [alert, alert, { ...alert, subject: 'source 2' }])
  expect([typeof id, again, typeof other]).toEqual(['number', null, 'number'])
  expect(await openAlerts(db, [alert, { ...alert, subject: 'source 2' }])).toEqual([null, null])
  const tries = await Promise.all(['Asta', 'Bo'].map((who) => takeAlert(db, id!, who, at)))
  expect(tries.map((each) => each.kind).sort()).toEqual(['alreadyTaken', 'taken'])
  expect(await takeAlert(db, 999_999, 'Asta', at)).toEqual({ kind: 'unknown' })
})
