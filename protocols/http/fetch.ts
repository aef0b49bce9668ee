import { Agent, errors, request } from 'undici'
import type { Failure } from '#core/sources'

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
}

/** One connection pool for one reading. An authority given here is trusted in addition to none: it replaces them. */
export function openAgent(authorityPem: string | null): Agent {
  return new Agent({
    connections: 4,
    keepAliveTimeout: 5000,
    maxHeaderSize: 32_768,
    connect: authorityPem === null ? {} : { ca: authorityPem },
  })
}

/**
 * One JSON document.
 * @throws FetchFailure for everything the far side can do wrong, oversized and endless answers included.
 */
export async function getJson(target: HttpTarget, path: string): Promise<unknown> {
  const address = new URL(target.origin).host
  try {
    const reply = await request(new URL(path, target.origin), {
      dispatcher: target.agent,
      headers: { accept: 'application/json', ...target.headers },
      signal: target.signal,
    })
    if (reply.statusCode !== 200) {
      await reply.body.dump({ limit: 16_384, signal: target.signal }).catch(() => undefined)
      throw new FetchFailure(statusFailure(address, path, reply.statusCode))
    }
    const text = await readLimited(reply.body, target.limitBytes, address)
    try {
      return JSON.parse(text) as unknown
    } catch {
      throw malformed(address, `${path} is not JSON, it begins with «${printable(text.slice(0, 40))}»`)
    }
  } catch (error) {
    if (error instanceof FetchFailure) throw error
    throw new FetchFailure(connectionFailure(error, address, target))
  }
}

const malformed = (address: string, detail: string) =>
  new FetchFailure({ kind: 'malformed', address, detail })

const printable = (text: string): string => text.replaceAll(/[^\x20-\x7e]/g, '·')

function statusFailure(address: string, path: string, status: number): Failure {
  if (status === 401) return { kind: 'credentialsRefused', address, detail: 'HTTP 401' }
  if (status === 403) return { kind: 'notAllowed', address, what: path }
  return { kind: 'malformed', address, detail: `HTTP ${status} for ${path}` }
}

async function readLimited(
  body: AsyncIterable<Buffer>,
  limitBytes: number,
  address: string,
): Promise<string> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of body) {
    size += chunk.byteLength
    if (size > limitBytes) throw new FetchFailure({ kind: 'tooLarge', address, limitBytes })
    chunks.push(chunk)
  }
  return Buffer.concat(chunks).toString('utf8')
}

const UNTRUSTED: Record<string, string> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: 'it is signed by itself',
  SELF_SIGNED_CERT_IN_CHAIN: 'its authority is not one of the trusted',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'its authority is not one of the trusted',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'its authority is not one of the trusted',
  CERT_SIGNATURE_FAILURE: 'the signature of its authority does not fit',
  CERT_HAS_EXPIRED: 'it has expired',
  CERT_NOT_YET_VALID: 'it is not valid yet',
  ERR_TLS_CERT_ALTNAME_INVALID: 'it is made out to another name',
}

function connectionFailure(error: unknown, address: string, target: HttpTarget): Failure {
  const code = errorCode(error)
  if (target.signal.aborted || /TIMEOUT/.test(code)) {
    return { kind: 'timedOut', address, waitedMs: target.timeoutMs }
  }
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN')
    return { kind: 'unknownName', host: new URL(target.origin).hostname }
  if (code === 'ECONNREFUSED') return { kind: 'connectionRefused', address }
  if (code in UNTRUSTED) return { kind: 'untrusted', address, detail: UNTRUSTED[code]! }
  if (code === 'EPROTO' || /SSL/.test(code)) {
    return { kind: 'malformed', address, detail: 'the port does not speak TLS' }
  }
  if (error instanceof errors.HTTPParserError || /UND_ERR_HEADERS/.test(code)) {
    return { kind: 'malformed', address, detail: 'the port does not speak HTTP as it should' }
  }
  return { kind: 'connectionLost', address, detail: code === '' ? String(error) : code }
}

function errorCode(error: unknown): string {
  if (!(error instanceof Error)) return ''
  const code = 'code' in error && typeof error.code === 'string' ? error.code : ''
  return code === '' && error.cause !== undefined ? errorCode(error.cause) : code
}
