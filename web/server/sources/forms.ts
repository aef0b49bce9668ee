import { isMeasureKey } from '#core/catalogue'
import { hostsProblem, splitNetworks } from '#protocols/reach'
import { z } from 'zod'
import { type Slower, SLOWER_CHOICES } from '#core/sources'
import { name, wholeNumber, tagList, jsonText, placeFields } from '../platform/fields.ts'
import { findProtocol, POLLED } from '#protocols/registry'

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
  hosts: z
    .string()
    .max(8000, 'That is more than fits: at most 500 hosts and networks')
    .default('')
    .transform(splitNetworks)
    .superRefine((hosts, context) => {
      const problem =
        hosts.length === 0
          ? 'Say where it may go: hosts and networks, with blanks between'
          : hosts.length > 500
            ? 'At most 500 hosts and networks; a network takes many at once'
            : hostsProblem(hosts)
      if (problem !== null) context.addIssue(problem)
    }),
  inClear: z
    .string()
    .trim()
    .max(200, 'A reason has at most 200 characters')
    .default('')
    .transform((text) => (text === '' ? null : text)),
  ...secretFields,
})

export type CredentialForm = z.infer<typeof credentialForm>

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

/** What is to be checked: its protocol is one that we ask, and the other fields are for that to read. */
export const checkForm = z
  .object({
    ...checkCommon,
    protocol: z.string(),
    address: z.string(),
    /** A mapping that is kept, or none yet. */
    mapping: z
      .string()
      .regex(/^\d{0,9}$/, 'Choose a mapping')
      .default(''),
  })
  .catchall(z.string())
  .transform((fields, context) => {
    const read = readSource(fields)
    if (typeof read !== 'string') return { ...fields, ...read }
    context.addIssue(read)
    return z.NEVER
  })
export type CheckForm = z.infer<typeof checkForm>

/** An address and settings as a protocol reads them, or what is wrong, as the beginning of a sentence. */
export function readSource(fields: Readonly<Record<string, string>>) {
  const protocol = fields['protocol'] ?? ''
  const polled = findProtocol(protocol)?.polled
  if (polled == null) return `“${protocol}” is not a protocol here; known are ${POLLED.join(', ')}`
  const address = polled.form.address.safeParse(fields['address'] ?? '')
  const settings = polled.form.settings.safeParse(fields)
  if (!address.success || !settings.success)
    return (address.error ?? settings.error)?.issues[0]?.message ?? 'Something is missing'
  return { protocol, address: address.data, settings: settings.data }
}

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

/** Addresses to look through. */
export const lookFields = z.object({
  addresses: z.string().max(4000, 'That is too much text for addresses'),
  ports: portList,
})
export type LookForm = z.infer<typeof lookFields> & { readonly credentials: readonly string[] }

/** Credentials whose box is ticked. */
export const credentialsIn = (data: FormData): string[] =>
  data
    .getAll('credentials')
    .map(String)
    .filter((id) => /^\d{1,9}$/.test(id))
    .slice(0, 50)

export const trustForm = z.object({ check: z.uuid(), trust: z.enum(['authority', 'fingerprint']) })

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
