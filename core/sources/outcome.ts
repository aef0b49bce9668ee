import { formatBytes, formatElapsed } from '../units/index.ts'

/** Why a certificate is not trusted (X.509, RFC 5280 §6; names RFC 6125). */
export type Distrust =
  | 'unknownAuthority'
  | 'signedByItself'
  | 'expired'
  | 'notYetValid'
  | 'wrongName'
  | 'wrongSignature'
  | 'wrongPurpose'
  | 'otherFingerprint'

/** Why a source could not be read. Each state carries exactly what is known of it. */
export type Failure =
  | { readonly kind: 'unknownName'; readonly host: string }
  | { readonly kind: 'connectionRefused'; readonly address: string }
  | { readonly kind: 'unreachable'; readonly address: string; readonly detail: string }
  | { readonly kind: 'filtered'; readonly address: string; readonly waitedMs: number; readonly hint?: string }
  | { readonly kind: 'connectionLost'; readonly address: string; readonly detail: string }
  | { readonly kind: 'timedOut'; readonly address: string; readonly waitedMs: number; readonly hint?: string }
  | { readonly kind: 'plainOnly'; readonly address: string; readonly seen: string }
  | { readonly kind: 'tlsOnly'; readonly address: string }
  | {
      readonly kind: 'otherProtocol'
      readonly address: string
      readonly asked: string
      readonly seen: string
    }
  | {
      readonly kind: 'untrusted'
      readonly address: string
      readonly detail: string
      readonly reason?: Distrust
    }
  | {
      readonly kind: 'credentialsRefused'
      readonly address: string
      readonly detail: string
      readonly hint?: string
    }
  /** What is kept of its credential cannot be opened with the key of this installation. */
  | { readonly kind: 'sealedShut'; readonly address: string }
  /** Its credential may not go there: somebody has said where it may. */
  | { readonly kind: 'elsewhere'; readonly address: string; readonly detail: string }
  | { readonly kind: 'notAllowed'; readonly address: string; readonly what: string }
  | { readonly kind: 'malformed'; readonly address: string; readonly detail: string }
  | { readonly kind: 'tooLarge'; readonly address: string; readonly limitBytes: number }
  | {
      readonly kind: 'unsupported'
      readonly address: string
      readonly detail: string
      readonly hint?: string
    }

export type FailureKind = Failure['kind']

export type Outcome<Found> =
  { readonly kind: 'found'; readonly found: Found } | { readonly kind: 'failed'; readonly failure: Failure }

/** What happened, what was received, and what usually mends it. */
export const failureSentence = (failure: Failure): string => `${whatHappened(failure)} ${whatMends(failure)}`

/** What happened and what was received, without advice. */
export function whatHappened(failure: Failure): string {
  switch (failure.kind) {
    case 'unknownName':
      return `The name ${failure.host} is not known to the resolver.`
    case 'connectionRefused':
      return `${failure.address} refused the connection: nothing listens on this port.`
    case 'unreachable':
      return `There is no way to ${failure.address} from here (${failure.detail}).`
    case 'filtered':
      return `Nothing came back from ${failure.address} within ${formatElapsed(failure.waitedMs)}.`
    case 'connectionLost':
      return `${failure.address} closed the connection before its answer was complete (${failure.detail}).`
    case 'timedOut':
      return `${failure.address} did not answer within ${formatElapsed(failure.waitedMs)}.`
    case 'plainOnly':
      return `${failure.address} does not speak TLS: it answered plainly, “${failure.seen}”.`
    case 'tlsOnly':
      return `${failure.address} speaks nothing but TLS, and was asked plainly.`
    case 'otherProtocol':
      return `${failure.address} answers something else than ${failure.asked}: “${failure.seen}”.`
    case 'untrusted':
      return `The certificate of ${failure.address} is not trusted: ${failure.detail}.`
    case 'credentialsRefused':
      return `${failure.address} refused the credential (${failure.detail}).`
    case 'sealedShut':
      return `${failure.address} was not asked: its credential cannot be opened, for another key sealed it, or it was altered.`
    case 'elsewhere':
      return `${failure.address} was not asked: its credential is not for there; ${failure.detail}.`
    case 'notAllowed':
      return `The account may not read ${failure.what} on ${failure.address}.`
    case 'malformed':
      return `${failure.address} answered something that is not what it should be: ${failure.detail}.`
    case 'tooLarge':
      return `${failure.address} sent more than ${formatBytes(failure.limitBytes)} in one answer; the rest was not read.`
    case 'unsupported':
      return `${failure.address}: ${failure.detail}.`
    default:
      return failure satisfies never
  }
}

/** What usually mends it. */
export function whatMends(failure: Failure): string {
  switch (failure.kind) {
    case 'unknownName':
      return 'Check its spelling, or give an address.'
    case 'connectionRefused':
      return 'Check the port, and that the service is switched on there.'
    case 'unreachable':
      return 'Check the address, its network and the route to it.'
    case 'filtered':
      return failure.hint ?? 'It may be off, or a firewall in between drops what is sent to this port.'
    case 'connectionLost':
      return 'Ask it again; if it happens each time, its service may have failed: restart that.'
    case 'timedOut':
      return failure.hint ?? 'It may be off, too slow, or behind a firewall that drops.'
    case 'plainOnly':
      return 'Ask it by http://, or give the port where its TLS answers.'
    case 'tlsOnly':
      return 'Ask it by https://.'
    case 'otherProtocol':
      return `Check the port: this is not where ${failure.asked} answers.`
    case 'untrusted':
      return TRUST_MENDS[failure.reason ?? 'unknownAuthority']
    case 'credentialsRefused':
      return failure.hint ?? 'Check user and password; a read-only account is enough.'
    case 'sealedShut':
      return 'Put back the file secret.key that belongs to this database, or enter the credential anew.'
    case 'elsewhere':
      return 'Say under Settings, Credentials, where it may go; or take another credential.'
    case 'notAllowed':
      return 'Give it the right to read; nothing more is needed.'
    case 'malformed':
      return 'Check that this is the right port and path; if it is, its software may need an update.'
    case 'tooLarge':
      return 'Check that this is the right port and path.'
    case 'unsupported':
      return failure.hint ?? 'Check that this is the right kind of source for it.'
    default:
      return failure satisfies never
  }
}

const PINNED = 'or trust this one certificate by its fingerprint'
const TRUST_MENDS: Record<Distrust, string> = {
  unknownAuthority: `Give the authority that signed it to this source, ${PINNED}.`,
  signedByItself: 'Compare its fingerprint with what the device itself shows, and trust that.',
  expired: `Renew it on the device, ${PINNED} until then.`,
  notYetValid: 'Set the clock of the device, or of this machine.',
  wrongName: `Use a name that it is made out to as the address, ${PINNED}.`,
  wrongSignature: 'Its chain is broken: install it again on the device, with its intermediate certificates.',
  wrongPurpose: `Install one on the device that is made for a TLS server, ${PINNED}.`,
  otherFingerprint:
    'It was replaced since it was trusted. Find out by whom, then trust the new one, or refuse it.',
}
