import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { isUtf8 } from 'node:buffer'
import type { Duplex } from 'node:stream'
import type { Failure } from '#core/sources'
import { formatElapsed } from '#core/units'
import {
  assertWithin,
  decodeExport,
  encodeAnswer,
  type ExportAnswer,
  type ExportFormat,
  formatOf,
  type Moment,
  OF_SOURCES,
  OF_STRANGERS,
  PayloadError,
  type PushBounds,
  type ReadExport,
  readExport,
  TooMuchError,
} from '#protocols/otlp'
import type { Attempt, PendingOutcome } from '#db/sources'
import { Few } from '#protocols/reach'
import { log } from '../platform/log.ts'

const MOST_CONNECTIONS = 1000
/** Bodies that are held at a time, of all senders together. */
const MOST_HELD_BYTES = 64 * 1024 * 1024
/** Strangers that are listened to at a time. */
const MOST_STRANGERS = 8
/** Of one address; five senders that wait push some five times a minute each. */
const STRANGERS_A_MINUTE = 120
const LONGEST_MS = 15_000
/** A clock that is off by less is told of by an alert; refusing its readings would lose them. */
const AHEAD_MS = 6 * 3_600_000
const BEHIND_MS = 366 * 86_400_000

export interface ReceiverHooks {
  /** Another installation says that it lives; false when its token is not known. */
  readonly beat: (token: string) => Promise<boolean>
  /** The source that a bearer token belongs to. */
  readonly sourceOf: (token: string) => number | null
  /** The source that is registered for a sender that says who it is and has a wrong token. */
  readonly claimedBy: (gearKeys: readonly string[]) => number | null
  /** Keeps what a sender brings whose token nobody has claimed. */
  readonly wait: (token: string, address: string, moments: readonly Moment[]) => Promise<PendingOutcome>
  /** Resolves when the moments are safe: only then the sender is told so. */
  readonly take: (sourceId: number, moments: readonly Moment[]) => Promise<void>
  readonly failed: (sourceId: number, failure: Failure) => Promise<void>
  /** Somebody has no right to what was tried. It changes nothing of any source. */
  readonly turnedAway: (address: string, what: Attempt, reason: string) => void
}

/** A sender may choose its own token; one that can be guessed is none. */
const SHORTEST_TOKEN = 16

class Refusal extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly failure: ((address: string) => Failure) | null,
  ) {
    super(message)
  }
}

/** Receives OTLP metrics over HTTP (`POST /v1/metrics`), protobuf or JSON, with a bearer token per sender; and heartbeats of other installations (`POST /heartbeat`). */
export async function startReceiver(
  { port, address = '127.0.0.1' }: { readonly port: number; readonly address?: string },
  hooks: ReceiverHooks,
): Promise<Server> {
  const server = createServer({
    requestTimeout: LONGEST_MS,
    headersTimeout: 10_000,
    connectionsCheckingInterval: 1000,
  })
  server.maxConnections = MOST_CONNECTIONS
  const load: Load = { bytes: 0, strangers: 0, fewOfStrangers: new Few(STRANGERS_A_MINUTE, 60_000) }
  server.on('request', (request, response) => {
    void receive(request, response, { hooks, load })
  })
  server.on('clientError', breakOff)
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, address, resolve)
  })
  return server
}

/** The default answer to a request that never ends says nothing; ours is the same with a word in the log. */
function breakOff(error: NodeJS.ErrnoException, socket: Duplex): void {
  log.warn({ reason: error.code }, 'a push broke off')
  // A sender that goes on and on would keep its half of the connection open: it is cut, not only answered.
  if (!socket.writable) socket.destroy()
  else socket.end('HTTP/1.1 408 Request Timeout\r\nConnection: close\r\n\r\n', () => socket.destroy())
}

/** What is under way. */
interface Load {
  bytes: number
  strangers: number
  /** Pushes of strangers, by the address they come from. */
  readonly fewOfStrangers: Few
}
interface Receiving {
  readonly hooks: ReceiverHooks
  readonly load: Load
}

async function receive(
  request: IncomingMessage,
  response: ServerResponse,
  { hooks, load }: Receiving,
): Promise<void> {
  const address = `${request.socket.remoteAddress ?? 'sender'}`
  const token = /^Bearer (\S+)$/.exec(request.headers.authorization ?? '')?.[1]
  const sourceId = token === undefined ? null : hooks.sourceOf(token)
  try {
    if (request.method === 'POST' && request.url === '/heartbeat') {
      request.resume()
      if (token === undefined || !(await hooks.beat(token)))
        throw new Refusal(401, 'no heartbeat is expected with this token', null)
      return answer(response, 200, { heard: true })
    }
    if (request.method !== 'POST' || request.url !== '/v1/metrics')
      throw new Refusal(404, 'POST /v1/metrics and POST /heartbeat are all there is here', null)
    if (sourceId === null) return await receiveStranger(request, response, { token, address, hooks, load })
    const { moments, passedOver } = await exportIn(request, OF_SOURCES, load)
    await hooks.take(sourceId, moments)
    answer(response, 200, outcomeOf(passedOver), formatOf(request.headers['content-type']))
  } catch (error) {
    const refusal = asRefusal(error)
    if (sourceId !== null && refusal.failure !== null)
      await hooks.failed(sourceId, refusal.failure(address)).catch(() => undefined)
    else if (refusal.status !== 503)
      hooks.turnedAway(address, request.url === '/heartbeat' ? 'heartbeat' : 'push', refusal.message)
    // Who is not known is counted by address; a line for each would let anybody fill the log.
    const level = sourceId === null ? 'debug' : 'warn'
    log[level]({ status: refusal.status, sourceId, reason: refusal.message }, 'a push was refused')
    answer(response, refusal.status, { message: refusal.message }, formatOf(request.headers['content-type']))
    request.destroy()
  }
}

interface Stranger extends Receiving {
  readonly token: string | undefined
  readonly address: string
}

/** Of who is not known a few are listened to at a time, with less than a source may bring; what it says changes no source. */
async function receiveStranger(
  request: IncomingMessage,
  response: ServerResponse,
  { token, address, hooks, load }: Stranger,
): Promise<void> {
  if (token === undefined || token.length < SHORTEST_TOKEN)
    throw new Refusal(401, 'the token is not known', null)
  // Before any of it is read: taking apart what nobody has asked for takes the time of what somebody has.
  if (!load.fewOfStrangers.take(address))
    throw new Refusal(
      429,
      'too many pushes of senders whom nobody has claimed come from there; wait a minute',
      null,
    )
  if (load.strangers >= MOST_STRANGERS)
    throw new Refusal(429, 'too many senders push whom nobody has claimed; send it again', null)
  load.strangers += 1
  try {
    const { moments } = await exportIn(request, OF_STRANGERS, load)
    const keys = moments.flatMap((moment) => moment.findings.gear.map((gear) => gear.key))
    if (hooks.claimedBy(keys) !== null)
      throw new Refusal(401, 'it speaks for gear of another sender, with a token that is not its own', null)
    const outcome = await hooks.wait(token, address, moments)
    answerPending(response, outcome, formatOf(request.headers['content-type']))
  } finally {
    load.strangers -= 1
  }
}

async function exportIn(request: IncomingMessage, bounds: PushBounds, load: Load): Promise<ReadExport> {
  const decoded = decodeExport(...(await payloadOf(request, bounds.bytes, load)))
  assertWithin(decoded, bounds)
  const read = readExport(decoded)
  refuseSillyTimes(read.moments, Date.now())
  return read
}

/** Metrics that an answer names. */
const MOST_NAMED = 20

/** Accepted wholly, or in part (OTLP 1.5, Partial Success): then the sender's log says which points have no place here. */
function outcomeOf(passedOver: ReadonlyMap<string, number>): ExportAnswer {
  if (passedOver.size === 0) return {}
  const named = [...passedOver]
    .slice(0, MOST_NAMED)
    .map(([metric, count]) => `${printable(metric)} (${count})`)
  const more = passedOver.size - named.length
  const rejectedDataPoints = String([...passedOver.values()].reduce((total, count) => total + count, 0))
  const errorMessage = `no place here for ${named.join(', ')}${more > 0 ? ` and ${more} more metrics` : ''}; leave them out at the sender, or see docs/otlp.md`
  return { partialSuccess: { rejectedDataPoints, errorMessage } }
}

/** Accepted with a warning (OTLP 1.5, Partial Success): nothing is rejected, and the sender's log says what is to be done. */
function answerPending(response: ServerResponse, outcome: PendingOutcome, format: ExportFormat | null): void {
  if (outcome === 'refused') throw new Refusal(403, 'this sender was refused', null)
  if (outcome === 'tooMany')
    throw new Refusal(429, 'too many senders wait to be claimed; claim or refuse some under Sources', null)
  if (outcome === 'tooLarge')
    throw new Refusal(
      413,
      'it brings more than is kept of a sender that nobody has claimed; send less at a time',
      null,
    )
  const errorMessage = 'kept; this sender waits to be claimed under Sources'
  answer(response, 200, { partialSuccess: { rejectedDataPoints: '0', errorMessage } }, format)
}

function asRefusal(error: unknown): Refusal {
  if (error instanceof Refusal) return error
  if (error instanceof PayloadError) {
    return new Refusal(error instanceof TooMuchError ? 413 : 400, error.message, (address) => ({
      kind: 'malformed',
      address,
      detail: error.message,
    }))
  }
  return new Refusal(503, 'not stored; send it again', null)
}

async function payloadOf(
  request: IncomingMessage,
  limitBytes: number,
  load: Load,
): Promise<Parameters<typeof decodeExport>> {
  const format = formatOf(request.headers['content-type'])
  if (format === null) {
    const type = (request.headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase()
    throw new PayloadError(
      `the content type is “${printable(type)}”, not application/x-protobuf or application/json`,
    )
  }
  const encoding = request.headers['content-encoding'] ?? 'identity'
  if (encoding !== 'gzip' && encoding !== 'identity')
    throw new PayloadError('the content encoding is neither gzip nor identity')
  const body = await bodyOf(request, limitBytes, load)
  return [body, format, encoding === 'gzip', limitBytes]
}

/** @throws Refusal when it is too long, never ends, or too much is held for others already */
async function bodyOf(request: IncomingMessage, limitBytes: number, load: Load): Promise<Buffer> {
  const chunks: Buffer[] = []
  let size = 0
  const startedMs = Date.now()
  try {
    for await (const chunk of request as AsyncIterable<Buffer>) {
      size += chunk.byteLength
      load.bytes += chunk.byteLength
      if (size > limitBytes) {
        const failure = (address: string): Failure => ({ kind: 'tooLarge', address, limitBytes })
        throw new Refusal(413, `the body is larger than ${limitBytes} bytes`, failure)
      }
      if (load.bytes > MOST_HELD_BYTES)
        throw new Refusal(503, 'too much is being pushed at once; send it again', null)
      chunks.push(chunk)
    }
    return Buffer.concat(chunks)
  } catch (error) {
    if (error instanceof Refusal) throw error
    const waitedMs = Date.now() - startedMs
    throw new Refusal(408, 'the body never ended', (address) => ({
      kind: 'timedOut',
      address,
      waitedMs,
      hint: 'Its push began and never ended.',
    }))
  } finally {
    load.bytes -= size
  }
}

const printable = (text: string): string => (isUtf8(Buffer.from(text)) ? text.slice(0, 60) : '(not text)')

function refuseSillyTimes(moments: readonly Moment[], nowMs: number): void {
  for (const { atMs } of moments) {
    if (atMs > nowMs + AHEAD_MS) {
      throw new PayloadError(
        `its readings are dated ${formatElapsed(atMs - nowMs)} ahead of the clock here; set the sender's clock`,
      )
    }
    if (atMs < nowMs - BEHIND_MS)
      throw new PayloadError("its readings are dated more than a year back; set the sender's clock")
  }
}

/** In the format of the request; of what has none, in JSON. */
function answer(
  response: ServerResponse,
  status: number,
  given: ExportAnswer | { readonly message: string } | { readonly heard: true },
  format: ExportFormat | null = null,
): void {
  if (response.headersSent || response.destroyed) return
  const { type, body } =
    'heard' in given
      ? { type: 'application/json', body: JSON.stringify(given) }
      : encodeAnswer(format ?? 'json', given)
  response.writeHead(status, {
    'content-type': type,
    ...(status === 200 ? {} : { connection: 'close' }),
  })
  response.end(body)
}
