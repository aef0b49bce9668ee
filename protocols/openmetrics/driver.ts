import { z } from 'zod'
import { GEAR_KINDS, isMeasureKey, PART_KINDS } from '#core/catalogue'
import { type Failure, mapSeries, type MappingLine, type ToldSeries } from '#core/sources'
import type { Findings } from '#core/gear'
import type { Driver, Target } from '#protocols/driver'
import { endpointOf, FetchFailure, get, openAgent, type Reply } from '#protocols/http'
import { addressOf } from '#protocols/reach'
import { DocumentError, parseDocument } from './document.ts'
import type { DocumentForm, Family } from './shape.ts'

const LIMIT_BYTES = 16 * 1024 * 1024
/** What a person is shown at most, to write a mapping by. */
const MOST_TOLD = 3000
const ACCEPT = 'application/openmetrics-text;version=1.0.0;charset=utf-8,text/plain;version=0.0.4;q=0.5'

const keysOf = <Key extends string>(record: Readonly<Record<Key, unknown>>): [Key, ...Key[]] =>
  Object.keys(record) as [Key, ...Key[]]
const label = z.string().max(200)

/** One line of a mapping of metrics, as it is kept. */
export const mappingLine = z.object({
  metric: z
    .string()
    .regex(/^[a-zA-Z_:][a-zA-Z0-9_:]*$/, 'A metric is named by letters, digits, underscores and colons')
    .max(300),
  where: z.record(z.string().max(100), label).default({}),
  gear: z.string().trim().min(1, 'Each line of a mapping names a gear, or a label as {host}').max(200),
  kind: z.enum(keysOf(GEAR_KINDS)),
  part: z.string().trim().max(200).default(''),
  partKind: z.enum(keysOf(PART_KINDS)),
  measure: z.string().refine(isMeasureKey, 'This measure is not known here'),
  scale: z
    .number()
    .refine((scale) => Number.isFinite(scale) && scale !== 0, 'A factor is a number, and not 0'),
  isCount: z.boolean().default(false),
})
export const metricsMapping = z.array(mappingLine).max(500, 'A mapping has at most 500 lines')

const scrapeTarget = z.object({
  address: z.url({
    protocol: /^https?$/,
    error: 'The address of metrics begins with http:// or https://',
  }),
  settings: z.object({
    authorityPem: z.string().nullable().default(null),
    fingerprint: z.string().nullable().default(null),
    map: metricsMapping.default([]),
  }),
  secret: z.union([
    z.object({ username: z.string(), password: z.string() }),
    z.object({ token: z.string() }),
    z.object({}).strict(),
  ]),
})

/** Metrics as text, fetched over HTTP(S): OpenMetrics 1.0, or the plain text form 0.0.4 where that is all there is. */
export const scrape: Driver = {
  protocol: 'openmetrics',
  reach(target) {
    const { address, settings } = scrapeTarget.parse(target)
    const url = new URL(address)
    return {
      ...endpointOf(url),
      transport: url.protocol === 'https:' ? 'tls' : 'tcp',
      trust: { authorityPem: settings.authorityPem, fingerprint: settings.fingerprint },
    }
  },
  async collect({ target, timeoutMs, trace, told }) {
    const { address, settings } = scrapeTarget.parse(target)
    const url = new URL(address)
    const agent = openAgent(settings)
    try {
      const reply = await get(
        {
          origin: url.origin,
          agent,
          headers: authorization(target),
          signal: AbortSignal.timeout(timeoutMs),
          timeoutMs,
          limitBytes: LIMIT_BYTES,
          protocol: 'HTTP',
          ...(trace === undefined ? {} : { trace: { tell: trace, credential: credentialWord(target) } }),
        },
        `${url.pathname}${url.search}`,
        ACCEPT,
      )
      const series = seriesOf(familiesOf(reply, addressOf(endpointOf(url))))
      told?.({ kind: 'series', series: series.slice(0, MOST_TOLD) })
      return { kind: 'found', found: mapSeries(series, settings.map as MappingLine[], Date.now()).findings }
    } catch (error) {
      if (error instanceof FetchFailure) return { kind: 'failed', failure: advised(error.failure, target) }
      throw error
    } finally {
      void agent.destroy()
    }
  },
}

/** HTTP Basic (RFC 7617) or a bearer token (RFC 6750 §2.1). */
function authorization(target: Target): Record<string, string> {
  const { secret } = scrapeTarget.parse(target)
  if ('token' in secret) return { authorization: `Bearer ${secret.token}` }
  if ('username' in secret) {
    const pair = Buffer.from(`${secret.username}:${secret.password}`).toString('base64')
    return { authorization: `Basic ${pair}` }
  }
  return {}
}

/** A refused credential, with what to look at: there is no user and no password where a token is given, or nothing. */
function advised(failure: Failure, { secret }: Target): Failure {
  if (failure.kind !== 'credentialsRefused' || 'username' in secret) return failure
  return {
    ...failure,
    hint:
      'token' in secret
        ? 'Check the token: it may have ended, or may not read metrics.'
        : 'It asks for a credential, and none was given; choose one that may read metrics.',
  }
}

function credentialWord({ secret }: Target): string | null {
  if ('token' in secret) return 'a bearer token'
  return 'username' in secret ? `the user ${secret['username']}` : null
}

function familiesOf({ headers, body }: Reply, address: string): Family[] {
  const form = formOf(headers['content-type'] ?? '')
  if (form === null)
    throw failed({
      kind: 'unsupported',
      address,
      detail: `it answers with the content type “${(headers['content-type'] ?? 'none').slice(0, 80)}”, which is neither OpenMetrics 1.0 nor the plain text form 0.0.4`,
      hint: 'Check the path: metrics are often under one of their own, as /metrics.',
    })
  try {
    return parseDocument(body, form)
  } catch (error) {
    if (!(error instanceof DocumentError)) throw error
    throw failed({ kind: 'malformed', address, detail: `in its metrics, ${error.message}` })
  }
}

const failed = (failure: Failure): FetchFailure => new FetchFailure(failure)

/** Which form a content type names (RFC 9110 §8.3.1); `null` when it is another or another version. */
export function formOf(contentType: string): DocumentForm | null {
  const [type, ...rest] = contentType.split(';').map((part) => part.trim().toLowerCase())
  const parameters = new Map(
    rest.map((part) => {
      const [name, value = ''] = part.split('=')
      return [name!.trim(), value.trim().replaceAll('"', '')]
    }),
  )
  if (!['utf-8', 'utf8'].includes(parameters.get('charset') ?? 'utf-8')) return null
  const version = parameters.get('version')
  if (type === 'application/openmetrics-text') return version === '1.0.0' ? 'openmetrics' : null
  if (type === 'text/plain') return version === undefined || version === '0.0.4' ? 'plain' : null
  return null
}

/** The findings of one OpenMetrics 1.0 document by a mapping. @throws DocumentError */
export const findingsOfDocument = (text: string, lines: readonly MappingLine[], nowMs: number): Findings =>
  mapSeries(seriesOf(parseDocument(Buffer.from(text), 'openmetrics')), lines, nowMs).findings

/** The newest sample of each series. What tells when a count began goes to its count. */
function seriesOf(families: readonly Family[]): ToldSeries[] {
  const told = new Map<string, ToldSeries>()
  for (const { name, type, unit, help, samples } of families) {
    const began = new Map(
      samples.flatMap((sample) =>
        sample.name === `${name}_created` && type !== 'gauge' && type !== 'unknown'
          ? [[labelKey(sample.labels), sample.value * 1000] as const]
          : [],
      ),
    )
    for (const sample of samples) {
      if (sample.name.endsWith('_created') && began.size > 0) continue
      const key = `${sample.name}${labelKey(sample.labels)}`
      told.set(key, {
        name: sample.name,
        labels: Object.fromEntries(sample.labels),
        type,
        unit,
        help,
        // JSON has no sign for what is no number, and somebody looks at it before it is mapped.
        value: Number.isFinite(sample.value) ? sample.value : null,
        countingSinceMs: began.get(labelKey(sample.labels)) ?? null,
      })
    }
  }
  return [...told.values()]
}

const labelKey = (labels: ReadonlyMap<string, string>): string =>
  JSON.stringify([...labels].sort(([a], [b]) => (a < b ? -1 : 1)))
