import { execFile } from 'node:child_process'
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import type { Server } from 'node:https'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { Agent, request } from 'undici'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { failureSentence, whatMends } from '#core/sources'
import { redfish } from '#protocols/redfish'
import { freePorts } from '../../bin/setup/postgres.mjs'
import { NO_JOURNAL } from '../journal.ts'
import { simulatedSite } from '../model/site.ts'
import { CONTROLLER_ACCOUNT } from '../site/index.ts'
import { arrayDocument } from './arrayDocuments.ts'
import { newAuthority, newServerCertificate, type Pair } from './authority.ts'
import { chassisDocument } from './chassisDocuments.ts'
import { redfishDocument } from './documents.ts'
import { pduDocument } from './pduDocuments.ts'
import { startService } from './server.ts'

const site = simulatedSite(Date.now())
const [server] = site.servers
const [array] = site.arrays
const [pdu] = site.pdus
const SERVICES = [
  { sim: server!, document: (path: string, atMs: number) => redfishDocument(server!, path, atMs) },
  { sim: site.chassis, document: (path: string, atMs: number) => chassisDocument(site.chassis, path, atMs) },
  { sim: array!, document: (path: string, atMs: number) => arrayDocument(array!, path, atMs) },
  { sim: pdu!, document: (path: string, atMs: number) => pduDocument(pdu!, path, atMs) },
]
const base = await freePorts(SERVICES.length)
const folder = mkdtempSync(join(tmpdir(), 'rack-redfish-'))
const servers: Server[] = []
let authority: Pair
let agent: Agent

beforeAll(async () => {
  authority = await newAuthority('test authority', Date.now())
  agent = new Agent({ connect: { ca: authority.certificatePem } })
  for (const [index, { sim, document }] of SERVICES.entries())
    servers.push(
      await startService({
        name: sim.spec.name,
        faults: sim.faults,
        document,
        port: base + index,
        certificate: await newServerCertificate(authority, sim.spec.name, Date.now()),
        account: CONTROLLER_ACCOUNT,
        journal: NO_JOURNAL,
      }),
    )
})
afterAll(async () => {
  await agent.close()
  for (const each of servers) {
    each.close()
    each.closeAllConnections()
  }
  rmSync(folder, { recursive: true })
})

type Body = Readonly<Record<string, unknown>>
const { username, password } = CONTROLLER_ACCOUNT
const basic = { authorization: `Basic ${Buffer.from(`${username}:${password}`).toString('base64')}` }

async function ask(index: number, path: string, headers: Record<string, string> = basic, how = {}) {
  const reply = await request(`https://127.0.0.1:${base + index}${path}`, {
    dispatcher: agent,
    headers,
    ...how,
  })
  return { status: reply.statusCode, headers: reply.headers, text: await reply.body.text() }
}

/** Every link in a document to another: those of a resource within one are its own. */
const linksIn = (value: unknown): string[] =>
  Array.isArray(value)
    ? value.flatMap(linksIn)
    : typeof value === 'object' && value !== null
      ? Object.entries(value).flatMap(([key, each]) =>
          key === '@odata.id' && typeof each === 'string' && !each.includes('#') ? [each] : linksIn(each),
        )
      : []

/** What the schemas of DMTF (DSP8010) require beside id, type and name; `null` of collections. */
const REQUIRED: Readonly<Record<string, readonly string[]>> = {
  ServiceRoot: ['Links'],
  Chassis: ['ChassisType'],
  PowerDistribution: ['EquipmentType'],
}
/** `Chassis.ChassisType`, as far as it occurs here. */
const CHASSIS_TYPES = ['RackMount', 'Blade', 'Enclosure', 'StorageEnclosure']
const REFERABLE = ['Temperatures', 'Fans', 'PowerControl', 'PowerSupplies']

/** What is wrong with a resource, in words. */
function faultsOf(path: string, body: Body): string[] {
  const faults: string[] = []
  const type = /^#(\w+)\.(?:(v\d+_\d+_\d+)\.)?(\w+)$/.exec(String(body['@odata.type'] ?? ''))
  const isCollection = type?.[1]?.endsWith('Collection') === true
  if (type === null) faults.push('no type')
  if (!isCollection && type?.[2] === undefined) faults.push('a type without version')
  if (body['@odata.id'] !== path) faults.push(`another address: ${String(body['@odata.id'])}`)
  if (typeof body['Name'] !== 'string' || body['Name'] === '') faults.push('no name')
  if (isCollection) {
    const list = body['Members']
    if (!Array.isArray(list) || list.length !== body['Members@odata.count']) faults.push('a wrong count')
  } else if (typeof body['Id'] !== 'string') faults.push('no id')
  for (const key of REQUIRED[type?.[1] ?? ''] ?? []) if (body[key] === undefined) faults.push(`no ${key}`)
  if (body['ChassisType'] !== undefined && !CHASSIS_TYPES.includes(String(body['ChassisType'])))
    faults.push(`an unknown type of chassis`)
  for (const key of REFERABLE)
    for (const each of (body[key] ?? []) as Body[])
      if (typeof each['MemberId'] !== 'string' || !String(each['@odata.id']).startsWith(`${path}#/${key}/`))
        faults.push(`a member of ${key} without address or id`)
  return faults
}

describe.each(SERVICES.map(({ sim }, index) => [sim.spec.name, index] as const))('%s', (_, index) => {
  test('every resource that can be reached is as the standard requires', async () => {
    const metadata = await ask(index, '/redfish/v1/$metadata', {})
    expect([metadata.status, metadata.headers['content-type']]).toEqual([
      200,
      'application/xml;charset=utf-8',
    ])
    const open = ['/redfish/v1/']
    const seen = new Set(open)
    for (let path = open.shift(); path !== undefined; path = open.shift()) {
      const { status, headers, text } = await ask(index, path)
      expect([path, status, headers['odata-version']]).toEqual([path, 200, '4.0'])
      const body = JSON.parse(text) as Body
      expect([path, faultsOf(path, body)]).toEqual([path, []])
      const namespace = /^#(.+)\.\w+$/.exec(String(body['@odata.type']))![1]!
      expect(metadata.text).toContain(`Namespace="${namespace}"`)
      for (const link of linksIn(body))
        if (!seen.has(link)) {
          seen.add(link)
          open.push(link)
        }
    }
    expect(seen.size).toBeGreaterThan(15)
  })
  test('what is open is open, and nothing else', async () => {
    for (const path of ['/redfish', '/redfish/v1', '/redfish/v1/', '/redfish/v1/odata'])
      expect([path, (await ask(index, path, {})).status]).toEqual([path, 200])
    expect(JSON.parse((await ask(index, '/redfish', {})).text)).toEqual({ v1: '/redfish/v1/' })
    for (const path of ['/redfish/v1/Managers', '/redfish/v1/SessionService/Sessions']) {
      const { status, headers, text } = await ask(index, path, {})
      expect([status, headers['www-authenticate']]).toEqual([401, 'Basic realm="Redfish"'])
      expect(JSON.parse(text)).toHaveProperty(['error', '@Message.ExtendedInfo', 0, 'MessageId'])
    }
    expect((await ask(index, '/redfish/v1/Nowhere')).status).toBe(404)
    expect((await ask(index, '/redfish/v1/', basic, { method: 'PUT' })).status).toBe(405)
  })
})

const readServer = (signIn: 'basic' | 'session', secret: { username: string; password: string }) =>
  redfish.collect({
    target: {
      address: `https://127.0.0.1:${base}`,
      settings: { authorityPem: authority.certificatePem, signIn },
      secret,
    },
    timeoutMs: 5000,
  })
const openSessions = async (): Promise<number> =>
  (
    JSON.parse((await ask(0, '/redfish/v1/SessionService/Sessions')).text) as {
      'Members@odata.count': number
    }
  )['Members@odata.count']

describe('a session', () => {
  test('is made for a reading and ended after it: a controller has few', async () => {
    for (let reading = 0; reading < 20; reading += 1)
      expect((await readServer('session', CONTROLLER_ACCOUNT)).kind).toBe('found')
    expect(await openSessions()).toBe(0)
  })
  test('brings the same as basic authentication', async () => {
    const shape = async (how: 'basic' | 'session') => {
      const outcome = await readServer(how, CONTROLLER_ACCOUNT)
      return outcome.kind === 'found' ? [outcome.found.gear, outcome.found.readings.length] : outcome
    }
    expect(await shape('session')).toEqual(await shape('basic'))
  })
  test('is ended, too, where the reading fails', async () => {
    server!.faults.cause('deny', null, Date.now())
    try {
      expect(await readServer('session', CONTROLLER_ACCOUNT)).toMatchObject({ kind: 'failed' })
    } finally {
      server!.faults.mend()
    }
    expect(await openSessions()).toBe(0)
  })
  test('a wrong password is said to be one', async () => {
    const outcome = await readServer('session', { username, password: 'no' })
    expect(outcome).toMatchObject({ kind: 'failed', failure: { kind: 'credentialsRefused' } })
  })
  test('where there are none left, the sentence says what came back', async () => {
    const tokens: string[] = []
    const body = JSON.stringify({ UserName: username, Password: password })
    for (let count = 0; count < 8; count += 1) {
      const made = await ask(0, '/redfish/v1/SessionService/Sessions', {}, { method: 'POST', body })
      expect(made.status).toBe(201)
      tokens.push(`${String(made.headers['x-auth-token'])} ${String(made.headers['location'])}`)
    }
    const outcome = await readServer('session', CONTROLLER_ACCOUNT)
    expect(outcome.kind === 'failed' && failureSentence(outcome.failure)).toContain('HTTP 503')
    for (const each of tokens) {
      const [token = '', location = ''] = each.split(' ')
      const headers = { 'x-auth-token': token }
      expect((await ask(0, location, headers, { method: 'DELETE' })).status).toBe(204)
      expect((await ask(0, location, headers)).status).toBe(401)
    }
  })
  test('a controller that takes nothing else is read by it, and basic says that it may be so', async () => {
    server!.faults.cause('sessions-only', null, Date.now())
    try {
      const refused = await readServer('basic', CONTROLLER_ACCOUNT)
      expect(refused.kind === 'failed' && whatMends(refused.failure)).toContain('sessions only')
      expect((await readServer('session', CONTROLLER_ACCOUNT)).kind).toBe('found')
    } finally {
      server!.faults.mend()
    }
  })
})

const PYTHON = '/usr/bin/python3'
const isThere = existsSync('/usr/lib/python3/dist-packages/sushy')

test.skipIf(!isThere)('a stock client of another language reads all of it', { timeout: 60_000 }, async () => {
  const pem = join(folder, 'authority.pem')
  writeFileSync(pem, authority.certificatePem)
  const script = `
import json, sys, sushy
from sushy import auth
root = sushy.Sushy(sys.argv[1], verify=sys.argv[2], auth=auth.SessionAuth(sys.argv[3], sys.argv[4]))
system = root.get_system_collection().get_members()[0]
chassis = root.get_chassis_collection().get_members()[0]
print(json.dumps({
  "version": root.redfish_version,
  "manager": root.get_manager_collection().get_members()[0].manager_type.value,
  "serial": system.serial_number,
  "power": system.power_state.value,
  "processors": len(system.processors.get_members()),
  "drives": [drive.serial_number for drive in system.storage.get_members()[0].drives],
  "ports": len(system.ethernet_interfaces.get_members()),
  "chassis": chassis.chassis_type.value,
  "fans": len(chassis.thermal.fans),
  "supplies": len(chassis.power.power_supplies),
}))
root._auth.close()
`
  const words = ['-c', script, `https://127.0.0.1:${base}`, pem, username, password]
  const { stdout } = await promisify(execFile)(PYTHON, words, { env: { REQUESTS_CA_BUNDLE: pem } })
  expect(JSON.parse(stdout)).toEqual({
    version: '1.15.0',
    manager: 'BMC',
    serial: server!.spec.serial,
    power: 'On',
    processors: 2,
    drives: server!.spec.driveLifePercent.map((_, bay) => server!.driveSerial(bay)),
    ports: server!.spec.ports?.length ?? 0,
    chassis: 'RackMount',
    fans: server!.spec.fans,
    supplies: 2,
  })
  expect(await openSessions()).toBe(0)
})
