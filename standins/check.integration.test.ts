import { createSocket } from 'node:dgram'
import { createServer as createPlainServer, type RequestListener } from 'node:http'
import { createServer as createTlsServer } from 'node:https'
import { createServer as createTcpServer } from 'node:net'
import snmp from 'net-snmp'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { type Failure, failureSentence, type StageReport, STAGES } from '#core/sources'
import { type CheckResult, runCheck } from '#protocols/check'
import type { Driver } from '#protocols/driver'
import { redfish } from '#protocols/redfish'
import { snmpAgent } from '#protocols/snmp'
import { freePorts } from '../bin/setup/postgres.mjs'
import { NO_JOURNAL } from './journal.ts'
import { SimServer } from './model/server.ts'
import { SimUps } from './model/ups.ts'
import { newAuthority, newServerCertificate, type Pair } from './redfish/authority.ts'
import { startController } from './redfish/server.ts'
import { CONTROLLER_ACCOUNT, SERVERS, UPS_COMMUNITY, UPS_USER, UPSES } from './site/index.ts'
import { openFullPort } from './testing/fullPort.ts'
import { startUpsAgent } from './ups/agent.ts'

// Every way in which connecting goes wrong, provoked by sockets that really refuse, drop, lie, deny or dribble.

const YEAR_MS = 365 * 86_400_000
const PORTS = {
  good: 0,
  expired: 1,
  early: 2,
  wrongName: 3,
  itself: 4,
  plain: 5,
  mail: 6,
  silentTcp: 7,
  full: 8,
  nothing: 9,
  denies: 10,
  page: 11,
  noService: 12,
  garbage: 13,
  dribbles: 14,
  huge: 15,
  breaksOff: 16,
  slow: 17,
  ups: 18,
  silentUdp: 19,
  echo: 20,
  bare: 21,
} as const
type Port = keyof typeof PORTS
const BASE = await freePorts(Object.keys(PORTS).length)
const at = (port: Port): number => BASE + PORTS[port]

let authority: Pair
let fingerprint = ''
const closers: (() => unknown)[] = []

const ROOT = { '@odata.id': '/redfish/v1/', Systems: { '@odata.id': '/redfish/v1/Systems' } }
const json = (response: Parameters<RequestListener>[1], body: unknown) => {
  response.writeHead(200, { 'content-type': 'application/json' })
  response.end(JSON.stringify(body))
}

beforeAll(async () => {
  const now = Date.now()
  authority = await newAuthority('Breakwater authority', now)
  const certificate = await newServerCertificate(authority, 'petrel-07', now)
  const serve = (port: Port, own: Pair, handler: RequestListener): Promise<void> => {
    const server = createTlsServer({ cert: own.certificatePem, key: own.keyPem }, handler)
    closers.push(() => {
      server.close()
      server.closeAllConnections()
    })
    return new Promise((resolve) => server.listen(at(port), '127.0.0.1', resolve))
  }
  const good = await startController({
    server: new SimServer(SERVERS[2]!),
    port: at('good'),
    certificate,
    account: CONTROLLER_ACCOUNT,
    journal: NO_JOURNAL,
  })
  closers.push(() => {
    good.close()
    good.closeAllConnections()
  })
  const plainly: RequestListener = (_, response) => response.end('hello')
  const byPath =
    (below: RequestListener): RequestListener =>
    (request, response) =>
      request.url === '/redfish/v1/' ? json(response, ROOT) : below(request, response)
  await serve('expired', await newServerCertificate(authority, 'old', now - 3 * YEAR_MS), plainly)
  await serve('early', await newServerCertificate(authority, 'early', now + 10 * 86_400_000), plainly)
  await serve(
    'wrongName',
    await newServerCertificate(authority, 'petrel-99', now, [{ type: 'dns', value: 'petrel-99.example' }]),
    plainly,
  )
  await serve('itself', authority, plainly)
  await serve(
    'denies',
    certificate,
    byPath((_, response) => response.writeHead(403).end()),
  )
  await serve('page', certificate, (_, response) => {
    response.writeHead(200, { 'content-type': 'text/html' })
    response.end('<!doctype html><title>Printer</title>')
  })
  await serve('noService', certificate, (_, response) => response.writeHead(404).end())
  await serve(
    'garbage',
    certificate,
    byPath((_, response) => {
      response.writeHead(200, { 'content-type': 'application/json' })
      response.end('{"Members": <<<~~~')
    }),
  )
  await serve(
    'dribbles',
    certificate,
    byPath((_, response) => {
      response.writeHead(200, { 'content-type': 'application/json' })
      const drip = setInterval(() => response.write(' '), 50)
      response.on('close', () => clearInterval(drip))
    }),
  )
  await serve(
    'huge',
    certificate,
    byPath((_, response) => {
      response.writeHead(200, { 'content-type': 'application/json' })
      response.end(' '.repeat(6 * 1024 * 1024))
    }),
  )
  await serve(
    'breaksOff',
    certificate,
    byPath((_, response) => {
      response.writeHead(200, { 'content-type': 'application/json', 'content-length': '5000' })
      response.write('{"Members":')
      setTimeout(() => response.destroy(), 50)
    }),
  )
  await serve(
    'slow',
    certificate,
    byPath(() => undefined),
  )

  const plain = createPlainServer(plainly).listen(at('plain'), '127.0.0.1')
  const mail = createTcpServer((socket) => {
    socket.on('error', () => undefined)
    socket.end('220 mail here\r\n')
  }).listen(at('mail'), '127.0.0.1')
  const silent = createTcpServer((socket) => socket.on('error', () => undefined)).listen(
    at('silentTcp'),
    '127.0.0.1',
  )
  closers.push(
    () => plain.close(),
    () => mail.close(),
    () => silent.close(),
  )
  closers.push(await openFullPort(at('full')))

  const agent = startUpsAgent({
    ups: new SimUps(UPSES[0]!, now),
    port: at('ups'),
    community: UPS_COMMUNITY,
    user: UPS_USER,
  })
  const silentUdp = createSocket('udp4').bind(at('silentUdp'), '127.0.0.1')
  const echo = createSocket('udp4').bind(at('echo'), '127.0.0.1')
  echo.on('message', (_, { port, address }) => echo.send('no agent, an echo', port, address))
  const bare = snmp.createAgent(
    { port: at('bare'), address: '127.0.0.1', disableAuthorization: false, transport: 'udp4' },
    () => undefined,
  )
  bare.getAuthorizer().addCommunity(UPS_COMMUNITY)
  bare.getMib().registerProvider({
    name: 'ofItsMaker',
    type: snmp.MibProviderType.Scalar,
    oid: '1.3.6.1.4.1.32473.1.1',
    scalarType: snmp.ObjectType.Integer,
    maxAccess: snmp.MaxAccess['read-only'],
  } as Parameters<ReturnType<typeof bare.getMib>['registerProvider']>[0])
  bare.getMib().setScalarValue('ofItsMaker', 1)
  closers.push(
    () => agent.close(),
    () => silentUdp.close(),
    () => echo.close(),
    () => bare.close(),
  )
})
afterAll(() => closers.forEach((close) => close()))

const controller = (
  port: Port | { address: string },
  rest: { authorityPem?: string | null; fingerprint?: string; password?: string } = {},
) => ({
  driver: redfish,
  target: {
    address: typeof port === 'string' ? `https://127.0.0.1:${at(port)}` : port.address,
    settings: {
      authorityPem: rest.authorityPem === undefined ? authority.certificatePem : rest.authorityPem,
      fingerprint: rest.fingerprint ?? null,
    },
    secret: { ...CONTROLLER_ACCOUNT, ...(rest.password === undefined ? {} : { password: rest.password }) },
  },
})

const agentOf = (
  port: Port,
  how: { community?: string; settings?: object; user?: Partial<Record<keyof typeof UPS_USER, string>> },
) => ({
  driver: snmpAgent,
  target: {
    address: `127.0.0.1:${at(port)}`,
    settings: { version: how.community === undefined ? 'v3' : 'v2c', ...how.settings },
    secret: secretOf(how),
  },
})

const secretOf = (how: Parameters<typeof agentOf>[1]): Record<string, string> =>
  how.community === undefined ? { ...UPS_USER, ...how.user } : { community: how.community }

const check = (
  subject: { driver: Driver; target: Parameters<Driver['reach']>[0] },
  timeoutMs = 1200,
): Promise<CheckResult> => runCheck({ ...subject, timeoutMs, tell: () => undefined })
const stage = ({ stages }: CheckResult, name: StageReport['stage']): StageReport =>
  stages.find((each) => each.stage === name)!

interface Case {
  readonly name: string
  readonly of: () => Parameters<typeof check>[0]
  readonly at: StageReport['stage']
  readonly kind: Failure['kind']
  readonly says: RegExp
}

const CASES: readonly Case[] = [
  {
    name: 'a name that nobody knows',
    of: () => controller({ address: 'https://no-such-host.invalid' }),
    at: 'name',
    kind: 'unknownName',
    says: /no-such-host\.invalid is not known.*spelling/,
  },
  {
    name: 'a port where nothing listens',
    of: () => controller('nothing'),
    at: 'port',
    kind: 'connectionRefused',
    says: /nothing listens on this port.*switched on/,
  },
  {
    name: 'a port behind something that drops',
    of: () => controller('full'),
    at: 'port',
    kind: 'filtered',
    says: /Nothing came back .* within 1.s.*firewall/,
  },
  {
    name: 'a port without TLS',
    of: () => controller('plain'),
    at: 'trust',
    kind: 'plainOnly',
    says: /does not speak TLS.*http:\/\//,
  },
  {
    name: 'a port of another protocol',
    of: () => controller('mail'),
    at: 'tree',
    kind: 'otherProtocol',
    says: /something else than TLS: “220 mail here”.*Check the port/,
  },
  {
    name: 'a port that takes connections and says nothing',
    of: () => controller('silentTcp'),
    at: 'tree',
    kind: 'timedOut',
    says: /did not answer within/,
  },
  {
    name: 'an authority that is not known',
    of: () => controller('good', { authorityPem: null }),
    at: 'trust',
    kind: 'untrusted',
    says: /signed by “Breakwater authority”.*fingerprint/,
  },
  {
    name: 'a certificate that is its own authority',
    of: () => controller('itself', { authorityPem: null }),
    at: 'trust',
    kind: 'untrusted',
    says: /signed by itself.*Compare its fingerprint/,
  },
  {
    name: 'a certificate that has expired',
    of: () => controller('expired'),
    at: 'trust',
    kind: 'untrusted',
    says: /it expired on 20\d\d-\d\d-\d\d.*Renew/,
  },
  {
    name: 'a certificate that is not valid yet',
    of: () => controller('early'),
    at: 'trust',
    kind: 'untrusted',
    says: /not valid yet.*clock/,
  },
  {
    name: 'a certificate for another name',
    of: () => controller('wrongName'),
    at: 'trust',
    kind: 'untrusted',
    says: /made out to petrel-99\.example.*Use a name/,
  },
  {
    name: 'a certificate with another fingerprint than the trusted one',
    of: () => controller('good', { authorityPem: null, fingerprint: 'AA:BB' }),
    at: 'trust',
    kind: 'untrusted',
    says: /not the one that was trusted.*replaced/,
  },
  {
    name: 'a wrong password',
    of: () => controller('good', { password: 'wrong' }),
    at: 'credential',
    kind: 'credentialsRefused',
    says: /HTTP 401.*Check user and password/,
  },
  {
    name: 'an account without the right to this tree',
    of: () => controller('denies'),
    at: 'tree',
    kind: 'notAllowed',
    says: /may not read \/redfish\/v1\/Systems.*right to read/,
  },
  {
    name: 'a web page instead of a service',
    of: () => controller('page'),
    at: 'tree',
    kind: 'otherProtocol',
    says: /something else than Redfish: “a page of type text\/html”/,
  },
  {
    name: 'a far side without the service',
    of: () => controller('noService'),
    at: 'tree',
    kind: 'unsupported',
    says: /no Redfish service.*switched off/,
  },
  {
    name: 'garbage',
    of: () => controller('garbage'),
    at: 'found',
    kind: 'malformed',
    says: /not JSON, it begins with “\{"Members": <<<~~~”/,
  },
  {
    name: 'an answer that never ends',
    of: () => controller('dribbles'),
    at: 'tree',
    kind: 'timedOut',
    says: /within 1.s.*too slow/,
  },
  {
    name: 'an answer that is too large',
    of: () => controller('huge'),
    at: 'tree',
    kind: 'tooLarge',
    says: /more than 4\.0.MiB/,
  },
  {
    name: 'an answer that breaks off',
    of: () => controller('breaksOff'),
    at: 'tree',
    kind: 'connectionLost',
    says: /closed the connection before its answer was complete/,
  },
  {
    name: 'no answer after the first',
    of: () => controller('slow'),
    at: 'tree',
    kind: 'timedOut',
    says: /did not answer within 1.s/,
  },
  {
    name: 'SNMP: a port where nothing listens',
    of: () => agentOf('nothing', { community: UPS_COMMUNITY }),
    at: 'port',
    kind: 'connectionRefused',
    says: /nothing listens/,
  },
  {
    name: 'SNMP: a port that says nothing',
    of: () => agentOf('silentUdp', { community: UPS_COMMUNITY }),
    at: 'port',
    kind: 'filtered',
    says: /Nothing came back/,
  },
  {
    name: 'SNMP: a port of another protocol',
    of: () => agentOf('echo', { community: UPS_COMMUNITY }),
    at: 'tree',
    kind: 'otherProtocol',
    says: /something else than SNMP: “no agent, an echo”/,
  },
  {
    name: 'SNMP: a wrong community',
    of: () => agentOf('ups', { community: 'guess' }),
    at: 'credential',
    kind: 'credentialsRefused',
    says: /an agent is there.*Check the community/,
  },
  {
    name: 'SNMP: an unknown user',
    of: () => agentOf('ups', { user: { username: 'nobody' } }),
    at: 'credential',
    kind: 'credentialsRefused',
    says: /Check its|not known there/,
  },
  {
    name: 'SNMP: a wrong authentication password',
    of: () => agentOf('ups', { user: { authPassword: 'not the one' } }),
    at: 'credential',
    kind: 'credentialsRefused',
    says: /authentication password/,
  },
  {
    name: 'SNMP: another authentication algorithm',
    of: () => agentOf('ups', { settings: { authentication: 'sha512' } }),
    at: 'credential',
    kind: 'credentialsRefused',
    says: /authentication password, or its algorithm/,
  },
  {
    name: 'SNMP: a wrong privacy password',
    of: () => agentOf('ups', { user: { privPassword: 'not the one' } }),
    at: 'credential',
    kind: 'credentialsRefused',
    says: /privacy password, or its algorithm/,
  },
  {
    name: 'SNMP: an agent that has nothing of what is read',
    of: () => agentOf('bare', { community: UPS_COMMUNITY }),
    at: 'tree',
    kind: 'unsupported',
    says: /none of the trees.*1\.3\.6\.1\.2\.1/,
  },
]

describe('the check stops where it fails, and says why', () => {
  test.each(CASES)('$name', async ({ of, at: where, kind, says }) => {
    const began = Date.now()
    // Megabytes are read in time on a busy machine, too.
    const result = await check(of(), kind === 'tooLarge' ? 15_000 : undefined)
    const failing = result.stages.find((each) => each.state === 'failed')
    expect(result.failure === null ? 'nothing failed' : failureSentence(result.failure)).toMatch(says)
    expect({ stage: failing?.stage, kind: result.failure?.kind }).toEqual({ stage: where, kind })
    expect(failing?.said).toMatch(says)
    expect(failing?.sent, 'what was sent').not.toBeNull()
    expect(failing?.received, 'what came back').not.toBeNull()
    expect(failing?.tookMs, 'how long it took').not.toBeNull()
    const after = result.stages.slice(STAGES.indexOf(where) + 1)
    expect(after.filter(({ state }) => state !== 'waiting')).toEqual([])
    expect(JSON.stringify(result)).not.toContain(CONTROLLER_ACCOUNT.password)
    expect(JSON.stringify(result)).not.toContain(UPS_USER.privPassword)
    expect(Date.now() - began).toBeLessThan(30_000)
  })
})

describe('the check goes through', () => {
  test('of a controller, with the authority that it sent along once that is trusted', async () => {
    const { certificate } = await check(controller('good', { authorityPem: null }))
    expect(certificate).toMatchObject({
      subject: 'petrel-07',
      issuer: 'Breakwater authority',
      names: ['127.0.0.1', 'localhost'],
    })
    fingerprint = certificate!.fingerprint
    const trusted = await check(controller('good', { authorityPem: certificate!.authority!.pem }))
    expect(trusted.failure).toBeNull()
    expect(trusted.stages.map(({ state }) => state)).toEqual([
      'notNeeded',
      ...Array<string>(5).fill('passed'),
    ])
    expect(stage(trusted, 'found').said).toMatch(/^1 server with 40 parts; \d+ readings\.$/)
    expect(stage(trusted, 'credential').sent).toMatch(/with user/)
  })
  test('of a controller, by its fingerprint alone', async () => {
    const result = await check(controller('good', { authorityPem: null, fingerprint }))
    expect(stage(result, 'trust').said).toMatch(/by its fingerprint/)
    expect(result.failure).toBeNull()
  })
  test('of an expired certificate, by its fingerprint', async () => {
    const { certificate } = await check(controller('expired'))
    const result = await check(controller('expired', { fingerprint: certificate!.fingerprint }))
    expect(stage(result, 'trust').state).toBe('passed')
  })
  test.each([{ community: UPS_COMMUNITY }, {}])('of a UPS with %o', async (how) => {
    const result = await check(agentOf('ups', how))
    expect(result.failure).toBeNull()
    expect(stage(result, 'trust').state).toBe('notNeeded')
    expect(stage(result, 'found').said).toMatch(/^1 UPS with/)
  })
  test('and tells each stage as it ends', async () => {
    const heard: string[] = []
    await runCheck({
      ...controller('good'),
      timeoutMs: 2000,
      tell: (stages) => heard.push(stages.filter(({ state }) => state !== 'waiting').at(-1)!.stage),
    })
    expect(heard).toEqual([...STAGES])
  })
})
