import { existsSync } from 'node:fs'
import { createServer as createPlainServer, type RequestListener } from 'node:http'
import { createServer as createTlsServer } from 'node:https'
import { createServer as createTcpServer } from 'node:net'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { failureSentence, type StageReport } from '#core/sources'
import { type CheckResult, runCheck } from '#protocols/check'
import { reachability } from '#protocols/reachability'
import { freePorts } from '../bin/setup/postgres.mjs'
import { newAuthority, newServerCertificate } from './redfish/authority.ts'
import { openFullPort } from './testing/fullPort.ts'

// A service is asked whether it is reached: of sockets that answer, refuse, drop, or speak something else.

const PORTS = { plain: 0, mail: 1, page: 2, noService: 3, full: 4, nothing: 5 } as const
const BASE = await freePorts(Object.keys(PORTS).length)
const at = (port: keyof typeof PORTS): number => BASE + PORTS[port]
const closers: (() => unknown)[] = []
let authorityPem = ''

beforeAll(async () => {
  const now = Date.now()
  const authority = await newAuthority('Breakwater authority', now)
  const certificate = await newServerCertificate(authority, 'petrel-07', now)
  authorityPem = authority.certificatePem
  const overTls = (port: keyof typeof PORTS, handler: RequestListener): Promise<void> => {
    const server = createTlsServer({ cert: certificate.certificatePem, key: certificate.keyPem }, handler)
    closers.push(() => {
      server.close()
      server.closeAllConnections()
    })
    return new Promise((resolve) => server.listen(at(port), '127.0.0.1', resolve))
  }
  await overTls('page', (_, response) => {
    response.writeHead(200, { 'content-type': 'text/html' })
    response.end('<!doctype html><title>Printer</title>')
  })
  await overTls('noService', (_, response) => response.writeHead(404).end())
  const plain = createPlainServer((_, response) => response.end('hello')).listen(at('plain'), '127.0.0.1')
  const mail = createTcpServer((socket) => {
    socket.on('error', () => undefined)
    socket.end('220 mail here\r\n')
  }).listen(at('mail'), '127.0.0.1')
  closers.push(
    () => plain.close(),
    () => mail.close(),
    await openFullPort(at('full')),
  )
})
afterAll(() => closers.forEach((close) => close()))

const service = (address: string, trusted: string | null = null) => ({
  driver: reachability,
  target: { address, settings: { authorityPem: trusted }, secret: {} },
})
const check = (subject: ReturnType<typeof service>): Promise<CheckResult> =>
  runCheck({ ...subject, timeoutMs: 1200, tell: () => undefined })
const stage = ({ stages }: CheckResult, name: StageReport['stage']): StageReport =>
  stages.find((each) => each.stage === name)!

const readings = async (subject: ReturnType<typeof service>) => {
  const outcome = await subject.driver.collect({ target: subject.target, timeoutMs: 1200 })
  if (outcome.kind === 'failed') throw new Error(failureSentence(outcome.failure))
  const value = (measure: string) => outcome.found.readings.find((each) => each.measure === measure)?.value
  return { value, facts: outcome.found.gear[0]!.facts }
}
test.each([
  { name: 'TCP', address: () => `tcp://127.0.0.1:${at('mail')}`, reached: 1 },
  { name: 'HTTP', address: () => `http://127.0.0.1:${at('plain')}/`, reached: 1 },
  { name: 'TCP, refused', address: () => `tcp://127.0.0.1:${at('nothing')}`, reached: 0 },
  { name: 'TCP, dropped', address: () => `tcp://127.0.0.1:${at('full')}`, reached: 0 },
  { name: 'HTTP to a port of TLS', address: () => `http://127.0.0.1:${at('page')}/`, reached: 0 },
  {
    name: 'HTTPS with a certificate that is not trusted',
    address: () => `https://127.0.0.1:${at('page')}/`,
    reached: 0,
  },
  {
    name: 'HTTPS with status 404',
    address: () => `https://127.0.0.1:${at('noService')}/x`,
    reached: 0,
    trusts: true,
  },
])('$name', async ({ address, reached, trusts }) => {
  const { value, facts } = await readings(service(address(), trusts === true ? authorityPem : null))
  expect(value('net.reachable')).toBe(reached)
  if (reached === 1) expect(value('net.response_time')).toBeGreaterThan(0)
  else {
    expect(value('net.response_time')).toBeNull()
    expect(facts['why']).toMatch(/127\.0\.0\.1/)
  }
})
test('HTTP to a port of another protocol, with what that says', async () => {
  const { facts } = await readings(service(`http://127.0.0.1:${at('mail')}/`))
  expect(facts['why']).toMatch(/something else than HTTP: “220 mail here”/)
})
test('HTTPS that is trusted, with the days that its certificate has left', async () => {
  const { value } = await readings(service(`https://127.0.0.1:${at('page')}/`, authorityPem))
  expect(value('net.reachable')).toBe(1)
  expect(value('net.certificate.days_left')).toBeGreaterThan(700)
})
test.skipIf(!existsSync('/usr/bin/ping'))('ICMP echo', async () => {
  const { value } = await readings(service('icmp://127.0.0.1'))
  expect([value('net.reachable'), value('net.loss')]).toEqual([1, 0])
  expect(value('net.response_time')).toBeGreaterThanOrEqual(0)
  const result = await check(service('icmp://127.0.0.1'))
  expect(result.failure).toBeNull()
  expect(stage(result, 'port')).toMatchObject({ state: 'passed', sent: 'ICMP echo to 127.0.0.1' })
  // An address that is an option to the program is no option.
  expect((await check(service('icmp://-f'))).failure?.kind).toMatch(/unknownName/)
})
test('the staged check of one needs no credential; of TLS asked plainly it says so', async () => {
  const result = await check(service(`tcp://127.0.0.1:${at('mail')}`))
  expect(result.failure).toBeNull()
  expect(stage(result, 'credential').state).toBe('notNeeded')
  expect(stage(result, 'found').said).toMatch(/^1 service; 2 readings/)
  const outcome = await reachability.collect({
    target: service(`http://127.0.0.1:${at('page')}/`).target,
    timeoutMs: 1200,
  })
  expect(outcome.kind === 'found' && outcome.found.gear[0]!.facts['why']).toMatch(/speaks nothing but TLS/)
})
