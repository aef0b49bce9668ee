import { timingSafeEqual } from 'node:crypto'
import type { IncomingMessage, ServerResponse } from 'node:http'
import { createServer, type Server } from 'node:https'
import type { Journal } from '../journal.ts'
import type { FaultBoard } from '../model/faults.ts'
import type { SimServer } from '../model/server.ts'
import type { Pair } from './authority.ts'
import { redfishDocument } from './documents.ts'

export interface ServiceOptions {
  readonly name: string
  readonly faults: FaultBoard
  /** What it answers for a path at a time; `undefined` where nothing is. */
  readonly document: (path: string, atMs: number) => unknown
  readonly host?: string
  readonly port: number
  readonly certificate: Pair
  readonly account: { readonly username: string; readonly password: string }
  readonly journal: Journal
  /** The server behind a system that is asked to stop or to start; `null` where nothing is. */
  readonly systemAt?: (path: string) => SimServer | null
}

export interface ControllerOptions extends Omit<ServiceOptions, 'name' | 'faults' | 'document'> {
  readonly server: SimServer
}

/** The management controller of a server. */
export const startController = ({ server, ...rest }: ControllerOptions): Promise<Server> =>
  startService({
    ...rest,
    name: server.spec.name,
    faults: server.faults,
    document: (path, atMs) => redfishDocument(server, path, atMs),
    systemAt: () => server,
  })

/** A Redfish service on loopback: HTTPS, basic authentication, read only. */
export async function startService(options: ServiceOptions): Promise<Server> {
  const { faults, account, document: documentAt } = options
  const expected = Buffer.from(
    `Basic ${Buffer.from(`${account.username}:${account.password}`).toString('base64')}`,
  )
  const https = createServer(
    { cert: options.certificate.certificatePem, key: options.certificate.keyPem },
    (request, response) => {
      if (misbehave(faults, response)) return
      const given = Buffer.from(request.headers.authorization ?? '')
      const isKnown = given.length === expected.length && timingSafeEqual(given, expected)
      if (!isKnown && request.url !== '/redfish/v1/') return answer(response, 401, errorBody('Unauthorized'))
      if (request.method === 'POST') return void reset(options, request, response)
      if (request.method !== 'GET') return answer(response, 405, errorBody('this account only reads'))
      const nowMs = Date.now()
      const document = documentAt(request.url ?? '/', nowMs)
      if (document === undefined) return answer(response, 404, errorBody(`nothing at ${request.url}`))
      const outlet = outletOf(document)
      if (outlet !== null)
        options.journal.write({ gear: options.name, atMs: nowMs, what: 'answered', value: outlet })
      answer(response, 200, document)
    },
  )
  await new Promise<void>((resolve, reject) => {
    https.once('error', reject)
    https.listen(options.port, options.host ?? '127.0.0.1', resolve)
  })
  return https
}

/** `ComputerSystem.Reset`: the machine stops in order, or starts again. */
async function reset(
  { faults, systemAt }: ServiceOptions,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const chunks: Buffer[] = []
  for await (const chunk of request as AsyncIterable<Buffer>) chunks.push(chunk)
  const system = /^(\/redfish\/v1\/Systems\/[^/]+)\/Actions\/ComputerSystem\.Reset$/.exec(
    request.url ?? '',
  )?.[1]
  const server = system === undefined ? null : (systemAt?.(system) ?? null)
  if (server === null) return answer(response, 404, errorBody(`nothing at ${request.url}`))
  if (faults.has('read-only')) return answer(response, 403, errorBody('this account only reads'))
  const asked = /"ResetType"\s*:\s*"(\w+)"/.exec(Buffer.concat(chunks).toString('utf8'))?.[1]
  if (asked === 'GracefulShutdown') server.faults.cause('power-off', null, Date.now())
  else if (asked === 'On') server.faults.mend('power-off')
  else return answer(response, 400, errorBody(`no reset of type ${asked}`))
  response.writeHead(204).end()
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
function misbehave(faults: FaultBoard, response: ServerResponse): boolean {
  if (faults.has('silent')) return true
  if (faults.has('slow')) {
    const timer = setTimeout(() => response.end('{}'), 120_000)
    response.on('close', () => clearTimeout(timer))
    return true
  }
  if (faults.has('garbage')) {
    response.writeHead(200, { 'content-type': 'application/json' })
    response.end('{"Systems": <<<~~~ 0x00 not json')
    return true
  }
  if (faults.has('huge')) {
    response.writeHead(200, { 'content-type': 'application/json' })
    response.end(`{"filler": "${'x'.repeat(10 * 1024 * 1024)}"}`)
    return true
  }
  if (faults.has('endless')) {
    response.writeHead(200, { 'content-type': 'application/json' })
    response.write('{"filler": "')
    const drip = setInterval(() => response.write('drip '), 100)
    response.on('close', () => clearInterval(drip))
    return true
  }
  if (faults.has('deny')) {
    answer(response, 401, errorBody('Unauthorized'))
    return true
  }
  return false
}
