import { z } from 'zod'
import { isMeasureKey } from '#core/measures'
import { ROLES } from '#db/accounts'

const name = (what: string) =>
  z.string().trim().min(1, `Enter ${what}`).max(64, `${what} is longer than 64 characters`)
const wholeNumber = (what: string) =>
  z
    .string()
    .trim()
    .regex(/^\d{1,6}$/, `${what} is a whole number`)
    .transform(Number)
const newAccount = z.object({
  name: name('a name'),
  email: z.email('Enter a mail address, like name@example.org'),
  password: z
    .string()
    .min(10, 'A password has at least 10 characters')
    .max(200, 'A password has at most 200 characters'),
})

export const firstAdministrator = newAccount.extend({ site: name('the name of the site') })
export const person = newAccount.extend({ role: z.enum(ROLES) })
export const roleChange = z.object({ id: z.string().min(1), role: z.enum(ROLES) })

export const room = z.object({ name: name('a name for the room') })
export const rack = z.object({
  roomId: wholeNumber('The room'),
  name: name('a name for the rack'),
  heightUnits: wholeNumber('The height').pipe(
    z.number().min(1, 'A rack has at least 1 U').max(60, 'A rack has at most 60 U'),
  ),
})
export const placing = z.object({
  gearId: wholeNumber('The gear'),
  rackId: wholeNumber('The rack'),
  unit: wholeNumber('The lowest unit').pipe(z.number().min(1, 'The lowest unit of a rack is 1')),
  heightUnits: wholeNumber('The height').pipe(z.number().min(1, 'A gear is at least 1 U high')),
})

const common = {
  name: name('a name for the source'),
  intervalSeconds: wholeNumber('The interval').pipe(
    z.number().min(5, 'An interval has at least 5 s').max(86_400),
  ),
}
/** A source as it is filled in, one shape per protocol. */
export const newSource = z.discriminatedUnion('protocol', [
  z.object({
    ...common,
    protocol: z.literal('redfish'),
    address: z.url({ protocol: /^https$/, error: 'The address of a controller begins with https://' }),
    credential: z.string(),
    username: z.string().trim(),
    password: z.string(),
    authorityPem: z
      .string()
      .trim()
      .refine(
        (pem) => pem === '' || /^-----BEGIN CERTIFICATE-----[\s\S]+-----END CERTIFICATE-----$/.test(pem),
        {
          error:
            'An authority is pasted as PEM, from -----BEGIN CERTIFICATE----- to -----END CERTIFICATE-----',
        },
      ),
  }),
  z.object({
    ...common,
    protocol: z.literal('snmp'),
    address: z
      .string()
      .trim()
      .regex(/^[^\s/]+$/, 'The address is a host, with :port if it is not 161'),
    credential: z.string(),
    version: z.enum(['v2c', 'v3']),
    community: z.string().trim(),
    username: z.string().trim(),
    authPassword: z.string(),
    privPassword: z.string(),
  }),
  z.object({ ...common, protocol: z.literal('otlp') }),
])
export type NewSourceForm = z.infer<typeof newSource>

export const mail = z.object({
  host: z.string().trim().min(1, 'Enter the host of the mail server'),
  port: wholeNumber('The port').pipe(z.number().min(1).max(65_535, 'A port is at most 65535')),
  from: z.email('Enter the address that mail comes from'),
  team: name('the name of the team that is told'),
  to: z
    .string()
    .transform((text) => text.split(/[\s,;]+/).filter(Boolean))
    .pipe(z.array(z.email('Each recipient is a mail address')).min(1, 'Enter at least one recipient')),
  username: z.string().trim(),
  password: z.string(),
})

export const retention = z
  .object({
    measure: z.string().refine(isMeasureKey, 'This measure is not known here'),
    rawDays: wholeNumber('The days of readings').pipe(
      z.number().min(1, 'Readings are kept for at least a day').max(36_500),
    ),
    summaryDays: wholeNumber('The days of summaries').pipe(z.number().max(36_500)),
  })
  .refine(({ rawDays, summaryDays }) => summaryDays >= rawDays, {
    error: 'Summaries are kept at least as long as the readings they sum up',
  })

/** The first thing that is wrong, as the sentence for the form. */
export const firstProblem = (error: z.ZodError): string =>
  `${error.issues[0]?.message ?? 'Something is missing'}.`
