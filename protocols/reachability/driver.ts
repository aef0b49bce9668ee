import { z } from 'zod'
import { type Exchange, type Failure, whatHappened } from '#core/sources'
import { type GearKind, isGearKind } from '#core/catalogue'
import type { Findings } from '#core/gear'
import type { Driver } from '#protocols/driver'
import { echo } from './echo.ts'
import { endpointOf, FetchFailure, get, openAgent } from '#protocols/http'
import { addressOf, type Endpoint, openTcp, shakeHands, type Trust } from '#protocols/reach'

const LIMIT_BYTES = 1024 * 1024
const DAY_MS = 86_400_000

export const reachabilityTarget = z.object({
  address: z.url({
    protocol: /^(icmp|tcp|https?)$/,
    error: 'The address of a service begins with icmp://, tcp://, http:// or https://',
  }),
  settings: z.object({
    authorityPem: z.string().nullable().default(null),
    fingerprint: z.string().nullable().default(null),
    /** What people call it, and what it is. */
    name: z.string().default(''),
    kind: z.string().refine(isGearKind, 'This kind of gear is not known here').default('service'),
  }),
})
type Called = Pick<z.infer<typeof reachabilityTarget>['settings'], 'name' | 'kind'>

/**
 * Whether a service is reached, and how fast: a TCP connection (RFC 9293), an answer of HTTP(S) with status 200, or ICMP echo. That
 * it is not reached is a reading, and no failure of the source: there is always something to tell.
 */
export const reachability: Driver = {
  protocol: 'reach',
  reach(target) {
    const { address, settings } = reachabilityTarget.parse(target)
    const url = new URL(address)
    const transport = url.protocol === 'icmp:' ? 'icmp' : url.protocol === 'https:' ? 'tls' : 'tcp'
    return { ...placeOf(url), transport, trust: settings }
  },
  async greet(target, timeoutMs) {
    const { host } = placeOf(new URL(reachabilityTarget.parse(target).address))
    const { failure, lost } = await echo(host, timeoutMs)
    if (failure !== null) return { kind: 'failed', failure }
    return { kind: 'found', found: lost === 0 ? 'Each echo came back.' : 'Some of the echoes came back.' }
  },
  async collect({ target, timeoutMs, trace }) {
    const { address, settings } = reachabilityTarget.parse(target)
    const url = new URL(address)
    const endpoint = placeOf(url)
    if (url.protocol === 'icmp:') {
      const echoes = await echo(endpoint.host, timeoutMs)
      // Who may not send knows nothing of the far side.
      if (echoes.failure?.kind === 'unsupported') return { kind: 'failed', failure: echoes.failure }
      return {
        kind: 'found',
        found: reachFindings(url, settings, {
          failure: echoes.failure,
          tookMs: echoes.tookMs,
          validToMs: null,
          lost: echoes.lost,
        }),
      }
    }
    const startedMs = performance.now()
    const [failure, certificate] = await Promise.all([
      url.protocol === 'tcp:'
        ? touch(endpoint, timeoutMs)
        : ask(url, { trust: settings, timeoutMs, ...(trace === undefined ? {} : { trace }) }),
      url.protocol === 'https:' ? shakeHands(endpoint, settings, timeoutMs) : null,
    ])
    const tookMs = performance.now() - startedMs
    return {
      kind: 'found',
      found: reachFindings(url, settings, { failure, tookMs, validToMs: validTo(certificate) }),
    }
  },
}

const nameOf = (url: URL): string =>
  url.protocol === 'icmp:'
    ? placeOf(url).host
    : `${addressOf(placeOf(url))}${url.pathname === '/' ? '' : url.pathname}`

/** The port of `tcp://` has to be there; those of the others have one by custom. */
function placeOf(url: URL): Endpoint {
  const endpoint = endpointOf(url)
  if (url.protocol === 'tcp:' && url.port === '')
    throw new z.ZodError([
      {
        code: 'custom',
        path: ['address'],
        message: 'A tcp:// address ends with a port, as tcp://192.0.2.30:22',
        input: url.href,
      },
    ])
  return endpoint
}

async function touch(endpoint: Endpoint, timeoutMs: number): Promise<Failure | null> {
  const opened = await openTcp(endpoint, timeoutMs)
  if ('failure' in opened) return opened.failure
  opened.socket.destroy()
  return null
}

async function ask(
  url: URL,
  rest: { trust: Trust; timeoutMs: number; trace?: (exchange: Exchange) => void },
): Promise<Failure | null> {
  const agent = openAgent(rest.trust)
  const { trace } = rest
  try {
    await get(
      {
        origin: url.origin,
        agent,
        headers: {},
        signal: AbortSignal.timeout(rest.timeoutMs),
        timeoutMs: rest.timeoutMs,
        limitBytes: LIMIT_BYTES,
        protocol: 'HTTP',
        ...(trace === undefined
          ? {}
          : { trace: { tell: (each) => trace({ ...each, isAccepted: false }), credential: null } }),
      },
      `${url.pathname}${url.search}`,
      '*/*',
    )
    return null
  } catch (error) {
    if (error instanceof FetchFailure) return error.failure
    throw error
  } finally {
    void agent.destroy()
  }
}

const validTo = (hands: Awaited<ReturnType<typeof shakeHands>> | null): number | null =>
  hands?.certificate?.validToMs ?? null

/** What is told of a service from whether it was reached. */
export function reachFindings(
  url: URL,
  called: Called,
  seen: { failure: Failure | null; tookMs: number | null; validToMs: number | null; lost?: number },
): Findings {
  const key = url.href
  const isReached = seen.failure === null
  const read = (measure: Findings['readings'][number]['measure'], value: number | null) => ({
    gear: key,
    part: null,
    measure,
    value,
  })
  return {
    gear: [
      {
        key,
        kind: called.kind as GearKind,
        name: called.name || nameOf(url),
        identities: [],
        facts: {
          speaks: url.protocol.slice(0, -1),
          ...(seen.failure === null ? {} : { why: whatHappened(seen.failure) }),
        },
        parts: [],
      },
    ],
    links: [],
    readings: [
      read('net.reachable', isReached ? 1 : 0),
      read('net.response_time', isReached && seen.tookMs !== null ? Math.round(seen.tookMs * 10) / 10 : null),
      ...(seen.lost === undefined ? [] : [read('net.loss', seen.lost)]),
      ...(url.protocol === 'https:'
        ? [
            read(
              'net.certificate.days_left',
              seen.validToMs === null ? null : Math.floor((seen.validToMs - Date.now()) / DAY_MS),
            ),
          ]
        : []),
    ],
  }
}
