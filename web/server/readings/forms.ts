import { isMeasureKey } from '#core/catalogue'
import { z } from 'zod'
import { wholeNumber } from '../platform/fields.ts'

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
