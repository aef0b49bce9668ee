import { z } from 'zod'
import { ROLES, type Theme, THEMES } from '#core/accounts'
import { TEMPERATURE_SCALES, type TemperatureScale } from '#core/units'
import { name } from '../platform/fields.ts'
import { newPassword } from './passwords.ts'

const email = z
  .email('Enter a mail address, like name@example.org')
  .max(254, 'A mail address has at most 254 characters')

export const firstAdministrator = z.object({
  name: name('a name'),
  email,
  password: newPassword,
  site: name('the name of the site'),
})

export const invitation = z.object({ name: name('a name'), email, role: z.enum(ROLES) })

export const accountId = z.object({ id: z.string().min(1).max(64) })
export const roleChange = accountId.extend({ role: z.enum(ROLES, 'Choose what they may do') })
export const accountSwitch = accountId.extend({ isOn: z.enum(['yes', 'no']) })

export const chosenPassword = z
  .object({ password: newPassword, again: z.string() })
  .refine(({ password, again }) => password === again, 'The two are not the same; type them again')

export const passwordChange = z.object({
  current: z.string().min(1, 'Enter your present password'),
  password: newPassword,
})
export const ownPassword = z.object({ current: z.string().min(1, 'Enter your password') })
export const ownTheme = z.object({
  theme: z.enum(Object.keys(THEMES) as [Theme, ...Theme[]], 'Choose one of the themes'),
})
export const ownTemperatures = z.object({
  temperatures: z.enum(
    Object.keys(TEMPERATURE_SCALES) as [TemperatureScale, ...TemperatureScale[]],
    'Choose one of the two scales',
  ),
})
export const ownName = z.object({ name: name('a name') })
export const code = z.object({
  code: z
    .string()
    .transform((text) => text.replaceAll(/\s/g, ''))
    .pipe(z.string().min(6, 'Enter the code').max(40, 'That is no code')),
})
export const sessionId = z.object({ id: z.string().min(1).max(64) })

const DAY_MS = 86_400_000
const LONGEST_DAYS = 730

export const newToken = z.object({
  name: name('a name for the token'),
  role: z.enum(ROLES),
  days: z
    .string()
    .regex(/^\d{1,3}$/, 'A token holds for a whole number of days')
    .transform(Number)
    .pipe(
      z
        .number()
        .min(1, 'A token holds for a day at least')
        .max(LONGEST_DAYS, `A token holds for ${LONGEST_DAYS} days at most`),
    ),
  of: z.enum(['me', 'machine']).default('me'),
})

export const endOf = (days: number, nowMs: number): Date => new Date(nowMs + days * DAY_MS)

const groups = z
  .string()
  .max(2000, 'That is too long')
  .default('')
  .transform((text) => [...new Set(text.split(/[\n;]+/).map((each) => each.trim()))].filter(Boolean))

const isLoopback = ({ hostname }: URL): boolean => ['127.0.0.1', '[::1]', 'localhost'].includes(hostname)

/** Over TLS, as who asks has to know whom (OpenID Connect Core 1.0 §16.17); on the machine itself without. */
const issuer = z.url('Enter the address of the issuer, as https://login.example.org').refine((text) => {
  const url = new URL(text)
  return url.protocol === 'https:' || (url.protocol === 'http:' && isLoopback(url))
}, 'The address of an issuer begins with https://')

export const directoryForm = z.object({
  name: name('a name for the button'),
  issuer,
  clientId: z.string().trim().min(1, 'Enter the client id').max(200, 'That is too long'),
  clientSecret: z.string().max(500, 'That is too long').default(''),
  groupsClaim: z.string().trim().min(1, 'Enter the name of the claim').max(100, 'That is too long'),
  see: groups,
  operate: groups,
  administer: groups,
  isOn: z
    .string()
    .default('')
    .transform((text) => text === 'yes'),
})
