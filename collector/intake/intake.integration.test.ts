import { execFile } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { existsSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { promisify } from 'node:util'
import { sql } from 'kysely'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { failureSentence } from '#core/sources'
import { storeFindings } from '#db/gear'
import type { Db } from '#db/platform'
import { ensurePartitions } from '#db/readings'
import {
  countShut,
  findCheck,
  findSource,
  insertCredential,
  insertSource,
  openKeyFile,
  requestCheckRun,
  type SecretKey,
  updateCredential,
} from '#db/sources'
import { freshDatabase } from '#db/testing/database'
import { serverFindings } from '#db/testing/findings'
import { freePort } from '../../bin/setup/postgres.mjs'
import { Intake } from './intake.ts'

// What the parts of the intake do together: they ask, listen and store as one process.

const run = promisify(execFile)
const SNMPTRAP = '/usr/bin/snmptrap'
const folder = mkdtempSync(join(tmpdir(), 'rack-intake-'))
let db: Db
let drop: () => Promise<void>
let key: SecretKey
let intake: Intake
let trapPort: number
/** What was not caught: in a process of its own it would have ended it. */
const uncaught: unknown[] = []
const note = (reason: unknown): number => uncaught.push(reason)

beforeAll(async () => {
  process.on('unhandledRejection', note)
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, Date.now(), Date.now())
  key = openKeyFile(join(folder, 'secret.key'))
  trapPort = await freePort()
  intake = new Intake({
    db,
    key,
    dataFolder: folder,
    collector: 'collector-1',
    receiverPort: await freePort(),
    address: '127.0.0.1',
    syslogPort: null,
    trapPort,
    onStored: () => Promise.resolve(),
    onTexts: () => Promise.resolve(),
    onForeign: () => undefined,
  })
  await intake.start()
})
afterAll(async () => {
  await intake.close()
  await drop()
  rmSync(folder, { recursive: true, force: true })
  process.off('unhandledRejection', note)
})

async function until<T>(what: () => Promise<T | undefined | false | null>): Promise<T> {
  for (let tries = 0; tries < 200; tries += 1) {
    const found = await what()
    if (found) return found
    await pause(50)
  }
  throw new Error('it did not come')
}

test('checks that cannot be looked for end nobody, and are done when they can', async () => {
  await sql`alter table check_run rename to check_run_away`.execute(db)
  intake.lookForChecks()
  await pause(500)
  await sql`alter table check_run_away rename to check_run`.execute(db)
  expect(uncaught).toEqual([])

  const id = await requestCheckRun(db, key, {
    requestedBy: 'Asta',
    sourceId: null,
    protocol: 'reach',
    address: `tcp://127.0.0.1:${await freePort()}`,
    settings: {},
    credentialId: null,
    secret: null,
  })
  intake.lookForChecks()
  const check = await until(async () => {
    const found = await findCheck(db, id)
    return found?.finishedAt != null && found
  })
  expect(check.failure).not.toBeNull()
  expect(uncaught).toEqual([])
})

test('one credential that cannot be opened fails its own source, in a sentence, and no other', async () => {
  const secret = { username: 'reader', password: 'a-password' }
  const insert = async (name: string, sealedBy: SecretKey): Promise<number> =>
    insertSource(db, {
      name,
      protocol: 'redfish',
      address: `https://127.0.0.1:${await freePort()}`,
      settings: {},
      intervalSeconds: 3600,
      credentialId: await insertCredential(db, sealedBy, {
        name,
        kind: 'basic',
        secret,
        hosts: ['127.0.0.0/8'],
      }),
      token: null,
    })
  const shut = await insert('sealed by another key', randomBytes(32))
  const open = await insert('sealed by ours', key)
  await intake.lookForSources()
  intake.checkNow(open)
  const failureOf = (id: number) => until(async () => (await findSource(db, id))?.failure)
  expect((await failureOf(open)).kind, 'it is asked').toBe('connectionRefused')
  const failure = await failureOf(shut)
  expect(failureSentence(failure)).toContain('its credential cannot be opened')
  await intake.reload()
  expect((await findSource(db, shut))?.failures, 'said once').toBe(1)
  expect(await countShut(db, key)).toBe(1)
})

test('a credential is given to nobody but those whom it names, and not in the open', async () => {
  const given: string[] = []
  const listener = createServer((request, response) => {
    given.push(request.headers.authorization ?? 'nothing')
    response.writeHead(401).end()
  })
  await new Promise<void>((resolve) => listener.listen(0, '127.0.0.1', resolve))
  const address = `http://127.0.0.1:${(listener.address() as AddressInfo).port}/metrics`
  const settings = { authorityPem: null, fingerprint: null, access: 'bearer', map: [] }
  const credential = {
    name: 'not for there',
    kind: 'bearer' as const,
    secret: { token: 'a-token-for-elsewhere' },
    hosts: ['192.0.2.0/24'],
  }
  const credentialId = await insertCredential(db, key, credential)
  const source = {
    protocol: 'openmetrics' as const,
    settings,
    intervalSeconds: 3600,
    credentialId,
    token: null,
  }
  const sourceId = await insertSource(db, { ...source, name: 'metrics of somebody', address })
  await intake.lookForSources()
  const failure = await until(async () => (await findSource(db, sourceId))?.failure)
  expect(failureSentence(failure)).toContain('it may go to 192.0.2.0/24 alone, and this is 127.0.0.1')

  const check = async () => {
    const asked = { protocol: source.protocol, settings, credentialId, address }
    const id = await requestCheckRun(db, key, { ...asked, requestedBy: 'Asta', sourceId: null, secret: null })
    intake.lookForChecks()
    const done = await until(async () => {
      const found = await findCheck(db, id)
      return found?.finishedAt != null && found
    })
    return done.failure
  }
  expect((await check())?.kind).toBe('elsewhere')
  const hosts = ['127.0.0.1']
  await updateCredential(db, key, {
    id: credentialId,
    name: credential.name,
    secret: null,
    hosts,
    inClear: null,
  })
  expect(failureSentence((await check())!)).toContain('it would go without TLS')
  expect(given, 'nobody was asked').toEqual([])

  await updateCredential(db, key, {
    id: credentialId,
    name: credential.name,
    secret: null,
    hosts,
    inClear: 'a wire of its own',
  })
  expect((await check())?.kind).toBe('credentialsRefused')
  expect(given).toContain('Bearer a-token-for-elsewhere')
  listener.close()
})

test.skipIf(!existsSync(SNMPTRAP))(
  'the users of a source may send notifications as soon as it is known',
  async () => {
    const credentialId = await insertCredential(db, key, {
      name: 'speaker',
      kind: 'snmp-v3',
      secret: { username: 'speaker', authPassword: 'authentication-1', privPassword: 'privacy-password-1' },
      hosts: ['127.0.0.0/8'],
    })
    const sourceId = await insertSource(db, {
      name: 'harbour-A',
      protocol: 'snmp',
      address: `127.0.0.1:${await freePort()}`,
      settings: { version: 'v3', authentication: 'sha256', privacy: 'aes' },
      intervalSeconds: 3600,
      credentialId,
      token: null,
    })
    const findings = serverFindings({ name: 'harbour-A' })
    await storeFindings(db, { sourceId, atMs: Date.now(), findings }, null)
    await intake.lookForSources()
    await run(SNMPTRAP, [
      ...['-v', '3', '-l', 'authPriv', '-u', 'speaker', '-a', 'SHA-256', '-A', 'authentication-1'],
      ...['-x', 'AES', '-X', 'privacy-password-1', '-e', '0x8000000001020304', `127.0.0.1:${trapPort}`],
      ...['', '1.3.6.1.6.3.1.1.5.1'],
    ])
    // Far sooner than the next regular look at the sources.
    const said = await until(async () => (await db.selectFrom('deviceText').selectAll().execute())[0])
    expect(said).toMatchObject({ kind: 'trap', sourceId })
  },
)
