import { z } from 'zod'
import type { ProtocolDescriptor } from '#core/sources'
import type { Driver } from './driver.ts'

/** How what was filled in becomes the address and the settings of a source. */
export interface SourceForm {
  /** Its first problem is a sentence for people. */
  readonly address: z.ZodType<string, string>
  /** From the fields of the descriptor (and of trust), as text, to settings. */
  readonly settings: z.ZodType<Record<string, unknown>, unknown>
  /** What a mapping of its may be; `null` where it goes by none. */
  readonly mapping: z.ZodType | null
}

/** A protocol that is registered: what is said of it, how it is connected, and who speaks it. */
export interface Protocol {
  readonly descriptor: ProtocolDescriptor
  /** `null` of what pushes to us. */
  readonly polled: { readonly form: SourceForm; readonly driver: Driver } | null
}

const PEM = /^-----BEGIN CERTIFICATE-----[\s\S]+-----END CERTIFICATE-----$/
const nullWhenEmpty = (text: string): string | null => (text === '' ? null : text)

/** The fields of trust, as settings: an authority as PEM, or the SHA-256 of a certificate. */
export const trustSettings = {
  authorityPem: z
    .string()
    .trim()
    .refine((pem) => pem === '' || PEM.test(pem), {
      error: 'An authority is pasted as PEM, from -----BEGIN CERTIFICATE----- to -----END CERTIFICATE-----',
    })
    .transform(nullWhenEmpty)
    .default(null),
  fingerprint: z
    .string()
    .trim()
    .toUpperCase()
    .refine((text) => text === '' || /^([0-9A-F]{2}:){31}[0-9A-F]{2}$/.test(text), {
      error: 'A fingerprint is 32 pairs of hexadecimal digits with colons between (SHA-256)',
    })
    .transform(nullWhenEmpty)
    .default(null),
}

/** A host, with a port or without. */
export const hostAddress = (error: string): z.ZodType<string, string> =>
  z
    .string()
    .trim()
    .regex(/^[^\s/]+$/, error)

/** A URL; what has no scheme gets the usual one. */
export const urlAddress = (usual: string | null, scheme: RegExp, error: string): z.ZodType<string, string> =>
  z
    .string()
    .trim()
    .transform((text) =>
      usual === null || /^[a-z]+:\/\//i.test(text) || text === '' ? text : `${usual}://${text}`,
    )
    .pipe(z.url({ protocol: scheme, error }))

/** A whole number that is sent as text. */
export const wholeField = (what: string, most: number, least = 0): z.ZodType<number, string> =>
  z
    .string()
    .trim()
    .regex(/^\d{1,6}$/, `${what} is a whole number`)
    .transform(Number)
    .pipe(z.number().min(least, `${what} is at least ${least}`).max(most, `${what} is at most ${most}`))
