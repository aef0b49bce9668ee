import { execFile } from 'node:child_process'
import { createSocket } from 'node:dgram'
import { existsSync } from 'node:fs'
import { connect as connectTcp } from 'node:net'
import { setTimeout as pause } from 'node:timers/promises'
import { promisify } from 'node:util'
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest'
import { type Db, writeTextsSetting } from '#db/platform'
import { storeFindings } from '#db/gear'
import { ensurePartitions } from '#db/readings'
import { insertSource } from '#db/sources'
import { strangers, textsOf, readRefused } from '#db/logs'
import { freshDatabase } from '#db/testing/database'
import { serverFindings } from '#db/testing/findings'
import { startSyslog, startTraps, Texts } from './texts.ts'

// What devices say by themselves, as stock programs send it, down to the database.

const run = promisify(execFile)
const LOGGER = '/usr/bin/logger'
const SNMPTRAP = '/usr/bin/snmptrap'
for (const [path, name] of [
  [LOGGER, 'bsdutils'],
  [SNMPTRAP, 'snmp'],
] as const)
  if (!existsSync(path))
    console.log(`passed over: ${path} is not here and could not be installed (Debian's ${name})`)

let db: Db
let drop: () => Promise<void>
let texts: Texts
let syslog: Awaited<ReturnType<typeof startSyslog>>
let traps: Awaited<ReturnType<typeof startTraps>>
let gearId: number
const turned: [address: string, reason: string][] = []
const relaying = async (...relays: string[]) => writeTextsSetting(db, { days: 90, megabytes: 2000, relays })
let sourceId: number

beforeAll(async () => {
  const fresh = await freshDatabase()
  db = fresh.db
  drop = fresh.drop
  await ensurePartitions(db, Date.now(), Date.now())
  sourceId = await insertSource(db, {
    name: 'the only one there',
    protocol: 'snmp',
    address: '127.0.0.1:1161',
    settings: {},
    intervalSeconds: 60,
    credentialId: null,
    token: null,
  })
  await storeFindings(
    db,
    { sourceId, atMs: Date.now(), findings: serverFindings({ name: 'petrel-07' }) },
    null,
  )
  gearId = (await db.selectFrom('gear').select('id').executeTakeFirstOrThrow()).id
  texts = new Texts(
    db,
    () => Promise.resolve(),
    (...met) => void turned.push(met),
  )
  syslog = await startSyslog({ port: 0, address: '127.0.0.1' }, (said) => texts.take(said))
  traps = await startTraps({ port: 0, address: '127.0.0.1' }, (said) => texts.take(said))
  traps.setUsers([
    {
      username: 'speaker',
      authPassword: 'authentication-1',
      privPassword: 'privacy-password-1',
      authentication: 'sha256',
      privacy: 'aes',
    },
  ])
})
afterAll(async () => {
  syslog.close()
  traps.close()
  await texts.close()
  await drop()
})
afterEach(async () => {
  await texts.flush()
  await db.deleteFrom('deviceText').execute()
  await relaying()
  turned.length = 0
})

async function heard(count: number) {
  for (let tries = 0; tries < 40; tries += 1) {
    await pause(50)
    await texts.flush()
    const rows = await db.selectFrom('deviceText').selectAll().orderBy('id').execute()
    if (rows.length >= count) return rows
  }
  throw new Error('nothing was heard')
}

describe.skipIf(!existsSync(LOGGER))('syslog from a stock sender', () => {
  test.each([
    ['by UDP, RFC 3164', ['--udp', '--rfc3164']],
    ['by UDP, RFC 5424', ['--udp', '--rfc5424']],
    ['by TCP, RFC 5424, octets counted', ['--tcp', '--rfc5424', '--octet-count']],
    ['by TCP, RFC 3164, in lines', ['--tcp', '--rfc3164']],
  ])('%s', async (_, flags) => {
    await run(LOGGER, [
      ...['--server', '127.0.0.1', '--port', String(syslog.port), ...flags],
      ...['--priority', 'daemon.crit', '--tag', 'mdadm', 'array md0 lost a drive'],
    ])
    const [row] = await heard(1)
    expect(row).toMatchObject({
      kind: 'syslog',
      severity: 2,
      app: 'mdadm',
      address: '127.0.0.1',
      sourceId,
      gearId,
      times: 1,
    })
    expect(row!.body).toBe('array md0 lost a drive')
  })
})

describe.skipIf(!existsSync(SNMPTRAP))('notifications from a stock sender', () => {
  const send = (version: readonly string[], ...rest: string[]) =>
    run(SNMPTRAP, [...version, `127.0.0.1:${traps.port}`, ...rest], { env: { ...process.env, MIBS: '' } })
  const ON_BATTERY = ['', '1.3.6.1.2.1.33.2.1', '1.3.6.1.2.1.33.1.2.3.0', 'i', '34']
  const V3 = [
    ...['-v', '3', '-l', 'authPriv', '-u', 'speaker', '-a', 'SHA-256', '-A', 'authentication-1'],
    ...['-x', 'AES', '-X', 'privacy-password-1', '-e', '0x8000000001020304'],
  ]
  test('v2c: it is read at once, and said in words', async () => {
    await send(['-v', '2c', '-c', 'public'], ...ON_BATTERY)
    const [row] = await heard(1)
    expect(row).toMatchObject({ kind: 'trap', severity: 2, sourceId, gearId })
    expect(row!.body).toBe('it runs on battery (upsTrapOnBattery): upsEstimatedMinutesRemaining 34')
    const asked = await db.selectFrom('source').select('checkRequestedAt').executeTakeFirstOrThrow()
    expect(Date.now() - asked.checkRequestedAt!.getTime()).toBeLessThan(60_000)
  })
  test('v1: a generic one, and one of a maker', async () => {
    await send(
      ['-v', '1', '-c', 'public'],
      '1.3.6.1.4.1.32473.7',
      '127.0.0.1',
      '2',
      '0',
      '',
      '1.3.6.1.2.1.2.2.1.2.3',
      's',
      'eth2',
    )
    await send(['-v', '1', '-c', 'public'], '1.3.6.1.4.1.32473.7', '127.0.0.1', '6', '41', '')
    expect((await heard(2)).map(({ body, severity }) => [severity, body])).toEqual([
      [4, 'a link went down (linkDown): ifDescr “eth2”'],
      [5, 'notification 1.3.6.1.4.1.32473.7.0.41'],
    ])
  })
  test('a link is called as its gear calls it, and states are words', async () => {
    const port = {
      key: 'port eth2',
      kind: 'port' as const,
      name: 'eth2',
      facts: JSON.stringify({ ifIndex: '3' }),
    }
    await db
      .insertInto('part')
      .values({ gearId, ...port })
      .execute()
    const [index, status] = ['1.3.6.1.2.1.2.2.1.1.3', '1.3.6.1.2.1.2.2.1.8.3']
    await send(['-v', '2c', '-c', 'public'], '', '1.3.6.1.6.3.1.1.5.3', index, 'i', '3', status, 'i', '2')
    expect((await heard(1))[0]!.body).toBe('eth2: a link went down (linkDown): ifIndex 3, ifOperStatus down')
  })
  test('of another agent by a relay, without its community; from anybody else that is shown, and proves nothing', async () => {
    const relayed = [
      ...['', '1.3.6.1.6.3.1.1.5.2', '1.3.6.1.6.3.18.1.3.0', 'a', '192.0.2.9'],
      ...['1.3.6.1.6.3.18.1.4.0', 's', 'a-secret-community'],
    ]
    await send(['-v', '2c', '-c', 'public'], ...relayed)
    expect((await heard(1))[0]).toMatchObject({ address: '127.0.0.1', host: '192.0.2.9', gearId })
    await relaying('127.0.0.0/8')
    await send(['-v', '2c', '-c', 'public'], ...relayed)
    expect((await heard(2))[1]).toMatchObject({
      address: '192.0.2.9',
      gearId: null,
      body: 'it started again (warmStart)',
    })
  })
  test('a source is read for the sake of them once an interval', async () => {
    const asked = async () =>
      (await db.selectFrom('source').select('checkRequestedAt').executeTakeFirstOrThrow()).checkRequestedAt
    await send(['-v', '2c', '-c', 'public'], ...ON_BATTERY)
    await heard(1)
    await db.updateTable('source').set({ checkRequestedAt: null }).execute()
    await send(['-v', '2c', '-c', 'public'], ...ON_BATTERY)
    await heard(2)
    expect(await asked(), 'its interval is a minute').toBeNull()
  })
  test('v3: of a known user, and not with a wrong password', async () => {
    await send(V3, ...ON_BATTERY)
    expect(await heard(1)).toHaveLength(1)
    await send(
      V3.map((word) => (word === 'authentication-1' ? 'authentication-9' : word)),
      ...ON_BATTERY,
    )
    await send(
      V3.map((word) => (word === 'speaker' ? 'stranger' : word)),
      ...ON_BATTERY,
    )
    await pause(300)
    expect(await heard(1)).toHaveLength(1)
  })
  test('an inform is answered', async () => {
    await send(['-v', '2c', '-Ci', '-c', 'public', '-r', '0', '-t', '2'], '', '1.3.6.1.6.3.1.1.5.1')
    expect((await heard(1))[0]!.body).toBe('it started anew (coldStart)')
  })
})

test('a line with a NUL where nobody looks for one takes no other along, and is kept without it', async () => {
  const udp = createSocket('udp4')
  for (const line of [
    '<11>1 - petrel-07 kernel - - - before',
    '<11>1 - pet\0rel ker\0nel - - [a@32473 b="c\0d"] with nothing in between',
    '<11>1 - petrel-07 kernel - - - after',
  ])
    udp.send(line, syslog.port, '127.0.0.1')
  const bodies = async () =>
    (await db.selectFrom('deviceText').select(['host', 'body']).orderBy('id').execute()).slice(-3)
  for (let tries = 0; tries < 60 && (await bodies()).at(-1)?.body !== 'after'; tries += 1) await pause(50)
  expect(await bodies()).toEqual([
    { host: 'petrel-07', body: 'before' },
    { host: 'pet rel', body: expect.stringContaining('with nothing in between [a@32473 b="c d"]') as string },
    { host: 'petrel-07', body: 'after' },
  ])
  udp.close()
})
test('what the database refuses is counted, and costs nobody else a line', async () => {
  const said = (body: string, severity: number) => ({
    heardAt: new Date(),
    saidAt: null,
    address: '192.0.2.77',
    host: null,
    kind: 'syslog' as const,
    severity,
    app: null,
    body,
  })
  texts.take(said('one that is kept', 5))
  texts.take(said('one with a gravity that there is not', 99_999_999_999))
  texts.take(said('another that is kept', 5))
  await texts.flush()
  const kept = await db.selectFrom('deviceText').select('body').where('address', '=', '192.0.2.77').execute()
  expect(kept.map(({ body }) => body)).toEqual(['one that is kept', 'another that is kept'])
  expect(await readRefused(db)).toMatchObject({ count: 1 })
})

test('datagrams that are none take nothing along', async () => {
  const udp = createSocket('udp4')
  const valid = Buffer.from(
    '302602010104067075626c6963a71902040a0b0c0d020100020100300b300906052b060102010500',
    'hex',
  )
  for (let index = 0; index < 400; index += 1) {
    const bytes = Buffer.from(valid)
    bytes[index % bytes.length] = (index * 37) & 0xff
    udp.send(index % 3 === 0 ? bytes.subarray(0, index % bytes.length) : bytes, traps.port, '127.0.0.1')
    udp.send(bytes, syslog.port, '127.0.0.1')
  }
  const stream = connectTcp(syslog.port, '127.0.0.1')
  stream.on('error', () => undefined)
  stream.write('999999 <13>')
  await new Promise((resolve) => stream.once('close', resolve))
  udp.send('<11>1 - petrel-07 kernel - - - still here', syslog.port, '127.0.0.1')
  for (let tries = 0; tries < 60; tries += 1) {
    await pause(50)
    await texts.flush()
    const last = await db.selectFrom('deviceText').select('body').where('body', '=', 'still here').execute()
    if (last.length > 0) return udp.close()
  }
  udp.close()
  expect.unreachable('it does not listen any more')
})

describe('whose words they are', () => {
  const say = (body: string, rest: Partial<Parameters<Texts['take']>[0]> = {}) =>
    texts.take({
      heardAt: new Date(),
      saidAt: null,
      address: '192.0.2.77',
      host: null,
      kind: 'syslog',
      severity: 4,
      app: null,
      body,
      ...rest,
    })
  const window = () => ({ fromMs: Date.now() - 60_000, toMs: Date.now() })
  test('by the host name, where many speak through one relay', async () => {
    await relaying('192.0.2.64/26')
    say('one', { host: 'petrel-07.kittiwake.example' })
    say('two', { host: 'PETREL-07' })
    say('three', { host: 'petrel-99' })
    await heard(3)
    expect((await textsOf(db, gearId, window(), 10)).map(({ body }) => body).sort()).toEqual(['one', 'two'])
    expect(await strangers(db, Date.now() - 60_000)).toMatchObject([
      { address: '192.0.2.77', host: 'petrel-99', texts: '1', body: 'three' },
    ])
  })
  test('by the address from anybody else, whatever name is in the line', async () => {
    say('forged', { host: 'petrel-07' })
    say('its own', { host: 'another name', address: '127.0.0.1' })
    await heard(2)
    expect((await textsOf(db, gearId, window(), 10)).map(({ body }) => body)).toEqual(['its own'])
    expect(await strangers(db, Date.now() - 60_000)).toMatchObject([{ host: 'petrel-07', body: 'forged' }])
  })
  test('a notification from an address with two sources is kept, of neither of them', async () => {
    const second = await insertSource(db, {
      name: 'another there',
      protocol: 'snmp',
      address: '127.0.0.1:2161',
      settings: {},
      intervalSeconds: 60,
      credentialId: null,
      token: null,
    })
    say('whose', { kind: 'trap', address: '127.0.0.1' })
    expect(await heard(1)).toMatchObject([{ body: 'whose', sourceId: null }])
    expect(turned).toEqual([])
    await db.deleteFrom('source').where('id', '=', second).execute()
  })
  test('a notification from where nothing is asked is not kept, and counted by its address', async () => {
    say('forged', { kind: 'trap', agent: '127.0.0.1' })
    say('kept', { kind: 'trap', address: '127.0.0.1' })
    expect((await heard(1)).map(({ body }) => body)).toEqual(['kept'])
    expect(turned).toEqual([['192.0.2.77', 'no source is at this address, and it is no relay']])
  })
  test('the same again is counted, and a flood is cut', async () => {
    for (let index = 0; index < 5; index += 1) say('again')
    for (let index = 0; index < 19_000; index += 1) say(`flood ${index}`, { address: '192.0.2.78' })
    const rows = await heard(2)
    expect(rows.find(({ body }) => body === 'again')!.times).toBe(5)
    // Twelve thousand a minute; should one end in between, what comes after it is another twelve thousand.
    expect(rows.length - 1).toBeGreaterThanOrEqual(12_000)
    expect(rows.length - 1).toBeLessThan(19_000)
  })
})

test('what is kept is bounded while it comes', async () => {
  await writeTextsSetting(db, { days: 90, megabytes: 10, relays: [] })
  for (let batch = 0; batch < 6; batch += 1) {
    // Each batch from devices of its own: what one may say in a minute is cut before.
    for (let index = 0; index < 19_900; index += 1)
      texts.take({
        heardAt: new Date(),
        saidAt: null,
        address: `198.51.100.${batch * 2 + (index % 2)}`,
        host: null,
        kind: 'syslog',
        severity: 6,
        app: null,
        body: `line ${batch} ${index} ${'x'.repeat(120)}`,
      })
    await texts.flush()
  }
  const { count } = await db
    .selectFrom('deviceText')
    .select((eb) => eb.fn.countAll<string>().as('count'))
    .executeTakeFirstOrThrow()
  expect(Number(count)).toBeLessThan(100_000)
  expect(Number(count)).toBeGreaterThan(10_000)
})
