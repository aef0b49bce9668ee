import { z } from 'zod'
import { TOPICS } from '#core/forecast'

export const orderForm = z.object({
  words: z
    .string()
    .trim()
    .min(1, 'Say what was ordered, as “two drives, order 4711”.')
    .max(200, 'At most 200 characters.'),
  expectedOn: z
    .string()
    .regex(/^\d{4}-\d{2}-\d{2}/, 'Say on which day it should be there.')
    .transform((text) => text.slice(0, 10))
    .refine((text) => !Number.isNaN(Date.parse(text)), 'This is no day.'),
})

export const markForm = z.object({
  atMs: z.coerce.number().int('A jump is named by its time.').positive(),
  as: z.enum(['one-off', 'growth']),
})

/** How long it takes from an order until it is there; of all of a topic, of a tag, or of one gear. */
export const leadTimeForm = z.object({
  topic: z.enum(TOPICS, 'Choose what it is for.'),
  days: z
    .string()
    .trim()
    .refine((text) => /^\d{1,4}$/.test(text) && Number(text) >= 1 && Number(text) <= 1000, {
      error: ({ input }) =>
        `“${String(input)}” is no lead time: write whole days from 1 to 1000. Nothing arrives on the day on which it is ordered.`,
    })
    .transform(Number),
  of: z.enum(['all', 'tag', 'gear']).default('all'),
  tag: z.string().trim().max(64).default(''),
  gearId: z
    .string()
    .regex(/^\d{0,9}$/)
    .default('')
    .transform((text) => (text === '' ? null : Number(text))),
})
