import { createServer as createPlainServer } from 'node:http'
import { type AddressInfo, createServer as createTcpServer } from 'node:net'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { recognise } from '#protocols/recognise'
import { freePorts } from '../bin/setup/postgres.mjs'
import { startCoolingUnit } from './cooling/server.ts'
import { NO_JOURNAL } from './journal.ts'
import { SimCooling } from './model/cooling.ts'
import { SimServer } from './model/server.ts'
import { SimUps } from './model/ups.ts'
import { newAuthority, newServerCertificate } from './redfish/authority.ts'
import { startController } from './redfish/server.ts'
import { CONTROLLER_ACCOUNT, COOLING, SERVERS, UPS_COMMUNITY, UPS_USER, UPSES } from './site/index.ts'
import { startUpsAgent } from './ups/agent.ts'

// What answers at an address, by real sockets.

const closers: (() => unknown)[] = []
let base: number
let mail: number
let metrics: number
const heard: string[] = []

beforeAll(async () => {
  base = await freePorts(4)
  const authority = await newAuthority('Breakwater authority', Date.now())
  const controller = await startController({
    server: new SimServer(SERVERS[2]!),
    port: base,
    certificate: await newServerCertificate(authority, 'petrel-07', Date.now()),
    account: CONTROLLER_ACCOUNT,
    journal: NO_JOURNAL,
  })
  const unit = await startCoolingUnit({ cooling: new SimCooling(COOLING), port: base + 1 })
  const agent = startUpsAgent({
    ups: new SimUps(UPSES[0]!, Date.now()),
    port: base + 2,
    community: UPS_COMMUNITY,
    user: UPS_USER,
  })
  const talker = createTcpServer((socket) => {
    socket.on('error', () => undefined)
    socket.end('220 mail here\r\n')
  }).listen(0, '127.0.0.1')
  const told = createPlainServer((request, response) => {
    heard.push(`${request.url} ${request.headers.authorization ?? 'without credential'}`)
    response.writeHead(200, { 'content-type': 'text/plain; version=0.0.4; charset=utf-8' })
    response.end('inlet_celsius 21\n')
  }).listen(0, '127.0.0.1')
  await new Promise((resolve) => told.once('listening', resolve))
  mail = (talker.address() as AddressInfo).port
  metrics = (told.address() as AddressInfo).port
  closers.push(
    () => (controller.close(), controller.closeAllConnections()),
    () => unit.close(),
    () => agent.close(),
    () => talker.close(),
    () => (told.close(), told.closeAllConnections()),
  )
})
afterAll(() => closers.forEach((close) => close()))

const look = (credentials: Parameters<typeof recognise>[2], tcp: readonly number[]) =>
  recognise('127.0.0.1', { tcp, udp: [base + 2, base + 3] }, credentials)

test('each is known by what it answers, and nothing by nothing', async () => {
  const found = await look(
    [
      { id: 4, kind: 'snmp-v2c', secret: { community: 'guessed' } },
      { id: 5, kind: 'snmp-v2c', secret: { community: UPS_COMMUNITY } },
      { id: 6, kind: 'basic', secret: CONTROLLER_ACCOUNT },
    ],
    [base, base + 1, mail, metrics, base + 3],
  )
  expect(found.map(({ protocol, address, credentialId }) => [protocol, address, credentialId])).toEqual([
    ['redfish', `https://127.0.0.1:${base}`, null],
    ['modbus', `127.0.0.1:${base + 1}`, null],
    ['reach', `tcp://127.0.0.1:${mail}`, null],
    ['openmetrics', `http://127.0.0.1:${metrics}/metrics`, null],
    ['snmp', `127.0.0.1:${base + 2}`, 5],
  ])
  expect(found[0]!.said).toMatch(/^Redfish 1\.\d/)
  expect(found[2]!.said).toBe('it says “220 mail here”')
  expect(found[4]).toMatchObject({ settings: { version: 'v2c' } })
  expect(found[4]!.said).toContain('harbour-A')
  // No user and no password goes anywhere.
  expect(heard).toContain('/metrics without credential')
  expect(heard.filter((each) => !each.endsWith('without credential'))).toEqual([])
})
test('a v3 user is recognised with its algorithms; without a right credential that is said', async () => {
  const user = await look([{ id: 7, kind: 'snmp-v3', secret: UPS_USER }], [])
  expect(user.find((each) => each.protocol === 'snmp')).toMatchObject({
    credentialId: 7,
    settings: { version: 'v3', authentication: 'sha256' },
  })
  const wrong = await look([{ id: 8, kind: 'snmp-v2c', secret: { community: 'guessed' } }], [])
  expect(wrong.find((each) => each.protocol === 'snmp')).toMatchObject({
    credentialId: null,
    said: 'SNMP; it takes none of the credentials',
  })
})
