import { z } from 'zod'

export const viewForm = z.object({
  name: z.string().trim().min(1, 'Give the view a name.').max(80, 'A name has at most 80 characters.'),
  query: z
    .string()
    .max(8000, 'This view picks too much to be kept: name places instead of single series.')
    .transform((text) => text.replace(/^\?/, '')),
})

const CLOCK = /^([01]?\d|2[0-3]):([0-5]\d)$/

/** A time of the day as minutes from midnight. */
const minuteOfDay = z
  .string()
  .trim()
  .refine((text) => CLOCK.test(text), {
    error: ({ input }) => `“${String(input)}” is no time of the day: write it as 02:30.`,
  })
  .transform((text) => {
    const [, hours, minutes] = CLOCK.exec(text)!
    return Number(hours) * 60 + Number(minutes)
  })

export const knownJobForm = z
  .object({
    name: z.string().trim().min(1, 'Give the job a name.').max(80, 'A name has at most 80 characters.'),
    days: z.enum(['every', 'workdays', 'weekend', '0', '1', '2', '3', '4', '5', '6'], 'Choose the days.'),
    from: minuteOfDay,
    to: minuteOfDay,
  })
  .refine(({ from, to }) => from !== to, 'It ends when it begins: write when it is over.')
  .transform(({ name, days, from, to }) => ({
    name,
    days: daysOf(days),
    fromMinute: from,
    // What ends before it begins goes on over midnight.
    minutes: to > from ? to - from : to + 1440 - from,
  }))

/** 0 is Monday. */
function daysOf(days: string): number[] {
  if (days === 'every') return [0, 1, 2, 3, 4, 5, 6]
  if (days === 'workdays') return [0, 1, 2, 3, 4]
  return days === 'weekend' ? [5, 6] : [Number(days)]
}
