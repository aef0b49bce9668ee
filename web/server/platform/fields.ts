import { z } from 'zod'

export const name = (what: string) =>
  z.string().trim().min(1, `Enter ${what}`).max(64, `${what} is longer than 64 characters`)

export const wholeNumber = (what: string) =>
  z
    .string()
    .trim()
    .regex(/^\d{1,6}$/, `${what} is a whole number`)
    .transform(Number)

export const id = z.number().int().min(1)

/** Tags with commas between, in small letters, each once. */
export const tagList = z
  .string()
  .transform((text) =>
    [...new Set(text.split(/[,;\n]+/).map((tag) => tag.trim().toLowerCase()))].filter(Boolean),
  )
  .pipe(z.array(z.string().max(40, 'A tag has at most 40 characters')).max(20, 'A gear has at most 20 tags'))

/** Where a gear stands; without a rack nowhere yet. */
export const placeFields = {
  rackId: z
    .string()
    .regex(/^\d{0,9}$/, 'Choose a rack')
    .default(''),
  unit: wholeNumber('The lowest unit').pipe(z.number().min(1, 'The lowest unit of a rack is 1')).default(1),
  heightUnits: wholeNumber('The height').pipe(z.number().min(1, 'A gear is at least 1 U high')).default(1),
}

export const jsonText = (what: string) =>
  z.string().transform((text, context): unknown => {
    try {
      return JSON.parse(text) as unknown
    } catch {
      context.addIssue(`${what} did not arrive whole; load the page again`)
      return z.NEVER
    }
  })

/** The first thing that is wrong, as the sentence for the form. */
export const firstProblem = (error: z.ZodError): string =>
  `${(error.issues[0]?.message ?? 'Something is missing').replace(/\.$/, '')}.`

/** The first problem of each field, by its name. */
export function problemsOf(error: z.ZodError): Record<string, string> {
  const problems: Record<string, string> = {}
  for (const { path, message } of error.issues) {
    const field = String(path[0] ?? '')
    if (field !== '') problems[field] ??= `${message.replace(/\.$/, '')}.`
  }
  return problems
}

export const choice = z
  .string()
  .regex(/^\d{0,9}$/, 'Choose one of the list')
  .default('')
  .transform((text) => (text === '' ? null : Number(text)))

/** The fields of a form that are text, without the character that no text has (NUL). */
export const textFields = (form: FormData): Record<string, string> =>
  Object.fromEntries(
    [...form].flatMap(([name, value]) =>
      typeof value === 'string' ? [[name, value.replaceAll('\0', '')]] : [],
    ),
  )

/** Something is switched on, or off. */
export const switchForm = z.object({
  isOn: z
    .string()
    .default('')
    .transform((text) => text === 'yes'),
})
