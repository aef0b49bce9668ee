import { symmetricDecrypt, symmetricEncrypt } from 'better-auth/crypto'
import { spawn } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'kysely'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { insertAccount, signingSecret, writeDirectory } from '#db/accounts'
import type { Db } from '#db/platform'
import { openKeyFile, seal, sealedColumns, settleKey, unseal } from '#db/sources'
import { freshDatabase } from '#db/testing/database'

/** So many secrets that sealing them anew takes long enough to be cut short within. */
const SECRETS = 3000
const folder = mkdtempSync(join(tmpdir(), 'rack-rekey-'))
let db: Db
let url: string
let drop: () => Promise<void>

beforeAll(async () => {
  ;({ db, url, drop } = await freshDatabase())
  const key = openKeyFile(join(folder, 'secret.key'))
  const rows = Array.from({ length: SECRETS }, (_, index) => ({
    name: `credential ${index}`,
    kind: 'basic' as const,
    sealed: seal(key, { username: 'u', password: `secret ${index}` }),
  }))
  await db.insertInto('credential').values(rows).execute()
  const settings = {
    name: 'Directory',
    issuer: 'https://login.example.org',
    clientId: 'rack',
    groupsClaim: 'groups',
    roles: { see: [], operate: [], administer: ['all'] },
    isOn: true,
  }
  await writeDirectory(db, key, settings, 'the client secret')
  const userId = await insertAccount(db, {
    name: 'Asta',
    email: 'asta@example.org',
    password: 'several words of hers',
    role: 'administer',
  })
  const code = await symmetricEncrypt({ key: signingSecret(key), data: 'the second factor' })
  await sql`insert into "twoFactor" (id, secret, "backupCodes", "userId") values ('1', ${code}, ${code}, ${userId})`.execute(
    db,
  )
})
afterAll(async () => {
  await drop()
  rmSync(folder, { recursive: true })
})

/** @returns how it ended, and for how long it sealed; ms */
function rekey(killAfterMs: number | null): Promise<{ signal: string | null; ms: number }> {
  let begunMs = Infinity
  const child = spawn(process.execPath, ['programs/rekeyNow.mjs'], {
    env: { ...process.env, RACK_DATABASE_URL: url, RACK_DATA: folder },
    stdio: 'ignore',
  })
  // As soon as the next key is there, everything is being sealed with it.
  const waiting = setInterval(() => {
    if (begunMs < Infinity || !existsSync(join(folder, 'secret.key.next'))) return
    begunMs = Date.now()
    if (killAfterMs === null) return
    setTimeout(() => child.kill('SIGKILL'), killAfterMs)
  }, 2)
  return new Promise((resolve) =>
    child.once('exit', (_, signal) => {
      clearInterval(waiting)
      resolve({ signal, ms: Date.now() - begunMs })
    }),
  )
}

/** With the key that stands in the folder, everything opens: each secret, and what the sign-in library encrypts. */
async function everythingOpens(): Promise<string> {
  await settleKey(db, folder)
  expect(existsSync(join(folder, 'secret.key.next'))).toBe(false)
  const key = openKeyFile(join(folder, 'secret.key'))
  const rows = await db.selectFrom('credential').select(['name', 'sealed']).execute()
  expect(rows).toHaveLength(SECRETS)
  for (const { name, sealed } of rows)
    expect(unseal(key, sealed)['password']).toBe(name.replace('credential', 'secret'))
  const { rows: directory } = await sql<{ sealed: Buffer }>`select sealed from directory`.execute(db)
  expect(unseal(key, directory[0]!.sealed)).toEqual({ password: 'the client secret' })
  const { rows: factor } = await sql<{ secret: string; codes: string }>`
    select secret, "backupCodes" as codes from "twoFactor"`.execute(db)
  for (const data of [factor[0]!.secret, factor[0]!.codes])
    expect(await symmetricDecrypt({ key: signingSecret(key), data })).toBe('the second factor')
  return key.toString('hex')
}

test('every secret is sealed anew; killed at any moment, the key that stands there opens everything', async () => {
  const first = await everythingOpens()
  const whole = await rekey(null)
  expect(whole.signal).toBeNull()
  let key = await everythingOpens()
  expect(key).not.toBe(first)
  const outcomes: string[] = []
  // How long it takes is learned from each that came to its end: a machine may have more time for the next than for the first.
  let wholeMs = whole.ms
  const killed = (): number => outcomes.filter((each) => each.includes('SIGKILL')).length
  const shares = [0, 0.2, 0.5, 0.8, 0.95, 1.05]
  for (let round = 0; round < shares.length || (killed() < 3 && round < 20); round += 1) {
    const afterMs = Math.round((shares[round] ?? 0.3) * wholeMs)
    const { signal, ms } = await rekey(afterMs)
    if (signal === null) wholeMs = Math.min(wholeMs, ms)
    const now = await everythingOpens()
    outcomes.push(
      `${afterMs} ms: ${signal ?? 'ended by itself'}, ${now === key ? 'the key before' : 'the next key'}`,
    )
    key = now
  }
  expect(killed(), outcomes.join('; ')).toBeGreaterThan(2)
  expect(
    outcomes.some((each) => each.includes('the key before')),
    outcomes.join('; '),
  ).toBe(true)

  // Cut short after the database is sealed, before the key has taken its place.
  const before = readFileSync(join(folder, 'secret.key'))
  await rekey(null)
  renameSync(join(folder, 'secret.key'), join(folder, 'secret.key.next'))
  writeFileSync(join(folder, 'secret.key'), before)
  expect(await everythingOpens()).not.toBe(before.toString().trim())
  // And while the next key was written.
  writeFileSync(join(folder, 'secret.key.next'), 'cut sho')
  await everythingOpens()
}, 300_000)

test('what holds something sealed is found by its name', async () => {
  expect(await sealedColumns(db)).toEqual([
    { table: 'channel', column: 'sealed_secret' },
    { table: 'check_run', column: 'sealed' },
    { table: 'credential', column: 'sealed' },
    { table: 'directory', column: 'sealed' },
    { table: 'heartbeat', column: 'sealed_secret' },
  ])
  const { rows } = await sql<{ name: string }>`
    select table_name || '.' || column_name as name from information_schema.columns
    where table_schema = 'public' and column_name like '%seal%' and data_type <> 'bytea'`.execute(db)
  expect(rows.map(({ name }) => name).filter((name) => !name.startsWith('last_sealed'))).toEqual([])
  expect(readFileSync(join(folder, 'secret.key'), 'utf8')).toMatch(/^[0-9a-f]{64}\n$/)
})
