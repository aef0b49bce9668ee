import { createPrivateKey, createPublicKey, hkdfSync, type KeyObject, sign } from 'node:crypto'
import { differenceLines } from '#core/accounts'
import type { Recorded } from '#db/accounts'
import type { SecretKey } from '#db/sources'

/** As many lines as a file has at most: the newest that fit the filter. */
export const MOST_LINES = 100_000

/** PKCS #8 of an Ed25519 key up to its 32 bytes (RFC 8410 §7). */
const PKCS8_HEAD = Buffer.from('302e020100300506032b657004220420', 'hex')

/** The key that signs the record: derived from the key of the installation (RFC 5869), and known by its public half. */
function signingKey(key: SecretKey): KeyObject {
  const seed = Buffer.from(hkdfSync('sha256', key, '', 'record of who did what', 32))
  return createPrivateKey({ key: Buffer.concat([PKCS8_HEAD, seed]), format: 'der', type: 'pkcs8' })
}

/** For whoever checks a file: its public half, as PEM (RFC 8410 §4). */
export const recordPublicKey = (key: SecretKey): string =>
  createPublicKey(signingKey(key)).export({ type: 'spki', format: 'pem' }).toString()

/**
 * The record as JSON lines, oldest first, and after them one with the signature (Ed25519, RFC 8032) of all bytes before it.
 * @param lines newest first
 */
export function signedLines(lines: readonly Recorded[], key: SecretKey): string {
  const body = lines
    .toReversed()
    .map(({ at, ...line }) => `${JSON.stringify({ at: at.toISOString(), ...line })}\n`)
    .join('')
  const signature = sign(null, Buffer.from(body), signingKey(key)).toString('base64')
  const last = { lines: lines.length, algorithm: 'Ed25519', signature, key: recordPublicKey(key) }
  return `${body}${JSON.stringify(last)}\n`
}

/** The record as a table, oldest first. @param lines newest first */
export const recordSheet = (lines: readonly Recorded[]) => ({
  name: 'Audit record',
  head: ['at', 'who', 'account', 'from', 'what', 'kind', 'outcome', 'what differs'],
  rows: lines
    .toReversed()
    .map(({ at, who, accountId, address, what, kind, outcome, rows }) => [
      at.toISOString(),
      who,
      accountId ?? '',
      address ?? '',
      what,
      kind,
      outcome,
      rows.flatMap(differenceLines).join('\n'),
    ]),
})
