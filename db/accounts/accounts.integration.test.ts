import { verify } from '@node-rs/argon2'
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'kysely'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { mayDo } from '#core/accounts'
import { changeRole, insertAccount, insertFirstAdministrator, listAccounts } from './accounts.ts'
import { openAlert, takeAlert } from '../alerts/alerts.ts'
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
    expect(await changeRole(db, admin!.id, 'see')).toBe(false)
    const cleo = (await listAccounts(db)).find((each) => each.name === 'Cleo')!
    expect(await changeRole(db, cleo.id, 'administer')).toBe(true)
    expect(await changeRole(db, admin!.id, 'see')).toBe(true)
  })

  test.each([
    { role: 'see', needed: 'operate', may: false },
    { role: 'operate', needed: 'operate', may: true },
    { role: 'administer', needed: 'see', may: true },
  ] as const)('who may $role may $needed: $may', ({ role, needed, may }) => {
    expect(mayDo(role, needed)).toBe(may)
  })
})

describe('secrets', () => {
  test('a credential is sealed in the database and opens with the key only', async () => {
    const secret = { username: 'reader', password: 'a-very-own-password' }
    const credentialId = await insertCredential(db, key, { name: 'controllers', kind: 'basic', secret })
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

test('an alert is taken once, by the first', async () => {
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
  const id = await openAlert(db, alert)
  expect(await openAlert(db, alert)).toBeNull()
  const tries = await Promise.all(['Asta', 'Bo'].map((who) => takeAlert(db, id!, who, at)))
  expect(tries.map((each) => each.kind).sort()).toEqual(['alreadyTaken', 'taken'])
  expect(await takeAlert(db, 999_999, 'Asta', at)).toEqual({ kind: 'unknown' })
})
