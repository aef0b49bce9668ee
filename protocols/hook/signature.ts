import { createHash, createHmac, timingSafeEqual } from 'node:crypto'

/**
 * What of a request is signed, in order: derived components begin with `@`, all others are header fields in lower case
 * (RFC 9421 §2).
 */
export interface Component {
  readonly name: string
  readonly value: string
}

export interface SignatureParameters {
  readonly createdS: number
  readonly keyId: string
  /** Named in the parameters only where it is given: with `hmac-sha256` it is known from the key otherwise. */
  readonly algorithm?: 'hmac-sha256'
}

const parametersOf = (components: readonly Component[], parameters: SignatureParameters): string =>
  `(${components.map(({ name }) => `"${name}"`).join(' ')});created=${parameters.createdS};keyid="${parameters.keyId}"${
    parameters.algorithm === undefined ? '' : `;alg="${parameters.algorithm}"`
  }`

/** HTTP message signature with a shared secret: `hmac-sha256` (RFC 9421 §2.5, §3.1, §3.3.3). */
export function signatureOf(
  components: readonly Component[],
  parameters: SignatureParameters,
  secret: Buffer,
): { readonly input: string; readonly signature: string } {
  const input = parametersOf(components, parameters)
  const base = [
    ...components.map(({ name, value }) => `"${name}": ${value}`),
    `"@signature-params": ${input}`,
  ].join('\n')
  return { input, signature: createHmac('sha256', secret).update(base).digest('base64') }
}

/** `Content-Digest` of a body (RFC 9530 §2). */
export const contentDigest = (body: string | Buffer): string =>
  `sha-256=:${createHash('sha256').update(body).digest('base64')}:`

/** The headers that sign a `POST` of a body: method, address, body and the id by which a repeat is recognised. */
export function signedHeaders(
  url: string,
  body: string,
  { id, createdS, secret }: { readonly id: string; readonly createdS: number; readonly secret: string },
): Record<string, string> {
  const digest = contentDigest(body)
  const headers = {
    'content-type': 'application/json',
    'content-digest': digest,
    'idempotency-key': `"${id}"`,
  }
  const { input, signature } = signatureOf(
    signedComponents(url, headers),
    { createdS, keyId: 'restless-rack', algorithm: 'hmac-sha256' },
    Buffer.from(secret, 'utf8'),
  )
  return { ...headers, 'signature-input': `rack=${input}`, signature: `rack=:${signature}:` }
}

export type SignedHeaders = Readonly<Record<'content-type' | 'content-digest' | 'idempotency-key', string>>

const signedComponents = (url: string, headers: SignedHeaders): Component[] => [
  { name: '@method', value: 'POST' },
  { name: '@target-uri', value: new URL(url).href },
  { name: 'content-type', value: headers['content-type'] },
  { name: 'content-digest', value: headers['content-digest'] },
  { name: 'idempotency-key', value: headers['idempotency-key'] },
]

/** How a receiver checks a request: whether it was signed with the secret, and its body is what was signed. */
export function isSignedBy(
  secret: string,
  request: {
    readonly url: string
    readonly body: Buffer
    readonly headers: Readonly<Record<string, unknown>>
  },
): boolean {
  const { headers } = request
  const text = (name: string): string => (typeof headers[name] === 'string' ? headers[name] : '')
  const created = /;created=(\d+)/.exec(text('signature-input'))?.[1]
  const given = /^rack=:(.+):$/.exec(text('signature'))?.[1]
  if (created === undefined || given === undefined) return false
  if (text('content-digest') !== contentDigest(request.body)) return false
  const { input, signature } = signatureOf(
    signedComponents(request.url, {
      'content-type': text('content-type'),
      'content-digest': text('content-digest'),
      'idempotency-key': text('idempotency-key'),
    }),
    { createdS: Number(created), keyId: 'restless-rack', algorithm: 'hmac-sha256' },
    Buffer.from(secret, 'utf8'),
  )
  const [a, b] = [Buffer.from(given), Buffer.from(signature)]
  return text('signature-input') === `rack=${input}` && a.length === b.length && timingSafeEqual(a, b)
}
