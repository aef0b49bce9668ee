import { z } from 'zod'
import { batteryIn } from '#core/power'
import { findGear } from '#db/gear'
import type { Db } from '#db/platform'
import { writeBattery } from '#db/power'
import { formAction, noFields } from '../platform/formAction.ts'
import { idOf } from '../platform/params.ts'
import { Refused } from '../platform/refused.ts'

const batteryForm = z.object({
  installed: z.string().max(40).default(''),
  years: z.string().max(40).default(''),
})
const SERIES = [{ topic: 'series' }] as const

/** What is noted of a UPS on its page. */
export const powerActions = {
  battery: formAction({
    shape: batteryForm,
    says: 'batteryMessage',
    work: async ({ installed, years }, { trx, user, params }) => {
      const battery = batteryIn(installed, years, Date.now())
      if (typeof battery === 'string') throw new Refused(battery)
      const ups = await upsOf(trx, params['id']!)
      await writeBattery(trx, ups.id, battery, user.name)
      return {
        record: `noted a battery of ${battery.installed} in ${ups.name}, made for ${years.trim()} years`,
        tells: SERIES,
      }
    },
  }),
  dropBattery: formAction({
    shape: noFields,
    says: 'batteryMessage',
    work: async (_, { trx, user, params }) => {
      const ups = await upsOf(trx, params['id']!)
      await writeBattery(trx, ups.id, null, user.name)
      return { record: `removed what was noted of the battery of ${ups.name}`, tells: SERIES }
    },
  }),
}

/** @throws Refused when it is not there, or is no UPS */
async function upsOf(trx: Db, id: string) {
  const gear = await findGear(trx, idOf(id))
  if (gear === undefined) throw new Refused('This gear is not there any more.')
  if (gear.kind !== 'ups') throw new Refused(`${gear.name} is no UPS: only of a UPS its battery is noted.`)
  return gear
}
