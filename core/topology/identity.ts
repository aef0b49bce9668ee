export type IdentityKind = 'uuid' | 'serial'

export interface Identity {
  readonly kind: IdentityKind
  readonly value: string
}

/** Which identity decides when two disagree: a UUID is unique by itself, a serial only within its maker. */
export const IDENTITY_PRECEDENCE: readonly IdentityKind[] = ['uuid', 'serial']

const PLACEHOLDERS = new Set([
  '',
  'NONE',
  'NA',
  'N/A',
  'UNKNOWN',
  'DEFAULT',
  'TO BE FILLED BY O.E.M.',
  '0',
  '0123456789',
])

/**
 * Identities in one spelling, in order of precedence, without those that name no single box: placeholders that makers
 * leave in, and the nil and all-ones UUID (RFC 4122 §4.1.7).
 */
export function usableIdentities(identities: readonly Identity[]): Identity[] {
  return IDENTITY_PRECEDENCE.flatMap((kind) =>
    identities
      .filter((identity) => identity.kind === kind)
      .map((identity) => ({
        kind,
        value: kind === 'uuid' ? canonicalUuid(identity.value) : canonicalSerial(identity.value),
      }))
      .filter((identity): identity is Identity => identity.value !== null),
  )
}

function canonicalUuid(value: string): string | null {
  const hex = value
    .toLowerCase()
    .replace(/^urn:uuid:/, '')
    .replaceAll(/[{}\s-]/g, '')
  if (!/^[0-9a-f]{32}$/.test(hex) || /^(0{32}|f{32})$/.test(hex)) return null
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}

function canonicalSerial(value: string): string | null {
  const serial = value.trim().toUpperCase()
  return PLACEHOLDERS.has(serial) ? null : serial
}
