import { execFile } from 'node:child_process'
import { chmodSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import type { Server } from 'node:http'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest'
import type { Failure } from '#core/sources'
import type { Moment } from '#protocols/otlp'
import { freePort } from '../../bin/setup/postgres.mjs'
import { startReceiver } from './receiver.ts'

// The script for hosts as it is shipped, run by the system's shell, against the real receiver.

const run = promisify(execFile)
const SCRIPT = join(import.meta.dirname, '../../hosts/tell.sh')
const TOKEN = 'a-token-of-this-host-alone'
const folder = mkdtempSync(join(tmpdir(), 'rack-host-'))
const root = join(folder, 'root')
let port: number
let server: Server
let pushed: Moment[] = []
let tokens: string[] = []
const failures: Failure[] = []

const put = (path: string, body: string | Uint8Array): void => {
  mkdirSync(dirname(join(folder, path)), { recursive: true })
  writeFileSync(join(folder, path), body)
}
const program = (name: string, body: string): void => {
  put(`bin/${name}`, `#!/bin/sh\n${body}\n`)
  chmodSync(join(folder, 'bin', name), 0o755)
}

beforeAll(async () => {
  port = await freePort()
  server = await startReceiver(
    { port },
    {
      sourceOf: (token) => (tokens.push(token), 1),
      beat: () => Promise.resolve(false),
      turnedAway: () => undefined,
      claimedBy: () => null,
      wait: () => Promise.resolve('refused'),
      take: (_, moments) => (pushed.push(...moments), Promise.resolve()),
      failed: (_, failure) => (failures.push(failure), Promise.resolve()),
    },
  )
  put('token', `${TOKEN}\n`)
  put('root/proc/sys/kernel/hostname', 'skerry-02\n')
  put('root/proc/uptime', '86400.50 100.00\n')
  put('root/proc/stat', 'cpu  100 0 100 700 100 0 0 0 0 0\n')
  put('root/proc/meminfo', 'MemTotal: 1000 kB\nMemAvailable: 250 kB\nSwapTotal: 0 kB\nSwapFree: 0 kB\n')
  put(
    'root/proc/net/dev',
    'Inter-|   Receive\n face |bytes\n    lo: 5 0 0 0 0 0 0 0 5 0 0 0 0 0 0 0\n  eth0:1234 1 0 0 0 0 0 0 5678 1 0 0 0 0 0 0\n',
  )
  put('root/etc/os-release', 'PRETTY_NAME="Skerry \\"Linux\\" 4"\n')
  put('root/sys/class/dmi/id/product_uuid', '6F1C2A4E-0B7D-4C55-9E10-000000000719\n')
  put('root/sys/class/dmi/id/product_serial', 'NV24-00719\n')
  put('root/sys/class/nvme/nvme0/model', 'Aldermoor N4 960 \n')
  put('root/sys/class/nvme/nvme0/serial', 'AM-77\n')
  put('root/sys/block/sda/device/model', 'Aldermoor S2\n')
  put('root/sys/block/sda/device/vpd_pg80', Buffer.from('00800008414d2d3838202020', 'hex'))
  const health = new Uint8Array(512)
  health.set([0, 0x3b, 0x01, 100, 10, 18])
  put('pages/nvme', health)
  const smart = new Uint8Array(512)
  smart.set([5, 0x33, 0, 100, 100, 7], 2)
  smart[511] = 256 - (smart.reduce((sum, octet) => sum + octet, 0) % 256)
  put('pages/ata', smart)
  program('nvme', `cat ${folder}/pages/nvme`)
  program('sg_raw', `case "$*" in *" d0 "*) cp ${folder}/pages/ata "$2" ;; *) exit 5 ;; esac`)
})
afterAll(() => {
  server.close()
  server.closeAllConnections()
  rmSync(folder, { recursive: true, force: true })
})
beforeEach(() => {
  pushed = []
  tokens = []
})

const tell = (more: Record<string, string> = {}) =>
  run('/bin/sh', [SCRIPT], {
    env: {
      PATH: `${join(folder, 'bin')}:${process.env['PATH'] ?? ''}`,
      RACK_ROOT: root,
      RACK_URL: `http://127.0.0.1:${port}`,
      RACK_TOKEN_FILE: join(folder, 'token'),
      ...more,
    },
  })

test('what a host tells of itself and of its drives', async () => {
  put('state', '400 300\n')
  await tell({ RACK_STATE: join(folder, 'state') })
  expect([tokens, failures]).toEqual([[TOKEN], []])
  const [{ findings }] = pushed as [Moment]
  expect(findings.gear[0]).toMatchObject({
    key: '6f1c2a4e-0b7d-4c55-9e10-000000000719',
    kind: 'host',
    name: 'skerry-02',
    identities: [
      { kind: 'uuid', value: '6f1c2a4e-0b7d-4c55-9e10-000000000719' },
      { kind: 'serial', value: 'NV24-00719' },
    ],
    facts: { system: 'Skerry \\Linux\\ 4' },
  })
  const value = (measure: string, part: string | null = null) =>
    findings.readings.find((each) => each.measure === measure && each.part === part)?.value
  // Of 600 ticks since the last run 500 were idle or waited.
  expect(value('system.cpu.utilization')).toBeCloseTo(1 - 500 / 600, 3)
  expect(value('system.memory.utilization')).toBe(0.75)
  expect(value('system.uptime')).toBe(86_400.5)
  expect(value('system.filesystem.limit', 'filesystem /')).toBeGreaterThan(1e9)
  expect(value('hw.temperature', 'drive nvme0')).toBe(42)
  expect(value('hw.drive.life_left', 'drive nvme0')).toBe(0.82)
  expect(value('hw.drive.reallocated', 'drive sda')).toBe(7)
  expect(findings.gear[0]!.parts.filter((part) => part.kind === 'drive').map(({ facts }) => facts)).toEqual([
    { model: 'Aldermoor N4 960', serial: 'AM-77' },
    { model: 'Aldermoor S2', serial: 'AM-88' },
  ])
  expect(findings.counters?.map(({ measure, part, value: count }) => [measure, part, count])).toEqual([
    ['hw.network.io.receive', 'port eth0', '1234'],
    ['hw.network.io.transmit', 'port eth0', '5678'],
  ])
})
test('a page that cannot be one is refused with its drive, and the script says so', async () => {
  put('pages/ata', new Uint8Array(512).fill(7, 1))
  await expect(tell()).rejects.toMatchObject({
    stderr: expect.stringMatching(/did not take it.*drive sda: .*checksum/) as string,
  })
  put('pages/ata', new Uint8Array(100))
  await tell()
  expect(pushed[0]!.findings.gear[0]!.parts.map(({ key }) => key)).not.toContain('drive sda')
}, 20_000)
test('a file system is as full as its own tool says: what is reserved is neither used nor free', async () => {
  put('tools/df', '#!/bin/sh\necho head\necho "/dev/sda1 264212084 25804148 80586764 25% /"\n')
  chmodSync(join(folder, 'tools/df'), 0o755)
  await tell({ PATH: `${join(folder, 'tools')}:${join(folder, 'bin')}:${process.env['PATH'] ?? ''}` })
  const full = pushed[0]!.findings.readings.find(({ measure }) => measure === 'system.filesystem.utilization')
  expect(full?.value).toBeCloseTo(0.2425, 3)
})
test('drives that nothing can be told of are said, and the rest is told', async () => {
  for (const tool of [
    'awk',
    'base64',
    'df',
    'curl',
    'date',
    'head',
    'tr',
    'sed',
    'cat',
    'rm',
    'mktemp',
    'sleep',
    'wc',
    'sh',
  ]) {
    const { stdout } = await run('sh', ['-c', `command -v ${tool}`])
    mkdirSync(join(folder, 'few'), { recursive: true })
    symlinkSync(stdout.trim(), join(folder, 'few', tool))
  }
  const { stderr } = await tell({ PATH: join(folder, 'few') })
  expect(stderr).toContain('nvme is not here, so the health of nvme0 is not told; install nvme-cli')
  expect(stderr).toContain('sg_raw is not here, so the health of sda is not told; install sg3-utils')
  expect(pushed[0]!.findings.gear[0]!.name).toBe('skerry-02')
})
test('what is missing is said', async () => {
  await expect(tell({ RACK_URL: '' })).rejects.toMatchObject({
    stderr: expect.stringMatching(/set RACK_URL/) as string,
  })
  await expect(tell({ RACK_TOKEN_FILE: '/nowhere' })).rejects.toMatchObject({
    stderr: expect.stringMatching(/RACK_TOKEN_FILE/) as string,
  })
  await expect(tell({ RACK_URL: 'http://127.0.0.1:1' })).rejects.toMatchObject({
    stderr: expect.stringMatching(/did not take it/) as string,
  })
}, 20_000)
