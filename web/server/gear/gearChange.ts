import type { Db } from '#db/platform'
import { updateGear } from '#db/gear'
import { placeGearInRack, takeOutOfRack } from '#db/site'
import type { GearForm } from '../platform/forms.ts'
import { Refused } from '../platform/refused.ts'

/**
 * Changes what people say of a gear: its name, tags and place. Its readings and alerts stay with it.
 * @throws Refused when it does not fit where it is put
 */
export async function changeGear(db: Db, id: number, form: GearForm, who: string): Promise<void> {
  await db.transaction().execute(async (trx) => {
    await updateGear(trx, id, form, who)
    if (form.rackId === '') return takeOutOfRack(trx, id, who)
    const { unit, heightUnits } = form
    const outcome = await placeGearInRack(trx, id, { rackId: Number(form.rackId), unit, heightUnits }, who)
    if (outcome.kind === 'occupied')
      throw new Refused('Something else stands in these units. Choose others, or move that first.')
    if (outcome.kind === 'outside')
      throw new Refused(`This rack has ${outcome.heightUnits} units. Choose lower ones.`)
    if (outcome.kind === 'unknown') throw new Refused('This rack is not there any more. Choose another.')
  })
}
