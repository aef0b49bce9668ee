import { type Db, within } from '#db/platform'
import { updateGear, CannotMerge, findGear, listOwnFields } from '#db/gear'
import { placeGearInRack, takeOutOfRack } from '#db/site'
import type { GearForm } from './forms.ts'
import { Refused } from '../platform/refused.ts'
import { type InventoryForm } from './forms.ts'
import { fieldProblem, writeInventory } from './inventoryFile.ts'

/**
 * Changes what people say of a gear: its name, tags and place. Its readings and alerts stay with it.
 * @throws Refused when it does not fit where it is put
 */
export async function changeGear(db: Db, id: number, form: GearForm, who: string): Promise<void> {
  await within(db, async (trx) => {
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

/**
 * Writes what people say of a gear for the inventory: the end of its warranty, and their own fields.
 * @throws Refused when a field does not hold what it may
 */
export async function changeInventory(
  trx: Db,
  id: number,
  { warrantyEnds, ...given }: InventoryForm,
  who: string,
): Promise<void> {
  const own: Record<string, string | null> = {}
  for (const field of await listOwnFields(trx)) {
    const value = given[`own.${field.name}`]
    if (value === undefined) continue
    const problem = value === '' ? null : fieldProblem(field, value)
    if (problem !== null) throw new Refused(problem)
    own[field.name] = value === '' ? null : value
  }
  const gear = await findGear(trx, id)
  if (gear === undefined) throw new Refused('This gear is not there any more.')
  const change = { name: gear.name, warrantyEnds: warrantyEnds === '' ? null : warrantyEnds, own }
  await writeInventory(trx, gear, change, who)
}

/** What cannot be one, or cannot be taken apart, is said in a sentence. */
export async function mergeable<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    throw error instanceof CannotMerge ? new Refused(error.message) : error
  }
}
