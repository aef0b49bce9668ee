import { timingSafeEqual } from 'node:crypto'
import type { ServerResponse } from 'node:http'
import { createServer, type Server } from 'node:https'
import type { Journal } from '../journal.ts'
import type { SimServer } from '../model/server.ts'
import type { Pair } from './authority.ts'
import { redfishDocument } from './documents.ts'

export interface ControllerOptions {
  readonly server: SimServer
  readonly port: number
  readonly certificate: Pair
  readonly account: { readonly username: string; readonly password: string }
  readonly journal: Journal
}

/** A management controller on loopback: Redfish over HTTPS, basic authentication, read only. */
export async function startController(options: ControllerOptions): Promise<Server> {
  const { server: sim, account } = options
  const expected = Buffer.from(
    `Basic ${Buffer.from(`${account.username}:${account.password}`).toString('base64')}`,
  )
  const https = createServer(
    { cert: options.certificate.certificatePem, key: options.certificate.keyPem },
    (request, response) => {
      if (misbehave(sim, response)) return
      const given = Buffer.from(request.headers.authorization ?? '')
      const isKnown = given.length === expected.length && timingSafeEqual(given, expected)
      if (!isKnown && request.url !== '/redfish/v1/') return answer(response, 401, errorBody('Unauthorized'))
      if (request.method !== 'GET') return answer(response, 405, errorBody('this account only reads'))
      const nowMs = Date.now()
      const document = redfishDocument(sim, request.url ?? '/', nowMs)
      if (document === undefined) return answer(response, 404, errorBody(`nothing at ${request.url}`))
      const outlet = outletOf(document)
      if (outlet !== null)
        options.journal.write({ gear: sim.spec.name, atMs: nowMs, what: 'answered', value: outlet })
      answer(response, 200, document)
    },
  )
  await new Promise<void>((resolve, reject) => {
    https.once('error', reject)
    https.listen(options.port, '127.0.0.1', resolve)
  })
  return https
}

const errorBody = (message: string) => ({ error: { code: 'Base.1.0.GeneralError', message } })

function answer(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { 'content-type': 'application/json', 'odata-version': '4.0' })
  response.end(JSON.stringify(body))
}

function outletOf(document: unknown): number | null {
  if (typeof document !== 'object' || document === null || !('Temperatures' in document)) return null
  const list = document.Temperatures as { MemberId: string; ReadingCelsius: number }[]
  return list.find((sensor) => sensor.MemberId === 'outlet')?.ReadingCelsius ?? null
}

/** Faults of the wire. @returns true when the answer is already spoilt. */
function misbehave(sim: SimServer, response: ServerResponse): boolean {
  if (sim.faults.has('silent')) return true
  if (sim.faults.has('slow')) {
    const timer = setTimeout(() => response.end('{}'), 120_000)
    response.on('close', () => clearTimeout(timer))
    return true
  }
  if (sim.faults.has('garbage')) {
    response.writeHead(200, { 'content-type': 'application/json' })
    response.end('{"Systems": <<<~~~ 0x00 not json')
    return true
  }
  if (sim.faults.has('huge')) {
    response.writeHead(200, { 'content-type': 'application/json' })
    response.end(`{"filler": "${'x'.repeat(10 * 1024 * 1024)}"}`)
    return true
  }
  if (sim.faults.has('endless')) {
    response.writeHead(200, { 'content-type': 'application/json' })
    response.write('{"filler": "')
    const drip = setInterval(() => response.write('drip '), 100)
    response.on('close', () => clearInterval(drip))
    return true
  }
  if (sim.faults.has('deny')) {
    answer(response, 401, errorBody('Unauthorized'))
    return true
  }
  return false
}
