import { z } from 'zod'
import { lowestFree } from '#core/site'
import { acceptAlert, insertQuiet, listAlertsOfGear } from '#db/alerts'
import { listNamesOfGear, listOwnFields, tagMany, writeOwn } from '#db/gear'
import type { Db } from '#db/platform'
import { listMounted, listRacks, placeGearInRack } from '#db/site'
import { acceptForm, quietOf, quietWords, stateOfAlert } from '../alerts/quiet.ts'
import type { Acting, Acted } from '../platform/formAction.ts'
import { Refused } from '../platform/refused.ts'

const MOST = 500

/** The gear that is marked in the list. @throws Refused when none is */
export function markedIn(data: FormData): number[] {
  const ids = [...new Set(data.getAll('id').map(Number))].filter(
    (id) => Number.isInteger(id) && id > 0 && id < 1e9,
  )
  if (ids.length === 0) throw new Refused('Mark the gear first.')
  if (ids.length > MOST) throw new Refused(`At most ${MOST} gear at once; ${ids.length} are marked.`)
  return ids
}

const plural = (count: number, one: string, many: string): string => `${count} ${count === 1 ? one : many}`
const said = (sentence: string): Acted<{ said: string }> => ({ record: sentence, done: { said: sentence } })

export { acceptForm, quietWords }

/** One quiet for each: one of them may be ended before the others. */
export async function quietMany(
  { reason, length }: z.infer<typeof quietWords>,
  { trx, user, data }: Acting,
): Promise<Acted<{ said: string }>> {
  const ids = markedIn(data)
  for (const id of ids) {
    const where = { whereKind: 'gear', whereValue: String(id) }
    await insertQuiet(trx, await quietOf(trx, { ...where, reason, length }, user, Date.now()))
  }
  return said(`quieted ${plural(ids.length, 'gear', 'gear')}: ${reason}`)
}

/** Everything that is open on them, as it is now. */
export async function acceptMany(
  { reason }: z.infer<typeof acceptForm>,
  { trx, user, data }: Acting,
): Promise<Acted<{ said: string }>> {
  const now = new Date()
  let accepted = 0
  for (const gearId of markedIn(data)) {
    const open = await listAlertsOfGear(trx, gearId, now, now)
    for (const { id } of open.filter(({ clearedAt, quietId }) => clearedAt === null && quietId === null)) {
      const by = { who: user.name, reason, at: now, state: await stateOfAlert(trx, id) }
      if ((await acceptAlert(trx, id, by)).kind === 'accepted') accepted += 1
    }
  }
  if (accepted === 0) throw new Refused('Nothing is open on what is marked: there is nothing to accept.')
  return said(`accepted ${plural(accepted, 'alert', 'alerts')}: ${reason}`)
}

export const tagForm = z.object({
  tag: z.string().trim().toLowerCase().min(1, 'Enter a tag').max(40, 'A tag has at most 40 characters'),
  does: z.enum(['give', 'take']).default('give'),
})

export async function tagAll(
  { tag, does }: z.infer<typeof tagForm>,
  { trx, data }: Acting,
): Promise<Acted<{ said: string }>> {
  const ids = markedIn(data)
  await tagMany(trx, ids, tag, does)
  const words = does === 'give' ? `gave the tag ${tag} to` : `took the tag ${tag} from`
  return { ...said(`${words} ${plural(ids.length, 'gear', 'gear')}`), tells: [{ topic: 'places' }] }
}

export const ownForm = z.object({
  field: z.string().trim().min(1, 'Choose a field').max(60),
  value: z.string().trim().max(200, 'A field has at most 200 characters').default(''),
})

/** One field of one's own, “owner” say, of all of them. */
export async function writeMany(
  { field, value }: z.infer<typeof ownForm>,
  { trx, data }: Acting,
): Promise<Acted<{ said: string }>> {
  const ids = markedIn(data)
  if (!(await listOwnFields(trx)).some(({ name }) => name === field))
    throw new Refused(`There is no field “${field}” any more.`)
  for (const id of ids) await writeOwn(trx, id, { own: { [field]: value === '' ? null : value } })
  return {
    ...said(`wrote ${field} “${value}” for ${plural(ids.length, 'gear', 'gear')}`),
    tells: [{ topic: 'places' }],
  }
}

export const placeForm = z.object({
  rackId: z.coerce.number().int().positive('Choose a rack'),
  heightUnits: z.coerce.number().int().min(1, 'A gear has at least 1 unit').max(60).default(1),
})

/** Into one rack, from below, each in the lowest units that are free. All of them, or none. */
export async function placeMany(
  { rackId, heightUnits }: z.infer<typeof placeForm>,
  { trx, user, data }: Acting,
): Promise<Acted<{ said: string }>> {
  const ids = markedIn(data)
  const rack = (await listRacks(trx)).find(({ id }) => id === rackId)
  if (rack === undefined) throw new Refused('That rack is gone.')
  const nameOf = new Map((await listNamesOfGear(trx, ids)).map(({ id, name }) => [id, name]))
  for (const id of ids)
    await placeLowest(trx, { id, name: nameOf.get(id) ?? 'it' }, rack, heightUnits, user.name)
  return {
    ...said(`put ${plural(ids.length, 'gear', 'gear')} into ${rack.name}`),
    tells: [{ topic: 'places' }],
  }
}

async function placeLowest(
  trx: Db,
  gear: { readonly id: number; readonly name: string },
  rack: { readonly id: number; readonly name: string; readonly heightUnits: number },
  heightUnits: number,
  who: string,
): Promise<void> {
  const mounted = (await listMounted(trx, rack.id)).filter(({ id }) => id !== gear.id)
  const unit = lowestFree(heightUnits, { heightUnits: rack.heightUnits, gear: mounted })
  if (unit === null)
    throw new Refused(
      `${rack.name} has no ${heightUnits} free units in a row for ${gear.name}. Nothing was placed; choose another rack.`,
    )
  const outcome = await placeGearInRack(trx, gear.id, { rackId: rack.id, unit, heightUnits }, who)
  if (outcome.kind !== 'placed') throw new Refused(`${gear.name} cannot be put there. Nothing was placed.`)
}
