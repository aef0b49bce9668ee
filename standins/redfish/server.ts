import { timingSafeEqual } from 'node:crypto'
import type { IncomingMessage, ServerResponse } from 'node:http'
import { createServer, type Server } from 'node:https'
import type { Journal } from '../journal.ts'
import type { FaultBoard } from '../model/faults.ts'
import type { SimServer } from '../model/server.ts'
import type { Pair } from './authority.ts'
import { redfishDocument } from './documents.ts'
import { Sessions } from './sessions.ts'
import { dressed, metadataDocument, serviceDocument, SESSIONS, VERSIONS } from './standard.ts'

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

/**
 * A Redfish service on loopback: HTTPS, basic authentication and sessions (DSP0266 §13.3); but for sessions and resets it
 * is read only.
 */
export async function startService(options: ServiceOptions): Promise<Server> {
  const { faults } = options
  const service = { ...options, sessions: new Sessions() }
  const https = createServer(
    { cert: options.certificate.certificatePem, key: options.certificate.keyPem },
    (request, response) => {
      if (misbehave(faults, response)) return
      if (request.method === 'POST') return void post(service, request, response)
      if (request.method === 'DELETE') return signOut(service, request, response)
      if (request.method !== 'GET' && request.method !== 'HEAD')
        return answer(response, 405, errorBody('this account only reads'), { allow: 'GET, HEAD' })
      read(service, request, response)
    },
  )
  await new Promise<void>((resolve, reject) => {
    https.once('error', reject)
    https.listen(options.port, options.host ?? '127.0.0.1', resolve)
  })
  return https
}

interface Service extends ServiceOptions {
  readonly sessions: Sessions
}

/** What may be read by anybody (DSP0266 §13.3.1), by the path without a slash at its end. */
const OPEN = ['/redfish', '/redfish/v1', '/redfish/v1/odata', '/redfish/v1/$metadata']
const CHALLENGE = { 'www-authenticate': 'Basic realm="Redfish"' }

function read(service: Service, request: IncomingMessage, response: ServerResponse): void {
  const { name, journal, document: documentAt } = service
  const path = pathOf(request)
  const isHidden = !OPEN.includes(path)
  if (isHidden && !isKnown(service, request))
    return answer(response, 401, errorBody('Unauthorized'), CHALLENGE)
  if (path === '/redfish/v1/$metadata') {
    response.writeHead(200, { ...HEADERS, 'content-type': 'application/xml;charset=utf-8' })
    return void response.end(metadataDocument())
  }
  if (path === '/redfish') return answer(response, 200, VERSIONS)
  const nowMs = Date.now()
  if (path === '/redfish/v1/odata')
    return answer(response, 200, serviceDocument(documentAt('/redfish/v1', nowMs) as object & Properties))
  const session = service.sessions.document(path)
  const document = session === undefined ? documentAt(request.url ?? '/', nowMs) : dressed(path, session)
  if (document === undefined) return answer(response, 404, errorBody(`nothing at ${request.url}`))
  const outlet = outletOf(document)
  if (outlet !== null) journal.write({ gear: name, atMs: nowMs, what: 'answered', value: outlet })
  answer(response, 200, document)
}

type Properties = Readonly<Record<string, unknown>>

const pathOf = ({ url }: IncomingMessage): string => (url ?? '/').split('?', 1)[0]!.replace(/\/$/, '')

/** By a session's token, or by name and password. */
function isKnown({ account, sessions, faults }: Service, { headers }: IncomingMessage): boolean {
  const token = headers['x-auth-token']
  if (typeof token === 'string') return sessions.isOpen(token, Date.now())
  if (faults.has('sessions-only')) return false
  return isSame(
    headers.authorization ?? '',
    `Basic ${Buffer.from(`${account.username}:${account.password}`).toString('base64')}`,
  )
}

function isSame(given: string, expected: string): boolean {
  const [a, b] = [Buffer.from(given), Buffer.from(expected)]
  return a.length === b.length && timingSafeEqual(a, b)
}

async function post(service: Service, request: IncomingMessage, response: ServerResponse): Promise<void> {
  const chunks: Buffer[] = []
  for await (const chunk of request as AsyncIterable<Buffer>) chunks.push(chunk)
  const body = parsed(Buffer.concat(chunks).toString('utf8'))
  const path = pathOf(request)
  if (path === SESSIONS || path === `${SESSIONS}/Members`) return signIn(service, body, response)
  if (!isKnown(service, request)) return answer(response, 401, errorBody('Unauthorized'), CHALLENGE)
  reset(service, path, body, response)
}

function parsed(text: string): Properties {
  try {
    const value = JSON.parse(text) as unknown
    return typeof value === 'object' && value !== null ? (value as Properties) : {}
  } catch {
    return {}
  }
}

/** A session is made by posting to their collection; its token is in a header, its address in another. */
function signIn({ account, sessions }: Service, body: Properties, response: ServerResponse): void {
  const { UserName, Password } = body
  if (typeof UserName !== 'string' || typeof Password !== 'string')
    return answer(response, 400, errorBody('UserName and Password are required'))
  if (!isSame(UserName, account.username) || !isSame(Password, account.password))
    return answer(response, 401, errorBody('Unauthorized'), CHALLENGE)
  const session = sessions.begin(UserName, Date.now())
  if (session === null) return answer(response, 503, errorBody('there are no sessions left'))
  const path = `${SESSIONS}/${session.id}`
  const document = dressed(path, sessions.document(path)!)
  answer(response, 201, document, { location: path, 'x-auth-token': session.token })
}

function signOut(service: Service, request: IncomingMessage, response: ServerResponse): void {
  if (!isKnown(service, request)) return answer(response, 401, errorBody('Unauthorized'), CHALLENGE)
  if (!service.sessions.end(pathOf(request)))
    return answer(response, 405, errorBody('this account only reads'), { allow: 'GET, HEAD' })
  response.writeHead(204, HEADERS).end()
}

/** `ComputerSystem.Reset`: the machine stops in order, or starts again. */
function reset(
  { faults, systemAt }: ServiceOptions,
  path: string,
  { ResetType: asked }: Properties,
  response: ServerResponse,
): void {
  const system = /^(\/redfish\/v1\/Systems\/[^/]+)\/Actions\/ComputerSystem\.Reset$/.exec(path)?.[1]
  const server = system === undefined ? null : (systemAt?.(system) ?? null)
  if (server === null) return answer(response, 404, errorBody(`nothing at ${path}`))
  if (faults.has('read-only')) return answer(response, 403, errorBody('this account only reads'))
  if (asked === 'GracefulShutdown') server.faults.cause('power-off', null, Date.now())
  else if (asked === 'On') server.faults.mend('power-off')
  else return answer(response, 400, errorBody(`no reset of type ${String(asked)}`))
  response.writeHead(204, HEADERS).end()
}

/** An error as §8.6 has it. */
const errorBody = (message: string) => ({
  error: {
    code: 'Base.1.0.GeneralError',
    message,
    '@Message.ExtendedInfo': [
      {
        '@odata.type': '#Message.v1_1_2.Message',
        MessageId: 'Base.1.0.GeneralError',
        Message: message,
        Severity: 'Critical',
        Resolution: 'None.',
      },
    ],
  },
})

const HEADERS = { 'odata-version': '4.0', 'cache-control': 'no-cache' }

function answer(
  response: ServerResponse,
  status: number,
  body: unknown,
  headers: Readonly<Record<string, string>> = {},
): void {
  response.writeHead(status, { ...HEADERS, 'content-type': 'application/json;charset=utf-8', ...headers })
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
