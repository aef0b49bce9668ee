import { type GearKind, isGearKind, isMeasureKey, LINK_KINDS } from '#core/catalogue'
import { FACES, TURNS } from '#core/site'
import { GROUP_RULES, OWN_FIELD_KINDS, UNKNOWN_MEMBERS } from '#core/gear'
import { z } from 'zod'
import { REGISTER_TABLES, type Slower, SLOWER_CHOICES } from '#core/sources'
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

/** Metres as people write them, to millimetres. */
const metres = (what: string, mostMetres: number) =>
  z
    .string()
    .trim()
    .regex(/^\d{1,3}([.,]\d{1,3})?$/, `${what} is a number of metres, as 7.2`)
    .transform((text) => Math.round(Number(text.replace(',', '.')) * 1000))
    .pipe(
      z
        .number()
        .min(1000, `${what} is at least 1 m`)
        .max(mostMetres * 1000, `${what} is at most ${mostMetres} m`),
    )

export const room = z.object({
  name: name('a name for the room'),
  building: z.string().trim().max(64, 'The name of a building has at most 64 characters').default(''),
  widthMm: metres('The width', 200).default(6000),
  depthMm: metres('The depth', 200).default(4800),
})
export const rack = z.object({
  roomId: wholeNumber('The room'),
  name: name('a name for the rack'),
  heightUnits: wholeNumber('The height').pipe(
    z.number().min(1, 'A rack has at least 1 U').max(60, 'A rack has at most 60 U'),
  ),
})

const id = z.number().int().min(1)
const mm = z.number().int().min(-200_000).max(200_000)
const turn = z.union(TURNS.map((each) => z.literal(each)))
/** What was moved on a plan or in a rack, as JSON. */
export const moveForm = z.discriminatedUnion('what', [
  z.object({
    what: z.literal('mount'),
    gearId: id,
    place: z
      .object({
        rackId: id,
        unit: z.number().int().min(1, 'The lowest unit of a rack is 1'),
        heightUnits: z
          .number()
          .int()
          .min(1, 'A gear is at least 1 U high')
          .max(60, 'A rack has at most 60 U'),
        face: z.enum(FACES),
      })
      .nullable(),
  }),
  z.object({ what: z.literal('stand'), gearId: id, roomId: id, xMm: mm, yMm: mm, turn }),
  z.object({ what: z.literal('rack'), rackId: id, roomId: id, xMm: mm, yMm: mm, turn }),
])
export type Move = z.infer<typeof moveForm>

/** Tags with commas between, in small letters, each once. */
const tagList = z
  .string()
  .transform((text) =>
    [...new Set(text.split(/[,;\n]+/).map((tag) => tag.trim().toLowerCase()))].filter(Boolean),
  )
  .pipe(z.array(z.string().max(40, 'A tag has at most 40 characters')).max(20, 'A gear has at most 20 tags'))

/** Where a gear stands; without a rack nowhere yet. */
const placeFields = {
  rackId: z
    .string()
    .regex(/^\d{0,9}$/, 'Choose a rack')
    .default(''),
  unit: wholeNumber('The lowest unit').pipe(z.number().min(1, 'The lowest unit of a rack is 1')).default(1),
  heightUnits: wholeNumber('The height').pipe(z.number().min(1, 'A gear is at least 1 U high')).default(1),
}

/** What people say of a gear. Without a rack it is in the stock. */
export const gearForm = z.object({
  name: name('a name for the gear'),
  tags: tagList,
  ...placeFields,
})
export type GearForm = z.infer<typeof gearForm>
/** Two gear: `a` is kept where they are one. */
export const pairForm = z.object({ a: wholeNumber('The first gear'), b: wholeNumber('The second gear') })
export const mergeForm = z.object({ merge: wholeNumber('The merge') })
export const splitForm = z.object({ source: wholeNumber('The source') })

const common = {
  name: name('a name for the source'),
  intervalSeconds: wholeNumber('The interval').pipe(
    z.number().min(5, 'An interval has at least 5 s').max(86_400),
  ),
}
/** A sender that will push. */
export const newSender = z.object(common)
export type NewSenderForm = z.infer<typeof newSender>

export const claimForm = z.object({ ...common, id: wholeNumber('The sender') })
export const refuseForm = z.object({ id: wholeNumber('The sender') })

const secretField = z.string().default('')
const PEM = /^-----BEGIN CERTIFICATE-----[\s\S]+-----END CERTIFICATE-----$/
const secretFields = {
  username: z.string().trim().default(''),
  password: secretField,
  token: z.string().trim().default(''),
  community: z.string().trim().default(''),
  authPassword: secretField,
  privPassword: secretField,
}
export const credentialForm = z.object({
  id: z.union([z.literal('').transform(() => null), wholeNumber('The credential')]),
  name: name('a name for the credential'),
  kind: z.enum(['basic', 'bearer', 'snmp-v2c', 'snmp-v3']),
  ...secretFields,
})

const checkCommon = {
  credential: z
    .string()
    .regex(/^\d{0,9}$/, 'Choose a credential')
    .default(''),
  /** The check whose secret is meant where none is entered; the one whose mapping is. */
  before: z.union([z.literal(''), z.uuid()]).default(''),
  drafted: z.union([z.literal(''), z.uuid()]).default(''),
  ...secretFields,
}
const trustFields = {
  authorityPem: z
    .string()
    .trim()
    .refine((pem) => pem === '' || PEM.test(pem), {
      error: 'An authority is pasted as PEM, from -----BEGIN CERTIFICATE----- to -----END CERTIFICATE-----',
    })
    .default(''),
  fingerprint: z
    .string()
    .trim()
    .toUpperCase()
    .refine((text) => text === '' || /^([0-9A-F]{2}:){31}[0-9A-F]{2}$/.test(text), {
      error: 'A fingerprint is 32 pairs of hexadecimal digits with colons between (SHA-256)',
    })
    .default(''),
}

/** A mapping that is kept, or none yet. */
const mappingChoice = z
  .string()
  .regex(/^\d{0,9}$/, 'Choose a mapping')
  .default('')

/** What is to be checked, one shape per protocol. Fields that do not apply are left out or empty. */
export const checkForm = z.discriminatedUnion('protocol', [
  z.object({
    ...checkCommon,
    protocol: z.literal('redfish'),
    address: z
      .string()
      .trim()
      .transform((text) => (/^[a-z]+:\/\//i.test(text) || text === '' ? text : `https://${text}`))
      .pipe(
        z.url({
          protocol: /^https$/,
          error: 'The address of a controller is a host, or begins with https://',
        }),
      ),
    ...trustFields,
  }),
  z.object({
    ...checkCommon,
    protocol: z.literal('reach'),
    address: z
      .string()
      .trim()
      .pipe(
        z.url({
          protocol: /^(icmp|tcp|https?)$/,
          error: 'The address of a service begins with icmp://, tcp://, http:// or https://',
        }),
      )
      .refine((text) => !text.startsWith('tcp:') || new URL(text).port !== '', {
        error: 'A tcp:// address ends with a port, as tcp://192.0.2.30:22',
      }),
    ...trustFields,
  }),
  z.object({
    ...checkCommon,
    protocol: z.literal('openmetrics'),
    address: z
      .string()
      .trim()
      .transform((text) => (/^[a-z]+:\/\//i.test(text) || text === '' ? text : `http://${text}`))
      .pipe(
        z.url({
          protocol: /^https?$/,
          error: 'The address of metrics begins with http:// or https://, and has a path, as /metrics',
        }),
      ),
    access: z.enum(['none', 'basic', 'bearer']).default('none'),
    mapping: mappingChoice,
    ...trustFields,
  }),
  z.object({
    ...checkCommon,
    protocol: z.literal('modbus'),
    address: z
      .string()
      .trim()
      .regex(/^[^\s/]+$/, 'The address is a host, with :port if it is not 502'),
    gearName: z.string().trim().max(64, 'A name has at most 64 characters').default(''),
    modbusUnit: wholeNumber('The unit').pipe(z.number().max(255, 'A unit is 0 to 255')).default(1),
    mapping: mappingChoice,
    lookTable: z.enum(['', ...REGISTER_TABLES]).default(''),
    lookAddress: wholeNumber('The first register').pipe(z.number().max(65_535)).default(0),
    lookCount: wholeNumber('How many registers')
      .pipe(z.number().min(1).max(125, 'At most 125 registers are read at once'))
      .default(16),
  }),
  z.object({
    ...checkCommon,
    protocol: z.literal('snmp'),
    address: z
      .string()
      .trim()
      .regex(/^[^\s/]+$/, 'The address is a host, with :port if it is not 161'),
    version: z.enum(['v1', 'v2c', 'v3']),
    authentication: z.enum(['sha', 'sha224', 'sha256', 'sha384', 'sha512']).default('sha256'),
    privacy: z.enum(['aes', 'aes256b', 'aes256r']).default('aes'),
  }),
])
export type CheckForm = z.infer<typeof checkForm>

const portList = z
  .string()
  .trim()
  .default('')
  .transform((text) => text.split(/[\s,;]+/).filter(Boolean))
  .pipe(
    z
      .array(
        z
          .string()
          .regex(/^\d{1,5}$/, 'Ports are numbers, with commas between')
          .transform(Number)
          .pipe(z.number().min(1).max(65_535, 'A port is at most 65535')),
      )
      .max(64, 'At most 64 ports are tried at once'),
  )
/** Addresses to look through. Credentials are those whose box is ticked. */
export const lookForm = z.object({
  addresses: z.string().max(4000, 'That is too much text for addresses'),
  ports: portList,
  credentials: z.array(z.string().regex(/^\d{1,9}$/, 'Choose credentials')).max(50),
})

export const trustForm = z.object({ check: z.uuid(), trust: z.enum(['authority', 'fingerprint']) })

const jsonText = (what: string) =>
  z.string().transform((text, context): unknown => {
    try {
      return JSON.parse(text) as unknown
    } catch {
      context.addIssue(`${what} did not arrive whole; load the page again`)
      return z.NEVER
    }
  })
/** A mapping as it was edited beside a check. Its own shape is checked by its protocol. */
export const mapForm = z.object({ check: z.uuid(), map: jsonText('The mapping') })

/** Keys of gear and parts that are left out, as JSON. */
const leftKeys = jsonText('What is picked').pipe(z.array(z.string()).max(50_000))

/** The address of another like one that is kept. Its own shape is checked by its protocol. */
export const likeForm = z.object({
  address: z.string().trim().min(1, 'Enter the address of the other one').max(300),
})

export const picksForm = z.object({ left: leftKeys })
/** What can be changed of a source that is kept. */
export const sourceForm = z.object({ ...common, newItems: z.enum(['take', 'ask']) })
/** With the seconds of each measure that is kept less often than the source is asked, as JSON. */
export const sourceChange = sourceForm.extend({
  slower: jsonText('The intervals of the measures').pipe(
    z
      .record(
        z.string().refine(isMeasureKey, 'This measure is not known here'),
        z.union(
          SLOWER_CHOICES.map((seconds) => z.literal(seconds)),
          'Choose one of the intervals',
        ),
      )
      .transform((all) => all as Slower),
  ),
})
export type SourceChange = z.infer<typeof sourceChange>

/** What is kept of a check that went through. `left`: keys of gear and parts that are left out. */
export const saveForm = z.object({
  ...common,
  check: z.uuid(),
  mappingName: z.string().trim().max(64, 'The name of a mapping has at most 64 characters').default(''),
  credentialName: z.string().trim().max(64, 'The name of a credential has at most 64 characters').default(''),
  newItems: z.enum(['take', 'ask']),
  tags: tagList.default([]),
  left: leftKeys,
  ...placeFields,
})
export type SaveForm = z.infer<typeof saveForm>

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

/** A link that a person draws from the gear at hand, or to it. */
export const linkForm = z.object({
  kind: z.enum(LINK_KINDS),
  way: z.enum(['from', 'to']),
  other: z.string().trim().min(1, 'Enter the name of the other gear').max(64),
})

/** A group: its members by name, one a line or with commas between. */
export const groupForm = z.object({
  name: name('a name for the group'),
  note: z.string().trim().max(300, 'A note has at most 300 characters').default(''),
  rule: z.enum(GROUP_RULES),
  least: wholeNumber('How many at least')
    .pipe(z.number().min(1, 'At least 1 has to work').max(10_000))
    .default(1),
  unknown: z.enum(UNKNOWN_MEMBERS),
  tag: z.string().trim().toLowerCase().max(40, 'A tag has at most 40 characters').default(''),
  members: z
    .string()
    .max(100_000)
    .transform((text) => [...new Set(text.split(/[,;\n]+/).map((each) => each.trim()))].filter(Boolean)),
})
export type GroupForm = z.infer<typeof groupForm>

const choice = z
  .string()
  .regex(/^\d{0,9}$/, 'Choose one of the list')
  .default('')
  .transform((text) => (text === '' ? null : Number(text)))
/** A tag that is given by rule. */
export const tagRuleForm = z
  .object({
    tag: z.string().trim().toLowerCase().min(1, 'Enter a tag').max(40, 'A tag has at most 40 characters'),
    name: z
      .string()
      .trim()
      .max(64)
      .default('')
      .transform((text) => (text === '' ? null : text)),
    kind: z
      .string()
      .default('')
      .refine((kind) => kind === '' || isGearKind(kind), 'This kind is not known here')
      .transform((kind) => (kind === '' ? null : (kind as GearKind))),
    roomId: choice,
    rackId: choice,
    sourceId: choice,
  })
  .refine(
    (rule) => [rule.name, rule.kind, rule.roomId, rule.rackId, rule.sourceId].some((each) => each !== null),
    {
      error: 'Say which gear gets the tag: by name, kind, place or source',
    },
  )

export const ownFieldForm = z.object({
  name: z
    .string()
    .trim()
    .min(1, 'Enter a name for the field')
    .max(40, 'The name of a field has at most 40 characters')
    .refine((text) => !INVENTORY_HEADS.has(text.toLowerCase()), 'There is a column of this name already'),
  kind: z.enum(OWN_FIELD_KINDS),
})
/** Heads of the columns that every inventory has. */
const INVENTORY_HEADS = new Set(
  'id,name,kind,maker,model,serial,firmware,warranty ends,place,feeds,sources,tags,first seen,last seen'.split(
    ',',
  ),
)
export const filterForm = z.object({
  name: name('a name for the filter'),
  query: z.string().max(500, 'This filter is too long to keep'),
})
/** What people write down of one gear: its warranty, and their own fields as `own.NAME`. */
export const inventoryForm = z
  .object({ warrantyEnds: z.string().trim().default('') })
  .catchall(z.string().trim().max(200, 'A field holds at most 200 characters'))
  .refine(({ warrantyEnds }) => warrantyEnds === '' || /^\d{4}-\d{2}-\d{2}$/.test(warrantyEnds), {
    error: 'The end of the warranty is a day, as 2027-03-31',
  })
