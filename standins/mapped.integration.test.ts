import { createServer as createPlainServer, type RequestListener } from 'node:http'
import { createServer as createTlsServer } from 'node:https'
import { type AddressInfo, createServer as createTcpServer, type Server } from 'node:net'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { type Failure, failureSentence, type StageReport } from '#core/sources'
import { type CheckResult, runCheck } from '#protocols/check'
import { modbus, SHIPPED_MAPS } from '#protocols/modbus'
import { scrape } from '#protocols/openmetrics'
import { startCoolingUnit } from './cooling/server.ts'
import { PROBE_LINES } from './demo/probeLines.ts'
import { SimCooling } from './model/cooling.ts'
import { SimProbes } from './model/probes.ts'
import { startGateway } from './probes/gateway.ts'
import { newAuthority, newServerCertificate, type Pair } from './redfish/authority.ts'
import { COOLING, PROBES, PROBES_TOKEN } from './site/index.ts'

// Sources that need a mapping, over real sockets: what is read, and each way in which it goes wrong.

const closers: (() => unknown)[] = []
const ports = new Map<string, number>()
const cooling = new SimCooling(COOLING)
const probes = new SimProbes(PROBES, Date.now() - 3_600_000)
const COOLING_MAP = SHIPPED_MAPS.find(({ map }) => map.kind === 'cooling')!.map
let authority: Pair

const opened = (name: string, server: Server): Promise<void> => {
  closers.push(() => server.close())
  return new Promise((resolve) =>
    server.listen(0, '127.0.0.1', () => {
      ports.set(name, (server.address() as AddressInfo).port)
      resolve()
    }),
  )
}
const metrics =
  (body: string, type = 'application/openmetrics-text; version=1.0.0; charset=utf-8'): RequestListener =>
  (request, response) => {
    response.writeHead(200, { 'content-type': type, accepted: String(request.headers.accept) })
    response.end(body)
  }

beforeAll(async () => {
  authority = await newAuthority('Breakwater authority', Date.now())
  const own = await newServerCertificate(authority, 'lantern-gateway', Date.now())
  const unit = await startCoolingUnit({ cooling, port: 0 })
  const gateway = await startGateway({ probes, port: 0, token: PROBES_TOKEN })
  ports.set('cooling', (unit.address() as AddressInfo).port)
  ports.set('gateway', (gateway.address() as AddressInfo).port)
  closers.push(
    () => unit.close(),
    () => (gateway.close(), gateway.closeAllConnections()),
  )
  const document = 'inlet_celsius{probe="n"} 21.5\n'
  await opened(
    'tls',
    createTlsServer({ cert: own.certificatePem, key: own.keyPem }, metrics(`${document}# EOF\n`)),
  )
  await opened('plainForm', createPlainServer(metrics(document, 'text/plain; version=0.0.4')))
  await opened('page', createPlainServer(metrics('<!doctype html>', 'text/html')))
  await opened('newer', createPlainServer(metrics('# EOF\n', 'application/openmetrics-text; version=9.0.0')))
  await opened('broken', createPlainServer(metrics('a{b="c} 1\n# EOF\n')))
  await opened(
    'basic',
    createPlainServer((request, response) => {
      const isRight =
        request.headers.authorization === `Basic ${Buffer.from('reader:pass').toString('base64')}`
      if (isRight) return metrics(`${document}# EOF\n`)(request, response)
      response.writeHead(401, { 'www-authenticate': 'Basic realm="metrics"' }).end()
    }),
  )
  await opened(
    'mail',
    createTcpServer((socket) => {
      socket.on('error', () => undefined)
      socket.write('220 mail here\r\n')
    }),
  )
  await opened(
    'otherUnit',
    createTcpServer((socket) => {
      socket.on('error', () => undefined)
      socket.on('data', (data: Buffer) =>
        socket.write(Buffer.concat([data.subarray(0, 4), Buffer.from([0, 5, 9, 4, 2, 0, 0])])),
      )
    }),
  )
})
afterAll(() => closers.forEach((close) => close()))

type Subject = Pick<Parameters<typeof runCheck>[0], 'driver' | 'target'>
const check = (subject: Subject): Promise<CheckResult> =>
  runCheck({ ...subject, timeoutMs: 1200, tell: () => undefined })

const scraped = (
  server: string,
  rest: { secret?: Record<string, string>; scheme?: string; path?: string; settings?: object } = {},
): Subject => ({
  driver: scrape,
  target: {
    address: `${rest.scheme ?? 'http'}://127.0.0.1:${ports.get(server)}${rest.path ?? '/metrics'}`,
    settings: { map: PROBE_LINES, ...rest.settings },
    secret: rest.secret ?? {},
  },
})
const read = (server: string, settings: object = {}): Subject => ({
  driver: modbus,
  target: {
    address: `127.0.0.1:${ports.get(server)}`,
    settings: { name: 'brume-1', map: COOLING_MAP, ...settings },
    secret: {},
  },
})

interface Case {
  readonly name: string
  readonly of: () => Subject
  readonly at: StageReport['stage']
  readonly kind: Failure['kind']
  readonly says: RegExp
}
const CASES: readonly Case[] = [
  {
    name: 'a token that is not right',
    of: () => scraped('gateway', { secret: { token: 'guessed' } }),
    at: 'credential',
    kind: 'credentialsRefused',
    says: /HTTP 401.*Check the token/,
  },
  {
    name: 'a password that is not right',
    of: () => scraped('basic', { secret: { username: 'reader', password: 'guessed' } }),
    at: 'credential',
    kind: 'credentialsRefused',
    says: /HTTP 401.*Check user and password/,
  },
  {
    name: 'a path where nothing is',
    of: () => scraped('gateway', { secret: { token: PROBES_TOKEN }, path: '/nothing' }),
    at: 'tree',
    kind: 'malformed',
    says: /HTTP 404 for \/nothing/,
  },
  {
    name: 'an authority that is not known',
    of: () => scraped('tls', { scheme: 'https' }),
    at: 'trust',
    kind: 'untrusted',
    says: /Breakwater authority/,
  },
  {
    name: 'nothing but TLS on this port',
    of: () => scraped('tls'),
    at: 'port',
    kind: 'tlsOnly',
    says: /nothing but TLS.*https:\/\//,
  },
  {
    name: 'no TLS on this port',
    of: () => scraped('page', { scheme: 'https' }),
    at: 'trust',
    kind: 'plainOnly',
    says: /does not speak TLS/,
  },
  {
    name: 'a page',
    of: () => scraped('page'),
    at: 'tree',
    kind: 'unsupported',
    says: /“text\/html”, which is neither.*\/metrics/,
  },
  {
    name: 'a version that is not read here',
    of: () => scraped('newer'),
    at: 'tree',
    kind: 'unsupported',
    says: /version=9\.0\.0/,
  },
  {
    name: 'a document with a fault',
    of: () => scraped('broken'),
    at: 'found',
    kind: 'malformed',
    says: /line 1: the value of a label has no closing quote/,
  },
  {
    name: 'another protocol where HTTP is asked for',
    of: () => scraped('mail'),
    at: 'tree',
    kind: 'otherProtocol',
    says: /220 mail here/,
  },
  {
    name: 'Modbus: a register that is not there',
    of: () =>
      read('cooling', {
        map: {
          ...COOLING_MAP,
          lines: [{ ...COOLING_MAP.lines[0]!, table: 'holding', address: 5000, type: 'u32' }],
        },
      }),
    at: 'tree',
    kind: 'unsupported',
    says: /refuses holding 5000 to 5001 with exception 2, no such register.*counts from 0/,
  },
  {
    name: 'Modbus: another protocol',
    of: () => read('mail'),
    at: 'tree',
    kind: 'otherProtocol',
    says: /something else than Modbus: “220 mail here/,
  },
  {
    name: 'Modbus: another unit answers',
    of: () => read('otherUnit'),
    at: 'tree',
    kind: 'malformed',
    says: /unit 9, not 1/,
  },
]

test.each(CASES)('$name', async ({ of, at, kind, says }) => {
  const { failure, stages, findings } = await check(of())
  expect(failure?.kind).toBe(kind)
  expect(stages.find((each) => each.state === 'failed')).toMatchObject({ stage: at })
  expect(failureSentence(failure!)).toMatch(says)
  expect(findings).toBeNull()
})

test('no token and no password is in what a check shows', async () => {
  const secrets: Record<string, string>[] = [
    { token: 'guessed-token-1' },
    { username: 'reader', password: 'guessed-word-1' },
  ]
  for (const secret of secrets) {
    const text = JSON.stringify(await check(scraped('basic', { secret })))
    expect(text).not.toMatch(/guessed|Z3Vlc3NlZ/)
  }
})

describe('metrics', () => {
  test('by bearer token: probes with what they say', async () => {
    const { findings, told, stages } = await check(scraped('gateway', { secret: { token: PROBES_TOKEN } }))
    expect(findings!.gear.map(({ name, kind }) => [name, kind])).toEqual([
      ...PROBES.probes
        .filter((probe) => probe.silentSinceDays === undefined)
        .map(({ name }) => [name, 'probe']),
      ['lantern-door', 'door'],
    ])
    expect(findings!.readings).toHaveLength(17)
    expect(told).toMatchObject({ kind: 'series' })
    expect(stages.find(({ stage }) => stage === 'credential')).toMatchObject({ state: 'passed' })
  })
  test('by user and password, and over TLS with an authority of its own', async () => {
    const lines = [{ ...PROBE_LINES[0]!, metric: 'inlet_celsius' }]
    const basic = await check(
      scraped('basic', { secret: { username: 'reader', password: 'pass' }, settings: { map: lines } }),
    )
    const tls = await check(
      scraped('tls', { scheme: 'https', settings: { map: lines, authorityPem: authority.certificatePem } }),
    )
    for (const { findings } of [basic, tls])
      expect(findings!.readings[0]).toMatchObject({ gear: 'n', value: 21.5 })
  })
  test('the plain text form where that is all there is', async () => {
    const { findings } = await check(
      scraped('plainForm', { settings: { map: [{ ...PROBE_LINES[0]!, metric: 'inlet_celsius' }] } }),
    )
    expect(findings!.readings).toHaveLength(1)
  })
  test('without a mapping what is told is shown, and nothing is gear', async () => {
    const { failure, stages, told, findings } = await check(
      scraped('gateway', { secret: { token: PROBES_TOKEN }, settings: { map: [] } }),
    )
    expect([failure, findings!.gear]).toEqual([null, []])
    expect(told?.kind === 'series' && told.series.length).toBe(19)
    expect(stages.at(-1)!.said).toBe('19 series of 7 metrics, and nothing says yet what they mean.')
  })
  test('a document that is cut off leaves nothing half read', async () => {
    probes.faults.cause('cut-off', null, 0)
    const { failure } = await check(scraped('gateway', { secret: { token: PROBES_TOKEN } }))
    probes.faults.mend()
    expect(failureSentence(failure!)).toMatch(/the end mark “# EOF” is missing/)
  })
})

describe('registers', () => {
  test('of a cooling unit by the map that came along', async () => {
    const { findings } = await check(read('cooling'))
    const [unit] = findings!.gear
    expect(unit).toMatchObject({
      name: 'brume-1',
      kind: 'cooling',
      identities: [{ kind: 'serial', value: 'BH20-0031' }],
    })
    const now = cooling.at(Date.now())
    const value = (part: string | null, measure: string) =>
      findings!.readings.find((each) => each.part === part && each.measure === measure)!.value!
    expect(value('sensor Supply air', 'hw.temperature')).toBeCloseTo(now.supply, 0)
    expect(value('sensor Return air', 'hw.humidity')).toBeCloseTo(now.humidity, 2)
    expect(value(null, 'hw.power')).toBeCloseTo(now.watts, -2)
    expect(value('leak Drip tray', 'hw.leak')).toBe(0)
    cooling.faults.cause('leak', null, 0)
    const wet = (await check(read('cooling'))).findings!.readings
    cooling.faults.mend()
    expect(wet.find((each) => each.measure === 'hw.leak')!.value).toBe(2)
  })
  test('registers to look at, before there is a map', async () => {
    const { told, stages } = await check(
      read('cooling', { map: null, look: { table: 'input', address: 0, count: 12 } }),
    )
    expect(told?.kind === 'registers' && told.blocks[0]!.values).toHaveLength(12)
    expect(stages.at(-1)!.said).toMatch(/^12 registers, and nothing says yet/)
  })
  test('a stretch that it does not have is said, and takes nothing from its map', async () => {
    const nowhere = { table: 'holding', address: 5000, count: 2 }
    const bare = await check(read('cooling', { map: null, look: nowhere }))
    expect(bare.failure).toBeNull()
    expect(bare.told).toMatchObject({
      blocks: [],
      refused: expect.stringMatching(/^holding 5000 to 5001: exception 2/) as string,
    })
    expect(bare.stages.at(-1)!.said).toMatch(/refuses holding 5000 to 5001/)
    const mapped = await check(read('cooling', { look: nowhere }))
    expect(mapped.findings!.readings).toHaveLength(12)
  })
  test('a unit that is silent, and one that refuses', async () => {
    cooling.faults.cause('silent', null, 0)
    const silent = await check(read('cooling'))
    cooling.faults.mend()
    cooling.faults.cause('refuse', null, 0)
    const refuses = await check(read('cooling'))
    cooling.faults.mend()
    expect(failureSentence(silent.failure!)).toMatch(/did not answer within .*number of its unit/)
    expect(failureSentence(refuses.failure!)).toMatch(/exception 1, this function is not offered/)
  })
})
