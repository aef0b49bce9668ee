import { formatBytes, formatElapsed } from '../units/index.ts'

/** Why a source could not be read. Each state carries exactly what is known of it. */
export type Failure =
  | { readonly kind: 'unknownName'; readonly host: string }
  | { readonly kind: 'connectionRefused'; readonly address: string }
  | { readonly kind: 'connectionLost'; readonly address: string; readonly detail: string }
  | { readonly kind: 'timedOut'; readonly address: string; readonly waitedMs: number; readonly hint?: string }
  | { readonly kind: 'untrusted'; readonly address: string; readonly detail: string }
  | { readonly kind: 'credentialsRefused'; readonly address: string; readonly detail: string }
  | { readonly kind: 'notAllowed'; readonly address: string; readonly what: string }
  | { readonly kind: 'malformed'; readonly address: string; readonly detail: string }
  | { readonly kind: 'tooLarge'; readonly address: string; readonly limitBytes: number }
  | { readonly kind: 'unsupported'; readonly address: string; readonly detail: string }

export type FailureKind = Failure['kind']

export type Outcome<Found> =
  { readonly kind: 'found'; readonly found: Found } | { readonly kind: 'failed'; readonly failure: Failure }

/** What happened, what was received, and what usually mends it. */
export function failureSentence(failure: Failure): string {
  switch (failure.kind) {
    case 'unknownName':
      return `The name ${failure.host} is not known to the resolver. Check its spelling, or give an address.`
    case 'connectionRefused':
      return `${failure.address} refused the connection: nothing listens on this port. Check the port and that the service is on.`
    case 'connectionLost':
      return `${failure.address} closed the connection before its answer was complete (${failure.detail}).`
    case 'timedOut':
      return `${failure.address} did not answer within ${formatElapsed(failure.waitedMs)}. ${failure.hint ?? 'It may be off, too slow, or behind a firewall that drops.'}`
    case 'untrusted':
      return `The certificate of ${failure.address} is not trusted (${failure.detail}). Give the authority that signed it to this source.`
    case 'credentialsRefused':
      return `${failure.address} refused the credential (${failure.detail}). Check user and password; a read-only account is enough.`
    case 'notAllowed':
      return `The account may not read ${failure.what} on ${failure.address}. Give it the right to read; nothing more is needed.`
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
