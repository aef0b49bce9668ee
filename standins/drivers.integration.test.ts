import { mkdtempSync, rmSync } from 'node:fs'
import { createServer as createPlainServer } from 'node:http'
import { createServer as createTcpServer, type Server } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest'
import { failureSentence, type Outcome } from '#core/sources'
import type { Findings } from '#core/gear'
import { redfish } from '#protocols/redfish'
import { snmpAgent } from '#protocols/snmp'
import { freePorts } from '../bin/setup/postgres.mjs'
import { NO_JOURNAL } from './journal.ts'
import { SimServer } from './model/server.ts'
import { SimUps } from './model/ups.ts'
import { newAuthority, newServerCertificate, type Pair } from './redfish/authority.ts'
import { startController } from './redfish/server.ts'
import { CONTROLLER_ACCOUNT, SERVERS, UPS_COMMUNITY, UPS_USER, UPSES } from './site/index.ts'
import { startUpsAgent } from './ups/agent.ts'
import { startGate } from './ups/gate.ts'

const BASE = await freePorts(12)
const folder = mkdtempSync(join(tmpdir(), 'rack-drivers-'))
const server = new SimServer(SERVERS[2]!)
const ups = new SimUps(UPSES[0]!, Date.now())
let authority: Pair
const closers: (() => unknown)[] = []

beforeAll(async () => {
  authority = await newAuthority('test authority', Date.now())
  const certificate = await newServerCertificate(authority, 'petrel-07', Date.now())
  const https = await startController({
    server,
    port: BASE,
    certificate,
    account: CONTROLLER_ACCOUNT,
    journal: NO_JOURNAL,
  })
  closers.push(() => {
    https.close()
    https.closeAllConnections()
  })
  const agent = startUpsAgent({ ups, port: BASE + 2, community: UPS_COMMUNITY, user: UPS_USER })
  const gate = await startGate(BASE + 1, BASE + 2, ups.faults)
  closers.push(
    () => gate.close(),
    () => agent.close(),
  )
})
afterEach(() => {
  server.faults.mend()
  ups.faults.mend()
})
afterAll(() => {
  closers.forEach((close) => close())
  rmSync(folder, { recursive: true })
})

const readServer = (
  rest: { address?: string; authorityPem?: string | null; password?: string; timeoutMs?: number } = {},
) =>
  redfish.collect({
    target: {
      address: rest.address ?? `https://127.0.0.1:${BASE}`,
      settings: {
        authorityPem: rest.authorityPem === undefined ? authority.certificatePem : rest.authorityPem,
      },
      secret: { ...CONTROLLER_ACCOUNT, ...(rest.password === undefined ? {} : { password: rest.password }) },
    },
    timeoutMs: rest.timeoutMs ?? 2000,
  })

type Version =
  | { version: 'v2c'; community?: string }
  | { version: 'v3'; user?: Partial<Record<keyof typeof UPS_USER, string>> }
const readUps = (how: Version, timeoutMs = 1000) =>
  snmpAgent.collect({
    target: {
      address: `127.0.0.1:${BASE + 1}`,
      settings: { version: how.version },
      secret:
        how.version === 'v2c' ? { community: how.community ?? UPS_COMMUNITY } : { ...UPS_USER, ...how.user },
    },
    timeoutMs,
  })

const found = (outcome: Outcome<Findings>): Findings => {
  if (outcome.kind === 'failed') throw new Error(failureSentence(outcome.failure))
  return outcome.found
}
const failed = (outcome: Outcome<Findings>): { kind: string; sentence: string } => {
  if (outcome.kind === 'found') throw new Error('it was read, and should not have been')
  return { kind: outcome.failure.kind, sentence: failureSentence(outcome.failure) }
}

describe('a controller over Redfish', () => {
  test('gives every part, and the fault that is caused', async () => {
    server.faults.cause('stop-fan', '3', Date.now())
    server.faults.cause('unplug-supply', '2', Date.now())
    server.faults.cause('fail-drive', '1', Date.now())
    const { gear, readings } = found(await readServer())
    const kinds = gear[0]!.parts.reduce<Record<string, number>>(
      (sum, part) => ({ ...sum, [part.kind]: (sum[part.kind] ?? 0) + 1 }),
      {},
    )
    expect(kinds).toEqual({ processor: 2, memory: 16, port: 2, drive: 10, sensor: 2, fan: 6, supply: 2 })
    const value = (part: string, measure: string) =>
      readings.find((each) => each.part === part && each.measure === measure)?.value
    expect(value('fan 3', 'hw.fan.speed')).toBe(0)
    expect(value('fan 3', 'hw.status')).toBe(2)
    expect(value('supply 2', 'hw.voltage')).toBe(0)
    expect(value('drive 1', 'hw.drive.predicted_failure')).toBe(1)
    expect(value('drive 4', 'hw.drive.life_left')).toBeCloseTo(0.18)
    expect(gear[0]).toMatchObject({ name: 'petrel-07', facts: { serial: 'NV24-00719', firmware: '3.2.1' } })
  })

  test.each([
    { fault: 'garbage', kind: 'malformed', says: /not JSON/ },
    { fault: 'deny', kind: 'credentialsRefused', says: /read-only account/ },
    { fault: 'huge', kind: 'tooLarge', says: /4\.0.MiB/ },
    { fault: 'endless', kind: 'timedOut', says: /within/ },
    { fault: 'silent', kind: 'timedOut', says: /within/ },
    { fault: 'slow', kind: 'timedOut', says: /too slow/ },
  ])('that answers “$fault” gives $kind, in time', async ({ fault, kind, says }) => {
    server.faults.cause(fault, null, Date.now())
    const began = Date.now()
    // What is to be found out before the time is over has as much of it as a busy machine needs.
    const timeoutMs = kind === 'timedOut' ? 800 : 15_000
    const outcome = failed(await readServer({ timeoutMs }))
    expect(outcome.kind).toBe(kind)
    expect(outcome.sentence).toMatch(says)
    expect(Date.now() - began).toBeLessThan(25_000)
    server.faults.mend()
    expect(found(await readServer()).gear).toHaveLength(1)
  })

  test('with an authority that is not trusted is not asked for anything', async () => {
    const other = await newAuthority('another authority', Date.now())
    for (const authorityPem of [null, other.certificatePem]) {
      expect(failed(await readServer({ authorityPem }))).toMatchObject({ kind: 'untrusted' })
    }
  })
  test('whose certificate has run out, or is made out to another name, is not trusted', async () => {
    const past = await newServerCertificate(authority, 'old', Date.now() - 3 * 365 * 86_400_000)
    const https = await startController({
      server,
      port: BASE + 9,
      certificate: past,
      account: CONTROLLER_ACCOUNT,
      journal: NO_JOURNAL,
    })
    expect(failed(await readServer({ address: `https://127.0.0.1:${BASE + 9}` })).sentence).toMatch(/expired/)
    expect(failed(await readServer({ address: `https://127.0.0.2:${BASE}` })).kind).toMatch(
      /untrusted|connectionRefused/,
    )
    https.close()
    https.closeAllConnections()
  })
  test('with a wrong password says so', async () => {
    expect(failed(await readServer({ password: 'wrong' }))).toMatchObject({ kind: 'credentialsRefused' })
  })
  test('that is not there: no name, no listener', async () => {
    expect(failed(await readServer({ address: 'https://no-such-host.invalid' })).kind).toBe('unknownName')
    expect(failed(await readServer({ address: `https://127.0.0.1:${BASE + 8}` })).kind).toBe(
      'connectionRefused',
    )
  })

  test('and a port that speaks something else', async () => {
    const plain = createPlainServer((_, response) => response.end('hello'))
    const rude: Server = createTcpServer((socket) => socket.end('220 mail here\r\n'))
    await new Promise<void>((resolve) => plain.listen(BASE + 6, '127.0.0.1', resolve))
    await new Promise<void>((resolve) => rude.listen(BASE + 7, '127.0.0.1', resolve))
    expect(failed(await readServer({ address: `https://127.0.0.1:${BASE + 6}` }))).toMatchObject({
      kind: 'plainOnly',
      sentence: expect.stringMatching(/does not speak TLS: it answered plainly, “HTTP/) as string,
    })
    expect(failed(await readServer({ address: `https://127.0.0.1:${BASE + 7}` }))).toMatchObject({
      kind: 'otherProtocol',
      sentence: expect.stringMatching(/“220 mail here”/) as string,
    })
    plain.close()
    rude.close()
  })

  test('leaves no socket behind, however often it fails', async () => {
    server.faults.cause('endless', null, Date.now())
    const before = process.getActiveResourcesInfo().filter((kind) => kind === 'TCPSocketWrap').length
    await Promise.all(Array.from({ length: 20 }, () => readServer({ timeoutMs: 300 })))
    await new Promise((resolve) => setTimeout(resolve, 300))
    const after = process.getActiveResourcesInfo().filter((kind) => kind === 'TCPSocketWrap').length
    expect(after).toBeLessThanOrEqual(before + 1)
  })
})

describe('a UPS over SNMP', () => {
  test.each([{ version: 'v2c' }, { version: 'v3' }] as const)('$version reads the same', async (how) => {
    const { gear, readings } = found(await readUps(how))
    expect(gear[0]).toMatchObject({ kind: 'ups', name: 'harbour-A', facts: { model: 'Voltessa Keel 6k' } })
    const value = (measure: string) =>
      readings.find((each) => each.part === null && each.measure === measure)?.value
    expect(value('ups.output.source')).toBe(3)
    expect(value('ups.battery.minutes_left')).toBe(34)
    expect(value('hw.battery.charge')).toBe(1)
  })
  test('mains lost is output source battery, with its alarms', async () => {
    ups.faults.cause('lose-mains', null, Date.now() - 60_000)
    await new Promise((resolve) => setTimeout(resolve, 700))
    const { gear, readings } = found(await readUps({ version: 'v3' }))
    expect(readings.find((each) => each.measure === 'ups.output.source')?.value).toBe(5)
    expect(readings.find((each) => each.measure === 'ups.battery.minutes_left')?.value).toBe(32)
    expect(gear[0]?.facts['alarms']).toBe('on battery, input bad')
  })
  test.each<{ name: string; how: Version; kind: string; says: RegExp }>([
    {
      name: 'a wrong community',
      how: { version: 'v2c', community: 'guess' },
      kind: 'timedOut',
      says: /wrong community/,
    },
    {
      name: 'an unknown user',
      how: { version: 'v3', user: { username: 'nobody' } },
      kind: 'credentialsRefused',
      says: /Unknown User/,
    },
    {
      name: 'a wrong privacy password',
      how: { version: 'v3', user: { privPassword: 'not the one' } },
      kind: 'timedOut',
      says: /wrong password/,
    },
  ])('$name gives $kind with a hint', async ({ how, kind, says }) => {
    const outcome = failed(await readUps(how))
    expect(outcome.kind).toBe(kind)
    expect(outcome.sentence).toMatch(says)
  })
  test.each(['silent', 'garbage', 'slow'])(
    'that is “%s” fails in time and is read again afterwards',
    async (fault) => {
      ups.faults.cause(fault, null, Date.now())
      const began = Date.now()
      expect(failed(await readUps({ version: 'v2c' })).kind).toMatch(/timedOut|malformed/)
      expect(Date.now() - began).toBeLessThan(20_000)
      ups.faults.mend()
      expect(found(await readUps({ version: 'v2c' })).gear).toHaveLength(1)
    },
  )
})
