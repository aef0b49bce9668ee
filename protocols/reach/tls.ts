import { X509Certificate } from 'node:crypto'
import { connect as connectTls, type DetailedPeerCertificate, type TLSSocket } from 'node:tls'
import { isIP } from 'node:net'
import type { Certificate, Distrust, Failure } from '#core/sources'
import { addressOf, type Endpoint, firstWords, openTcp, printable } from './tcp.ts'
import { errorCode, systemWords } from './words.ts'

/**
 * What a source trusts: an authority of its own in the place of the public ones, or one certificate by its fingerprint
 * (SHA-256, hex pairs), whatever else is wrong with it. With neither, the public authorities.
 */
export interface Trust {
  readonly authorityPem: string | null
  readonly fingerprint: string | null
}

const DISTRUST: Readonly<Record<string, { reason: Distrust; detail: string }>> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: { reason: 'signedByItself', detail: 'it is signed by itself' },
  SELF_SIGNED_CERT_IN_CHAIN: {
    reason: 'unknownAuthority',
    detail: 'its authority is not one of the trusted',
  },
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: {
    reason: 'unknownAuthority',
    detail: 'its authority is not one of the trusted',
  },
  UNABLE_TO_GET_ISSUER_CERT: {
    reason: 'unknownAuthority',
    detail: 'its authority is not one of the trusted',
  },
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: {
    reason: 'unknownAuthority',
    detail: 'its authority is not one of the trusted',
  },
  CERT_UNTRUSTED: { reason: 'unknownAuthority', detail: 'its authority is not one of the trusted' },
  CERT_SIGNATURE_FAILURE: {
    reason: 'wrongSignature',
    detail: 'the signature of its authority does not fit',
  },
  INVALID_PURPOSE: { reason: 'wrongPurpose', detail: 'it is not made for a server' },
  CERT_HAS_EXPIRED: { reason: 'expired', detail: 'it has expired' },
  CERT_NOT_YET_VALID: { reason: 'notYetValid', detail: 'it is not valid yet' },
  ERR_TLS_CERT_ALTNAME_INVALID: { reason: 'wrongName', detail: 'it is made out to another name' },
}

/** Words for a code of the TLS library that says that a certificate is not trusted; `null` for other codes. */
export function distrustFailure(code: string, address: string): Failure | null {
  const known = DISTRUST[code]
  return known === undefined ? null : { kind: 'untrusted', address, ...known }
}

/** A certificate that is not the one that was trusted by its fingerprint. */
export class OtherFingerprint extends Error {}

/** @throws OtherFingerprint when a fingerprint is asked for and is another */
export function checkFingerprint(socket: TLSSocket, { fingerprint }: Trust): void {
  if (fingerprint !== null && socket.getPeerCertificate().fingerprint256 !== fingerprint)
    throw new OtherFingerprint('the certificate is not the one that was trusted by its fingerprint')
}

export const otherFingerprint = (address: string): Failure => ({
  kind: 'untrusted',
  address,
  reason: 'otherFingerprint',
  detail: 'it is not the one that was trusted by its fingerprint',
})

export interface Handshake {
  readonly failure: Failure | null
  readonly certificate: Certificate | null
  /** Protocol and cipher, as “TLSv1.3, TLS_AES_256_GCM_SHA384”. */
  readonly spoken: string
}

/** One TLS handshake (RFC 8446) to see what is presented and whether it is trusted; then the connection is closed. */
export async function shakeHands(endpoint: Endpoint, trust: Trust, timeoutMs: number): Promise<Handshake> {
  const opened = await openTcp(endpoint, timeoutMs)
  if ('failure' in opened) return { failure: opened.failure, certificate: null, spoken: '' }
  const socket = connectTls({
    socket: opened.socket,
    ...(isIP(endpoint.host) === 0 ? { servername: endpoint.host } : {}),
    host: endpoint.host,
    // Whether it is trusted is read afterwards, so that what was presented can be shown either way.
    rejectUnauthorized: false,
    ...(trust.authorityPem === null ? {} : { ca: trust.authorityPem }),
  })
  const problem = await new Promise<Error | null>((resolve) => {
    const deadline = setTimeout(() => resolve(new Error('no answer to the handshake')), timeoutMs)
    const give = (error: Error | null): void => {
      clearTimeout(deadline)
      resolve(error)
    }
    socket.on('error', give)
    socket.once('close', () => give(new Error('closed during the handshake')))
    socket.once('secureConnect', () => give(null))
  })
  try {
    if (problem !== null)
      return { failure: await handshakeFailure(problem, endpoint, timeoutMs), certificate: null, spoken: '' }
    const certificate = certificateOf(socket.getPeerCertificate(true))
    const spoken = `${socket.getProtocol() ?? 'TLS'}, ${socket.getCipher().name}`
    return { failure: trustFailure(socket, trust, endpoint, certificate), certificate, spoken }
  } finally {
    socket.destroy()
  }
}

function trustFailure(
  socket: TLSSocket,
  trust: Trust,
  endpoint: Endpoint,
  certificate: Certificate,
): Failure | null {
  const address = addressOf(endpoint)
  if (trust.fingerprint !== null)
    return certificate.fingerprint === trust.fingerprint ? null : otherFingerprint(address)
  if (socket.authorized) return null
  const code = String(socket.authorizationError)
  if (certificate.issuer === certificate.subject && code !== 'CERT_HAS_EXPIRED')
    return { kind: 'untrusted', address, ...DISTRUST['DEPTH_ZERO_SELF_SIGNED_CERT']! }
  const known = distrustFailure(errorCode(socket.authorizationError) || code, address)
  if (known?.kind !== 'untrusted') return { kind: 'untrusted', address, detail: code }
  if (known.reason === 'wrongName')
    return { ...known, detail: `it is made out to ${certificate.names.join(', ') || certificate.subject}` }
  if (known.reason === 'expired')
    return { ...known, detail: `it expired on ${new Date(certificate.validToMs).toISOString().slice(0, 10)}` }
  if (known.reason === 'unknownAuthority')
    return { ...known, detail: `it is signed by “${certificate.issuer}”, which is not one of the trusted` }
  return known
}

async function handshakeFailure(error: Error, endpoint: Endpoint, timeoutMs: number): Promise<Failure> {
  const address = addressOf(endpoint)
  const said = printable(await firstWords(endpoint, 'GET / HTTP/1.0\r\n\r\n', Math.min(1500, timeoutMs)))
  if (said.startsWith('HTTP/')) return { kind: 'plainOnly', address, seen: said }
  if (said !== '') return { kind: 'otherProtocol', address, asked: 'TLS', seen: said }
  if (error.message.startsWith('no answer')) return { kind: 'timedOut', address, waitedMs: timeoutMs }
  const code = errorCode(error)
  return { kind: 'connectionLost', address, detail: code === '' ? error.message : systemWords(code) }
}

/** Whether a port that was asked plainly would rather speak TLS. */
export async function speaksTls(endpoint: Endpoint, timeoutMs: number): Promise<boolean> {
  const { spoken } = await shakeHands(endpoint, { authorityPem: null, fingerprint: null }, timeoutMs)
  return spoken !== ''
}

function certificateOf(peer: DetailedPeerCertificate): Certificate {
  const top = topOf(peer)
  return {
    subject: nameOf(peer.subject),
    issuer: nameOf(peer.issuer),
    names: (peer.subjectaltname ?? '').split(', ').flatMap((entry) => {
      const name = /^(?:DNS|IP Address):(.+)$/.exec(entry)?.[1]
      return name === undefined ? [] : [name]
    }),
    validFromMs: Date.parse(peer.valid_from),
    validToMs: Date.parse(peer.valid_to),
    fingerprint: peer.fingerprint256,
    authority:
      top === null
        ? null
        : {
            subject: nameOf(top.subject),
            fingerprint: top.fingerprint256,
            pem: new X509Certificate(top.raw).toString(),
          },
  }
}

/** The topmost certificate that was sent along, unless there is only the one. */
function topOf(peer: DetailedPeerCertificate): DetailedPeerCertificate | null {
  let at = peer
  for (let depth = 0; depth < 10; depth += 1) {
    const next = at.issuerCertificate as DetailedPeerCertificate | undefined
    if (next === undefined || next.fingerprint256 === at.fingerprint256) break
    at = next
  }
  return at.fingerprint256 === peer.fingerprint256 ? null : at
}

const nameOf = (name: DetailedPeerCertificate['subject'] | undefined): string => {
  const common = name?.CN ?? name?.O ?? ''
  return Array.isArray(common) ? common.join(', ') : common
}
