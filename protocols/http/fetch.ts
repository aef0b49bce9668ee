import type { IncomingHttpHeaders } from 'node:http'
import { createSecureContext, TLSSocket } from 'node:tls'
import { Agent, buildConnector, errors, request } from 'undici'
import type { Exchange, Failure } from '#core/sources'
import {
  addressOf,
  checkFingerprint,
  connectFailure,
  distrustFailure,
  type Endpoint,
  errorCode,
  errorWords,
  firstWords,
  OtherFingerprint,
  otherFingerprint,
  printable,
  speaksTls,
  type Trust,
} from '#protocols/reach'

/** A failure on its way up through a walk; drivers turn it back into an `Outcome`. */
export class FetchFailure extends Error {
  constructor(readonly failure: Failure) {
    super(failure.kind)
  }
}

export interface HttpTarget {
  /** Scheme, host and port. */
  readonly origin: string
  readonly agent: Agent
  readonly headers: Readonly<Record<string, string>>
  readonly signal: AbortSignal
  readonly timeoutMs: number
  /** For one answer. */
  readonly limitBytes: number
  /** What is asked here, for a sentence: “Redfish”. */
  readonly protocol: string
  /** Told of each question and answer. `credential`: how it is called where one goes along. */
  readonly trace?: { readonly tell: (exchange: Exchange) => void; readonly credential: string | null }
}

export interface Reply {
  readonly headers: IncomingHttpHeaders
  readonly body: Buffer
}

const CONNECT_MS = 3000
const PROBE_MS = 1500

/** Certificates take their time to be read: once for all connections of a reading. @throws what OpenSSL says of the authority */
const connectorOf = ({ fingerprint, authorityPem }: Trust) =>
  buildConnector({
    timeout: CONNECT_MS,
    ...(fingerprint !== null
      ? // Nothing is sent before the fingerprint was compared, below.
        // A resumed session presents no certificate (RFC 8446 §4.6.1), so none is kept.
        { rejectUnauthorized: false, maxCachedSessions: 0 }
      : authorityPem === null
        ? {}
        : { secureContext: createSecureContext({ ca: authorityPem }) }),
  })

/** One connection pool for one reading. */
export function openAgent(trust: Trust): Agent {
  let connector: ReturnType<typeof connectorOf> | undefined
  return new Agent({
    connections: 4,
    keepAliveTimeout: 5000,
    maxHeaderSize: 32_768,
    connect(options, callback) {
      try {
        connector ??= connectorOf(trust)
      } catch (refusal) {
        return callback(refusal as Error, null)
      }
      connector(options, (error, socket) => {
        if (error !== null) return callback(error, null)
        try {
          if (socket instanceof TLSSocket) checkFingerprint(socket, trust)
          callback(null, socket)
        } catch (refusal) {
          socket.destroy()
          callback(refusal as Error, null)
        }
      })
    },
  })
}

/** Host and port of an address, the port of its scheme when it names none. */
export function endpointOf(url: URL): Endpoint {
  const host = url.hostname.replaceAll(/[[\]]/g, '')
  return { host, port: url.port === '' ? (url.protocol === 'https:' ? 443 : 80) : Number(url.port) }
}

/**
 * One JSON document.
 * @throws FetchFailure for everything the far side can do wrong, oversized and endless answers included.
 */
export async function getJson(target: HttpTarget, path: string): Promise<unknown> {
  const { headers, body } = await get(target, path, 'application/json')
  const text = body.toString('utf8')
  try {
    return JSON.parse(text) as unknown
  } catch {
    const address = addressOf(endpointOf(new URL(target.origin)))
    const type = headers['content-type'] ?? 'no type'
    if (/html/.test(type)) throw otherProtocol(target, `a page of type ${type}`)
    throw new FetchFailure({
      kind: 'malformed',
      address,
      detail: `${path} is not JSON, it begins with “${printable(text)}”`,
    })
  }
}

/**
 * A path of the far side. What leads elsewhere, as a link in an answer may, is not followed: the credential is for this
 * origin only.
 * @throws FetchFailure
 */
function urlOf({ origin }: HttpTarget, path: string): URL {
  const home = new URL(origin)
  const url = URL.canParse(path, origin) ? new URL(path, origin) : null
  if (url?.origin === home.origin && url.username === '' && url.password === '') return url
  throw new FetchFailure({
    kind: 'malformed',
    address: addressOf(endpointOf(home)),
    detail: `it links to “${printable(path)}”, which is not ${home.origin}; that is not followed`,
  })
}

/** Tells whoever traces what came back. */
const teller =
  ({ trace }: HttpTarget, asked: string, startedMs: number) =>
  (received: string, isAccepted: boolean): void => {
    const credential = trace?.credential ?? null
    trace?.tell({
      sent: `${asked}${credential === null ? '' : ` with ${credential}`}`,
      received,
      tookMs: performance.now() - startedMs,
      isAccepted,
    })
  }

/** One answer with status 200. @throws FetchFailure as `getJson` does */
export async function get(target: HttpTarget, path: string, accept: string): Promise<Reply> {
  const startedMs = performance.now()
  const tell = teller(target, `GET ${path}`, startedMs)
  try {
    const reply = await request(urlOf(target, path), {
      dispatcher: target.agent,
      headers: { accept, ...target.headers },
      signal: target.signal,
    })
    if (reply.statusCode !== 200) {
      await reply.body.dump({ limit: 16_384, signal: target.signal }).catch(() => undefined)
      tell(`HTTP ${reply.statusCode}${challengeOf(reply.headers)}`, false)
      throw new FetchFailure(await statusFailure(target, path, reply.statusCode))
    }
    const body = await readLimited(reply.body, target)
    tell(`HTTP 200, ${body.length} B of ${reply.headers['content-type'] ?? 'no type'}`, true)
    return { headers: reply.headers, body }
  } catch (error) {
    if (error instanceof FetchFailure) throw error
    const failure = await connectionFailure(error, target, performance.now() - startedMs)
    tell(`no answer: ${errorCode(error) || failure.kind}`, false)
    throw new FetchFailure(failure)
  }
}

const challengeOf = (headers: IncomingHttpHeaders): string =>
  headers['www-authenticate'] === undefined
    ? ''
    : `, asking for “${printable(String(headers['www-authenticate']))}”`

const otherProtocol = ({ origin, protocol }: HttpTarget, seen: string): FetchFailure =>
  new FetchFailure({
    kind: 'otherProtocol',
    address: addressOf(endpointOf(new URL(origin))),
    asked: protocol,
    seen,
  })

/** Posts a JSON document; any answer of success will do. @throws FetchFailure as `getJson` does */
export const postJson = (target: HttpTarget, path: string, body: unknown): Promise<Pick<Reply, 'headers'>> =>
  ask(target, path, 'POST', JSON.stringify(body))

/** Deletes what is at a path. @throws FetchFailure as `getJson` does */
export async function remove(target: HttpTarget, path: string): Promise<void> {
  await ask(target, path, 'DELETE', null)
}

async function ask(
  target: HttpTarget,
  path: string,
  method: 'POST' | 'DELETE',
  body: string | null,
): Promise<Pick<Reply, 'headers'>> {
  const startedMs = performance.now()
  const tell = teller(target, `${method} ${path}`, startedMs)
  try {
    const reply = await request(urlOf(target, path), {
      method,
      dispatcher: target.agent,
      headers: {
        accept: 'application/json',
        ...(body === null ? {} : { 'content-type': 'application/json' }),
        ...target.headers,
      },
      body,
      signal: target.signal,
    })
    await reply.body.dump({ limit: 16_384, signal: target.signal }).catch(() => undefined)
    const isTaken = reply.statusCode >= 200 && reply.statusCode < 300
    tell(`HTTP ${reply.statusCode}${challengeOf(reply.headers)}`, isTaken)
    if (!isTaken) throw new FetchFailure(await statusFailure(target, path, reply.statusCode))
    return { headers: reply.headers }
  } catch (error) {
    if (error instanceof FetchFailure) throw error
    const failure = await connectionFailure(error, target, performance.now() - startedMs)
    tell(`no answer: ${errorCode(error) || failure.kind}`, false)
    throw new FetchFailure(failure)
  }
}

async function statusFailure(target: HttpTarget, path: string, status: number): Promise<Failure> {
  const url = new URL(target.origin)
  const endpoint = endpointOf(url)
  const address = addressOf(endpoint)
  if (status === 401) return { kind: 'credentialsRefused', address, detail: `HTTP 401 for ${path}` }
  if (status === 403) return { kind: 'notAllowed', address, what: path }
  // Many a server answers a plain request on its TLS port with a 400 of plain text.
  if (status === 400 && url.protocol === 'http:' && (await speaksTls(endpoint, PROBE_MS)))
    return { kind: 'tlsOnly', address }
  return { kind: 'malformed', address, detail: `HTTP ${status} for ${path}` }
}

async function readLimited(body: AsyncIterable<Buffer>, target: HttpTarget): Promise<Buffer> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of body) {
    size += chunk.byteLength
    if (size > target.limitBytes) {
      const address = addressOf(endpointOf(new URL(target.origin)))
      throw new FetchFailure({ kind: 'tooLarge', address, limitBytes: target.limitBytes })
    }
    chunks.push(chunk)
  }
  return Buffer.concat(chunks)
}

async function connectionFailure(error: unknown, target: HttpTarget, waitedMs: number): Promise<Failure> {
  const url = new URL(target.origin)
  const endpoint = endpointOf(url)
  const address = addressOf(endpoint)
  const code = errorCode(error)
  if (
    error instanceof OtherFingerprint ||
    (error instanceof Error && error.cause instanceof OtherFingerprint)
  )
    return otherFingerprint(address)
  const known = connectFailure(code, endpoint, Math.round(waitedMs)) ?? distrustFailure(code, address)
  if (known !== null) return known
  if (target.signal.aborted || /TIMEOUT/.test(code))
    return { kind: 'timedOut', address, waitedMs: target.timeoutMs }
  if (code === 'EPROTO' || /SSL/.test(code)) {
    const said = printable(await firstWords(endpoint, 'GET / HTTP/1.0\r\n\r\n', PROBE_MS))
    if (said.startsWith('HTTP/')) return { kind: 'plainOnly', address, seen: said }
    return { kind: 'otherProtocol', address, asked: 'TLS', seen: said === '' ? 'silence' : said }
  }
  const isNotHttp = error instanceof errors.HTTPParserError || /UND_ERR_(HEADERS|SOCKET)|RESET/.test(code)
  if (isNotHttp && url.protocol === 'http:' && (await speaksTls(endpoint, PROBE_MS)))
    return { kind: 'tlsOnly', address }
  if (error instanceof errors.HTTPParserError || /UND_ERR_HEADERS/.test(code)) {
    const said = printable(await firstWords(endpoint, '', PROBE_MS))
    return { kind: 'otherProtocol', address, asked: 'HTTP', seen: said === '' ? 'not HTTP' : said }
  }
  return { kind: 'connectionLost', address, detail: errorWords(error) }
}
