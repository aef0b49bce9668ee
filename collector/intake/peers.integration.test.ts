import { type ChildProcess, spawn } from 'node:child_process'
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { type AddressInfo, connect, createServer } from 'node:net'
import { cpus, totalmem, tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { failureSentence } from '#core/sources'
import type { Findings } from '#core/gear'
import { type CheckResult, runCheck } from '#protocols/check'
import { modbus } from '#protocols/modbus'
import { snmpAgent } from '#protocols/snmp'
import { Rates } from './rates.ts'
import type { Server } from 'node:http'
import { OTLPMetricExporter as JsonExporter } from '@opentelemetry/exporter-metrics-otlp-http'
import { OTLPMetricExporter as ProtobufExporter } from '@opentelemetry/exporter-metrics-otlp-proto'
import { resourceFromAttributes } from '@opentelemetry/resources'
import {
  AggregationTemporality,
  MeterProvider,
  PeriodicExportingMetricReader,
} from '@opentelemetry/sdk-metrics'
import type { Moment } from '#protocols/otlp'
import { startReceiver } from './receiver.ts'
import { freePort } from '../../bin/setup/postgres.mjs'

// Peers that were not written here. What is not installed is passed over, and said.

const SNMPD = '/usr/sbin/snmpd'
const isThere = existsSync(SNMPD)
if (!isThere) console.log(`passed over: ${SNMPD} is not here and could not be installed (Debian's snmpd)`)

const MEGABYTES = 200

async function sendOverLoopback(megabytes: number): Promise<void> {
  const server = createServer((socket) => socket.resume())
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const socket = connect((server.address() as AddressInfo).port, '127.0.0.1')
  const block = Buffer.alloc(1_000_000)
  for (let sent = 0; sent < megabytes; sent += 1)
    await new Promise<void>((resolve) => socket.write(block, () => resolve()))
  socket.destroy()
  server.close()
}

describe.skipIf(!isThere)("Debian's SNMP agent, read as a host", () => {
  const folder = mkdtempSync(join(tmpdir(), 'rack-snmpd-'))
  let agent: ChildProcess
  let port: number

  beforeAll(async () => {
    port = await freePort()
    writeFileSync(
      join(folder, 'snmpd.conf'),
      [
        'rocommunity reads-only 127.0.0.1',
        'createUser reader SHA-256 "authentication-1" AES "privacy-password-1"',
        'rouser reader authpriv',
        'createUser strong SHA-512 "authentication-2" AES "privacy-password-2"',
        'rouser strong authpriv',
        'createUser narrow SHA-256 "authentication-1" AES "privacy-password-1"',
        'view little included .1.3.6.1.2.1.1',
        'rouser -V little narrow authpriv',
        'createUser signing SHA "authentication-3"',
        'rouser signing auth',
        'createUser old MD5 "authentication-4" AES "privacy-password-4"',
        'rouser old authpriv',
        'sysName skerry-01',
      ].join('\n'),
    )
    agent = spawn(
      SNMPD,
      ['-f', '-Lf', join(folder, 'log'), '-C', '-c', join(folder, 'snmpd.conf'), `udp:127.0.0.1:${port}`],
      { env: { ...process.env, SNMP_PERSISTENT_DIR: folder }, stdio: 'ignore' },
    )
    for (let tries = 0; tries < 40; tries += 1) {
      if ((await check({ community: 'reads-only' })).failure === null) return
      await pause(250)
    }
  }, 30_000)
  afterAll(() => {
    agent.kill('SIGKILL')
    rmSync(folder, { recursive: true, force: true })
  })

  interface As {
    readonly community?: string
    readonly version?: string
    readonly user?: readonly [name: string, authentication: string, privacy: string]
    readonly algorithm?: string
    readonly privacy?: string
  }
  const target = ({ community, version, user, algorithm, privacy }: As) => {
    const secret: Record<string, string> =
      community === undefined
        ? { username: user![0], authPassword: user![1], privPassword: user![2] }
        : { community }
    const settings = {
      version: version ?? (community === undefined ? 'v3' : 'v2c'),
      authentication: algorithm ?? 'sha256',
      privacy: privacy ?? 'aes',
    }
    return { address: `127.0.0.1:${port}`, settings, secret }
  }
  const check = (as: As): Promise<CheckResult> =>
    runCheck({ driver: snmpAgent, target: target(as), timeoutMs: 4000, tell: () => undefined })
  const found = async (as: As): Promise<Findings> => {
    const { failure, findings } = await check(as)
    if (findings === null) throw new Error(failure === null ? 'nothing' : failureSentence(failure))
    return findings
  }
  const READER = ['reader', 'authentication-1', 'privacy-password-1'] as const

  test.each<As>([
    { community: 'reads-only' },
    { community: 'reads-only', version: 'v1' },
    { user: READER },
    { user: ['strong', 'authentication-2', 'privacy-password-2'], algorithm: 'sha512' },
    // Weak, and all that gear of old has.
    { user: ['signing', 'authentication-3', ''], algorithm: 'sha', privacy: 'none' },
    { user: ['old', 'authentication-4', 'privacy-password-4'], algorithm: 'md5' },
  ])('has processors, memory, file systems and ports by %o', async (as) => {
    const { gear, readings, counters } = await found(as)
    expect(gear).toHaveLength(1)
    expect(gear[0]).toMatchObject({ kind: 'host', name: 'skerry-01' })
    const kinds = new Map<string, number>()
    for (const { kind } of gear[0]!.parts) kinds.set(kind, (kinds.get(kind) ?? 0) + 1)
    expect(kinds.get('processor')).toBe(cpus().length)
    expect(kinds.get('filesystem')).toBeGreaterThanOrEqual(1)
    expect(kinds.get('port')).toBeGreaterThanOrEqual(1)
    const own = (measure: string) =>
      readings.find((each) => each.part === null && each.measure === measure)?.value
    expect(own('system.memory.limit')! / totalmem()).toBeCloseTo(1, 1)
    expect(own('system.memory.utilization')).toBeGreaterThan(0)
    expect(own('system.memory.utilization')).toBeLessThan(1)
    const disks = readings.filter((each) => each.measure === 'system.filesystem.utilization')
    for (const { value } of disks) {
      expect(value).toBeGreaterThanOrEqual(0)
      expect(value).toBeLessThanOrEqual(1)
    }
    expect(counters!.length).toBeGreaterThan(0)
  })

  test('counts what goes over loopback: the rate is what was sent', async () => {
    const rates = new Rates()
    const loopback = async (): Promise<{ rate: number | null; atMs: number }> => {
      const atMs = Date.now()
      const settled = rates.settle(1, atMs, await found({ community: 'reads-only' }))
      const part = settled.gear[0]!.parts.find((each) => each.name === 'lo')!.key
      const reading = settled.readings.find(
        (each) => each.part === part && each.measure === 'hw.network.io.receive',
      )
      return { rate: reading!.value, atMs }
    }
    const first = await loopback()
    expect(first.rate).toBeNull()
    await sendOverLoopback(MEGABYTES)
    // The agent keeps its table of ports for some seconds.
    await pause(5000)
    const second = await loopback()
    const megabytes = (second.rate! * (second.atMs - first.atMs)) / 1e9
    expect(megabytes).toBeGreaterThan(MEGABYTES)
    expect(megabytes).toBeLessThan(5 * MEGABYTES)
  }, 30_000)

  test.each<{ what: string; as: As; says: RegExp }>([
    {
      what: 'a community that it does not know',
      as: { community: 'guessed' },
      says: /says nothing to this community/,
    },
    {
      what: 'a user that it does not know',
      as: { user: ['nobody', READER[1], READER[2]] },
      says: /not known there/,
    },
    {
      what: 'a wrong authentication password',
      as: { user: [READER[0], 'not-the-right-one', READER[2]] },
      says: /The authentication password, or its algorithm/,
    },
    {
      what: 'another authentication algorithm',
      as: { user: READER, algorithm: 'sha512' },
      says: /The authentication password, or its algorithm/,
    },
    {
      what: 'a wrong privacy password',
      as: { user: [READER[0], READER[1], 'not-the-right-one'] },
      says: /The privacy password, or its algorithm/,
    },
    {
      what: 'a user without privacy, where it is to be encrypted',
      as: { user: ['signing', 'authentication-3', ''], algorithm: 'sha' },
      says: /was not asked: what is said is to be encrypted/,
    },
    {
      what: 'a user who may see next to nothing',
      as: { user: ['narrow', READER[1], READER[2]] },
      says: /may not read what is asked below 1\.3\.6\.1\.2\.1/,
    },
  ])('says of $what what it is', async ({ as, says }) => {
    const { failure, findings } = await check(as)
    expect(
      failure === null
        ? `found ${JSON.stringify(findings?.gear[0]?.parts.length)}`
        : failureSentence(failure),
    ).toMatch(says)
  })
})

describe('an OpenTelemetry SDK that pushes', () => {
  let server: Server
  let url: string
  const taken: Moment[] = []
  beforeAll(async () => {
    const port = await freePort()
    url = `http://127.0.0.1:${port}/v1/metrics`
    server = await startReceiver(
      { port },
      {
        sourceOf: (token) => (token === 'of-the-sdk' ? 1 : null),
        wait: () => Promise.resolve('refused'),
        beat: () => Promise.resolve(false),
        turnedAway: () => undefined,
        claimedBy: () => null,
        take: (_, moments) => {
          taken.push(...moments)
          return Promise.resolve()
        },
        failed: () => Promise.resolve(),
      },
    )
  })
  afterAll(() => {
    server.close()
    server.closeAllConnections()
  })

  /** What arrives of every kind of instrument, at the first and the second export. */
  async function push(
    exporter: typeof JsonExporter | typeof ProtobufExporter,
    rest: { temporality: AggregationTemporality; isSqueezed: boolean },
  ): Promise<Moment[]> {
    taken.length = 0
    const reader = new PeriodicExportingMetricReader({
      exportIntervalMillis: 3_600_000,
      exporter: new exporter({
        url,
        headers: { authorization: 'Bearer of-the-sdk' },
        temporalityPreference: rest.temporality as number,
        ...(rest.isSqueezed ? { compression: 'gzip' as never } : {}),
      }),
    })
    const provider = new MeterProvider({
      resource: resourceFromAttributes({ 'host.name': 'skerry-02', 'service.name': 'made-up' }),
      readers: [reader],
    })
    const meter = provider.getMeter('peer')
    const port = { 'network.interface.name': 'eth0', 'network.io.direction': 'receive' }
    const octets = meter.createCounter('system.network.io', { unit: 'By' })
    const memory = meter.createUpDownCounter('system.memory.usage', { unit: 'By' })
    const temperature = meter.createObservableGauge('hw.temperature', { unit: 'Cel' })
    temperature.addCallback((result) => result.observe(41.5, { 'hw.id': 't1', 'hw.type': 'temperature' }))
    meter.createHistogram('http.server.request.duration', { unit: 's' }).record(0.2)
    const volts = meter.createHistogram('hw.voltage', { unit: 'V' })
    const supply = { 'hw.id': 'psu1', 'hw.type': 'power_supply' }
    volts.record(100, supply)
    octets.add(5000, port)
    memory.add(6_000_000_000, { 'system.memory.state': 'used' })
    await provider.forceFlush()
    await pause(1000)
    octets.add(7000, port)
    volts.record(228, supply)
    volts.record(232, supply)
    await provider.forceFlush()
    await provider.shutdown()
    return taken
  }

  test.each([
    {
      what: 'protobuf, cumulative',
      exporter: ProtobufExporter,
      temporality: AggregationTemporality.CUMULATIVE,
      isSqueezed: false,
    },
    {
      what: 'protobuf with gzip, delta',
      exporter: ProtobufExporter,
      temporality: AggregationTemporality.DELTA,
      isSqueezed: true,
    },
    {
      what: 'JSON, cumulative',
      exporter: JsonExporter,
      temporality: AggregationTemporality.CUMULATIVE,
      isSqueezed: true,
    },
    {
      what: 'JSON, delta',
      exporter: JsonExporter,
      temporality: AggregationTemporality.DELTA,
      isSqueezed: false,
    },
  ])(
    'as $what: gauges as they are, counts as rates, distributions as means',
    async ({ exporter, ...rest }) => {
      const rates = new Rates()
      const moments = await push(exporter, rest)
      expect(moments.length).toBeGreaterThanOrEqual(2)
      const settled = moments.map(({ atMs, findings }) => rates.settle(1, atMs, findings))
      const values = (measure: string) =>
        settled.map(({ readings }) => readings.find((each) => each.measure === measure)?.value ?? null)
      expect(settled[0]!.gear).toMatchObject([{ kind: 'host', name: 'skerry-02' }])
      expect(values('hw.temperature')[0]).toBe(41.5)
      const isDelta = rest.temporality === AggregationTemporality.DELTA
      // An up-down counter is cumulative by either preference, or its level could not be known.
      if (!isDelta) expect(values('system.memory.usage')[0]).toBe(6_000_000_000)
      // Of a distribution the mean of what came in between.
      expect(values('hw.voltage')[1]).toBe(230)
      const rate = values('hw.network.io.receive')[1]
      expect(rate).toBeGreaterThan(7000 / 2.5)
      expect(rate).toBeLessThan(7000 / 0.9)
    },
  )
})

describe('A stock Modbus server', () => {
  test('registers and bits by a map, and what it has not', async () => {
    const { server: servers } = await import('jsmodbus')
    const sockets = createServer()
    const bank = new servers.TCP(sockets, {
      holding: Buffer.alloc(200),
      input: Buffer.alloc(200),
      coils: Buffer.alloc(20),
      discrete: Buffer.alloc(20),
    })
    await new Promise<void>((resolve) => sockets.listen(0, '127.0.0.1', resolve))
    const { port: own } = sockets.address() as AddressInfo
    bank.input.writeFloatBE(231.5, 0)
    bank.input.writeInt16BE(-55, 2 * 40)
    bank.holding.writeBigUInt64BE(123_456n, 2 * 70)
    bank.discrete[0] = 0b100
    const line = {
      order: 'ABCD',
      bit: 0,
      part: '',
      partKind: 'sensor',
      scale: 1,
      offset: 0,
      none: null,
      states: null,
    }
    const lines = [
      { ...line, table: 'input', address: 0, type: 'f32', measure: 'hw.voltage' },
      { ...line, table: 'input', address: 40, type: 's16', measure: 'hw.temperature', scale: 0.1 },
      { ...line, table: 'holding', address: 70, type: 'u64', measure: 'hw.energy', scale: 0.001 },
      { ...line, table: 'discrete', address: 2, type: 'bit', measure: 'hw.door' },
    ]
    const asked = (all: readonly object[]) =>
      runCheck({
        driver: modbus,
        target: {
          address: `127.0.0.1:${own}`,
          settings: { map: { kind: 'meter', lines: all } },
          secret: {},
        },
        timeoutMs: 2000,
        tell: () => undefined,
      })
    try {
      const { findings } = await asked(lines)
      expect(findings!.readings.map(({ measure, value }) => [measure, value])).toEqual([
        ['hw.voltage', 231.5],
        ['hw.temperature', -5.5],
        ['hw.energy', 123.456],
        ['hw.door', 1],
      ])
      // Beyond its end this server answers with nothing instead of an exception.
      const { failure } = await asked([{ ...lines[0], address: 60_000 }])
      expect(failureSentence(failure!)).toMatch(/it has 0 octets of values, not 4/)
    } finally {
      sockets.close()
    }
  })
})
