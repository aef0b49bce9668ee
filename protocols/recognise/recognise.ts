import { z } from 'zod'
import type { Recognised } from '#core/sources'
import { encodeQuestion, frameLength } from '#protocols/modbus'
import { get, type HttpTarget, openAgent } from '#protocols/http'
import { formOf } from '#protocols/openmetrics'
import { addressOf, type Endpoint, firstWords, openTcp, printable, shakeHands } from '#protocols/reach'
import { recogniseAgent } from '#protocols/snmp'

/** A credential to try. Only SNMP is tried with one: over TLS nothing goes before somebody has trusted the far side. */
export interface TriedCredential {
  readonly id: number
  readonly kind: string
  readonly secret: Readonly<Record<string, string>>
}

export interface PortsToTry {
  readonly tcp: readonly number[]
  readonly udp: readonly number[]
}

/** Where these protocols answer by their standards: HTTPS, Modbus, HTTP, SSH; SNMP. */
export const USUAL_PORTS: PortsToTry = { tcp: [443, 502, 80, 22], udp: [161] }

const MODBUS_PORT = 502
const ANSWER_MS = 1200
const GREETING_MS = 300
const CONNECT_MS = 800
const LIMIT_BYTES = 4 * 1024 * 1024
const METRICS_PATH = '/metrics'

/** Everything that answers at a host on some ports. No credential goes anywhere but to SNMP. */
export async function recognise(
  host: string,
  ports: PortsToTry,
  credentials: readonly TriedCredential[],
): Promise<Recognised[]> {
  const found = await Promise.all([
    ...ports.tcp.map((port) => recognisePort({ host, port })),
    ...ports.udp.map((port) => recogniseAgent({ host, port }, credentials, ANSWER_MS)),
  ])
  return found.filter((each): each is Recognised => each !== null)
}

async function recognisePort(endpoint: Endpoint): Promise<Recognised | null> {
  const opened = await openTcp(endpoint, CONNECT_MS)
  if ('failure' in opened) return null
  opened.socket.destroy()
  if (endpoint.port === MODBUS_PORT) {
    const unit = await recogniseModbus(endpoint)
    if (unit !== null) return unit
  }
  // Who speaks first speaks none of what is looked for.
  const greeting = printable(await firstWords(endpoint, '', GREETING_MS))
  if (greeting !== '') return reachedBy(endpoint, greeting)
  const { certificate, failure } = await shakeHands(
    endpoint,
    { authorityPem: null, fingerprint: null },
    ANSWER_MS,
  )
  if (certificate !== null) return recogniseHttp(endpoint, 'https', certificate.fingerprint)
  const plain = failure?.kind === 'plainOnly' ? await recogniseHttp(endpoint, 'http', null) : null
  return plain ?? (await recogniseModbus(endpoint)) ?? reachedBy(endpoint, '')
}

const serviceRoot = z.object({
  RedfishVersion: z.string(),
  Product: z.string().nullish(),
  Vendor: z.string().nullish(),
})

type Ask = (path: string, accept: string) => Promise<Awaited<ReturnType<typeof get>> | null>

async function recogniseHttp(
  endpoint: Endpoint,
  scheme: 'http' | 'https',
  fingerprint: string | null,
): Promise<Recognised | null> {
  const origin = `${scheme}://${addressOf(endpoint)}`
  const agent = openAgent({ authorityPem: null, fingerprint })
  const ask: Ask = async (path, accept) => {
    const target: HttpTarget = {
      origin,
      agent,
      headers: {},
      signal: AbortSignal.timeout(ANSWER_MS),
      timeoutMs: ANSWER_MS,
      limitBytes: LIMIT_BYTES,
      protocol: 'HTTP',
    }
    return get(target, path, accept).catch(() => null)
  }
  try {
    const redfish = scheme === 'https' ? await recogniseRedfish(origin, ask) : null
    const known = redfish ?? (await recogniseMetrics(origin, ask))
    if (known !== null) return known
    const words = scheme === 'https' ? 'HTTPS' : await greetingOf(endpoint)
    if (words === null) return null
    return { protocol: 'reach', address: `${origin}/`, settings: {}, credentialId: null, said: words }
  } finally {
    void agent.destroy()
  }
}

async function recogniseRedfish(origin: string, ask: Ask): Promise<Recognised | null> {
  const root = await ask('/redfish/v1/', 'application/json')
  const parsed = root === null ? null : serviceRoot.safeParse(jsonOf(root.body))
  if (parsed?.success !== true) return null
  const { RedfishVersion, Product, Vendor } = parsed.data
  const maker = [Vendor, Product].filter(Boolean).join(' ')
  const said = `Redfish ${printable(RedfishVersion)}${maker === '' ? '' : `, ${printable(maker)}`}`
  return { protocol: 'redfish', address: origin, settings: {}, credentialId: null, said }
}

async function recogniseMetrics(origin: string, ask: Ask): Promise<Recognised | null> {
  const accept = 'application/openmetrics-text;version=1.0.0,text/plain;version=0.0.4'
  const metrics = await ask(METRICS_PATH, accept)
  const type = metrics?.headers['content-type'] ?? ''
  // A page of plain text may be anything; that which says its version is one of metrics.
  if (metrics === null || formOf(type) === null || !/version=/.test(type)) return null
  return {
    protocol: 'openmetrics',
    address: `${origin}${METRICS_PATH}`,
    settings: { access: 'none' },
    credentialId: null,
    said: `metrics, ${metrics.body.length} B of ${type.split(';')[0]}`,
  }
}

/** What a server without TLS says of itself; `null` when it speaks no HTTP. */
async function greetingOf(endpoint: Endpoint): Promise<string | null> {
  const words = printable(await firstWords(endpoint, 'GET / HTTP/1.0\r\n\r\n', ANSWER_MS))
  return words.startsWith('HTTP/') ? `HTTP, “${words}”` : null
}

function jsonOf(body: Buffer): unknown {
  try {
    return JSON.parse(body.toString('utf8')) as unknown
  } catch {
    return null
  }
}

async function recogniseModbus(endpoint: Endpoint): Promise<Recognised | null> {
  const question = encodeQuestion({ transaction: 0x5252, unit: 1, table: 'holding', address: 0, count: 1 })
  const answer = Buffer.from(await firstWords(endpoint, question, ANSWER_MS), 'latin1')
  try {
    // A refusal is an answer, too.
    if (frameLength(answer) === null || answer.readUInt16BE(0) !== 0x5252) return null
  } catch {
    return null
  }
  return {
    protocol: 'modbus',
    address: addressOf(endpoint),
    settings: { unit: 1 },
    credentialId: null,
    said: 'Modbus TCP; a register map says what it is',
  }
}

const reachedBy = (endpoint: Endpoint, words: string): Recognised => ({
  protocol: 'reach',
  address: `tcp://${addressOf(endpoint)}`,
  settings: {},
  credentialId: null,
  said: words === '' ? 'it takes connections and says nothing' : `it says “${words}”`,
})
