import { textsSetting, writeTextsSetting } from '#db/platform'
import { Networks, splitNetworks } from '#protocols/reach'
import { z } from 'zod'
import { formAction } from '../platform/formAction.ts'
import { Refused } from '../platform/refused.ts'

const WITHIN = 'Lines are kept for 1 to 3660 days, and in 10 to 1 000 000 MB.'
const { days, megabytes } = textsSetting.shape

/** How long lines of devices are kept, in how much, and whose lines name other hosts. */
export const keepLines = formAction({
  says: 'linesMessage',
  shape: z.object({
    days: z.coerce
      .number(WITHIN)
      .pipe(days.catch(0))
      .refine((given) => given > 0, WITHIN),
    megabytes: z.coerce
      .number(WITHIN)
      .pipe(megabytes.catch(0))
      .refine((given) => given > 0, WITHIN),
    relays: z
      .string()
      .max(4000, 'That is more than fits: at most 100 relays.')
      .default('')
      .transform(splitNetworks)
      .refine((given) => given.length <= 100, 'At most 100 relays; networks take many at once.'),
  }),
  work: async (form, { trx }) => {
    assertNetworks(form.relays)
    await writeTextsSetting(trx, form)
    const relays = form.relays.length === 0 ? 'no relay' : `relays ${form.relays.join(', ')}`
    return {
      record: `keeps what devices say for ${form.days} days and in ${form.megabytes} MB at most, ${relays}`,
    }
  },
})

function assertNetworks(relays: readonly string[]): void {
  try {
    new Networks(relays)
  } catch (error) {
    if (error instanceof RangeError) throw new Refused(`${error.message}.`)
    throw error
  }
}
