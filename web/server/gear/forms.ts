import { type GearKind, isGearKind } from '#core/catalogue'
import { GROUP_RULES, OWN_FIELD_KINDS, UNKNOWN_MEMBERS } from '#core/gear'
import { HoursError, parseServiceHours, type ServiceHours } from '#core/past'
import { AmountError, parseAmount } from '#core/units'
import { z } from 'zod'
import { name, wholeNumber, tagList, choice, placeFields } from '../platform/fields.ts'

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
  members: z.string().max(100_000).transform(namesIn),
  groups: z.string().max(10_000).default('').transform(namesIn),
  isService: z.stringbool().default(false),
  plain: z
    .string()
    .trim()
    .max(80, 'What people call it has at most 80 characters')
    .refine((text) => !/[.;]/.test(text), 'What people call it is a few words, such as “the public forecast”')
    .default(''),
  owner: z.string().trim().max(80, 'An owner has at most 80 characters').default(''),
  level: z.string().trim().max(20).default('').transform(levelIn),
  hours: z.string().max(600, 'Service hours have at most 600 characters').default('').transform(hoursIn),
})
export type GroupForm = z.infer<typeof groupForm>

function namesIn(text: string): string[] {
  return [...new Set(text.split(/[,;\n]+/).map((each) => each.trim()))].filter(Boolean)
}

/** A promised level, 0..1, as people write it: “99.9 %”. */
function levelIn(text: string, context: z.RefinementCtx): number | null {
  if (text === '') return null
  try {
    const level = parseAmount(text, 'ratio')
    if (level > 0 && level < 1) return level
    context.addIssue(`A promised level lies between 0 and 100 %: “${text}” does not.`)
  } catch (error) {
    if (!(error instanceof AmountError)) throw error
    context.addIssue(error.message)
  }
  return z.NEVER
}

function hoursIn(text: string, context: z.RefinementCtx): ServiceHours | null {
  try {
    return parseServiceHours(text)
  } catch (error) {
    if (!(error instanceof HoursError)) throw error
    context.addIssue(error.message)
    return z.NEVER
  }
}

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

/** Heads of the columns that every inventory has. */
const INVENTORY_HEADS = new Set(
  'id,name,kind,maker,model,serial,firmware,warranty ends,place,feeds,sources,tags,first seen,last seen'.split(
    ',',
  ),
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
export type InventoryForm = z.infer<typeof inventoryForm>
