export type IdentityKind = 'uuid' | 'serial' | 'wwn' | 'mac'

export interface Identity {
  readonly kind: IdentityKind
  readonly value: string
}

/** Which identity decides when two disagree: a UUID is unique by itself, a serial only within its maker. */
export const IDENTITY_PRECEDENCE: readonly IdentityKind[] = ['uuid', 'serial', 'wwn', 'mac']

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
        value: CANONICAL[kind](identity.value),
      }))
      .filter((identity): identity is Identity => identity.value !== null),
  )
}

const CANONICAL: Record<IdentityKind, (value: string) => string | null> = {
  uuid: canonicalUuid,
  serial: canonicalSerial,
  wwn: (value) => canonicalHex(value, 16),
  mac: (value) => canonicalHex(value, 12),
}

/** World wide names (8 octets) and hardware addresses (6): hex pairs, none of them all the same digit. */
function canonicalHex(value: string, digits: number): string | null {
  const hex = value.toLowerCase().replaceAll(/^(0x|naa\.|wwn-0x)|[:.\s-]/g, '')
  if (hex.length !== digits || !/^[0-9a-f]+$/.test(hex) || /^(.)\1*$/.test(hex)) return null
  return hex.match(/../g)!.join(':')
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
