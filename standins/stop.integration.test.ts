import { X509Certificate } from 'node:crypto'
import { createServer, type Server } from 'node:https'
import { createServer as createPlain } from 'node:http'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { type Identity, usableIdentities } from '#core/gear'
import { redfish, stopSystem } from '#protocols/redfish'
import { freePorts } from '../bin/setup/postgres.mjs'
import { NO_JOURNAL } from './journal.ts'
import { SimServer } from './model/server.ts'
import { newAuthority, newServerCertificate } from './redfish/authority.ts'
import { startController } from './redfish/server.ts'
import { CONTROLLER_ACCOUNT, SERVERS } from './site/index.ts'

// Asking gear to stop over real sockets: the right one, the wrong one, and a service that leads elsewhere.

const [good, lures, elsewhere] = await freePorts(3).then((first) => [first, first + 1, first + 2] as const)
const spec = SERVERS[2]!
const petrel = new SimServer(spec)
const closers: Server[] = []
const askedElsewhere: string[] = []
let fingerprint = ''

/** A service whose collection of systems is on another server, in clear. */
const luring = JSON.stringify({
  Systems: { '@odata.id': `http://127.0.0.1:${elsewhere}/redfish/v1/Systems` },
})
const thief = createPlain((request, response) => {
  askedElsewhere.push(`${request.url} ${request.headers.authorization ?? ''}`)
  response.end('{}')
})

beforeAll(async () => {
  const authority = await newAuthority('Breakwater authority', Date.now())
  const certificate = await newServerCertificate(authority, spec.name, Date.now())
  fingerprint = new X509Certificate(certificate.certificatePem).fingerprint256
  closers.push(
    await startController({
      server: petrel,
      port: good,
      certificate,
      account: CONTROLLER_ACCOUNT,
      journal: NO_JOURNAL,
    }),
  )
  const lure = createServer({ cert: certificate.certificatePem, key: certificate.keyPem }, (_, response) => {
    response.writeHead(200, { 'content-type': 'application/json' })
    response.end(luring)
  })
  closers.push(lure)
  await new Promise<void>((resolve) => lure.listen(lures, '127.0.0.1', resolve))
  await new Promise<void>((resolve) => thief.listen(elsewhere, '127.0.0.1', resolve))
})
afterAll(() => {
  for (const server of closers) {
    server.close()
    server.closeAllConnections()
  }
  thief.close()
})

const at = (port: number) => ({
  address: `https://127.0.0.1:${port}`,
  settings: { authorityPem: null, fingerprint },
  secret: CONTROLLER_ACCOUNT,
})
const ask = (port: number, identities: readonly Identity[], isDry = false) =>
  stopSystem(at(port), { identities, isDry, timeoutMs: 5000 })
const known = (serial: string): readonly Identity[] => usableIdentities([{ kind: 'serial', value: serial }])

describe('stopping', () => {
  test('the only system there is not asked when it is another gear: both identities are said', async () => {
    const { isWell, words } = await ask(good, known('KS-0000-ELSE'))
    expect(isWell).toBe(false)
    expect(words).toContain('Not asked to stop')
    expect(words).toContain('KS-0000-ELSE')
    expect(words).toContain(spec.serial)
    expect(petrel.isOn(Date.now())).toBe(true)
  })
  test('gear of which no identity is known is not asked', async () => {
    expect(await ask(good, [])).toMatchObject({ isWell: false })
    expect(petrel.isOn(Date.now())).toBe(true)
  })
  test('a link to another origin is not followed: no credential goes there', async () => {
    const { isWell, words } = await ask(lures, known(spec.serial))
    expect(isWell).toBe(false)
    expect(words).toContain(`which is not https://127.0.0.1:${lures}`)
    const outcome = await redfish.collect({ target: at(lures), timeoutMs: 5000 })
    expect(outcome.kind).toBe('failed')
    expect(askedElsewhere).toEqual([])
  })
  test('the one that is meant is asked; dry, nothing is', async () => {
    expect(await ask(good, known(spec.serial), true)).toMatchObject({ isWell: true })
    expect(petrel.isOn(Date.now())).toBe(true)
    expect(await ask(good, known(spec.serial))).toMatchObject({ isWell: true })
    expect(petrel.isOn(Date.now())).toBe(false)
  })
})
