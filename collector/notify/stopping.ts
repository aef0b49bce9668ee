import type { Db } from '#db/platform'
import { type SecretKey, openSources } from '#db/sources'
import { stopSystem, type StopOutcome } from '#protocols/redfish'

const STOP_MS = 30_000

/** Asks a gear to stop through the controller that sees it. @param isDry goes all the way, and asks nothing */
export async function stopGear(db: Db, key: SecretKey, gearId: number, isDry: boolean): Promise<StopOutcome> {
  const gear = await db.selectFrom('gear').select('name').where('id', '=', gearId).executeTakeFirst()
  if (gear === undefined) return { isWell: false, words: 'The gear is gone.' }
  const [seen, identities] = await Promise.all([
    db.selectFrom('sighting').select('sourceId').where('gearId', '=', gearId).execute(),
    db.selectFrom('gearIdentity').select('value').where('gearId', '=', gearId).execute(),
  ])
  const source = (await openSources(db, key)).find(
    ({ id, protocol }) => protocol === 'redfish' && seen.some(({ sourceId }) => sourceId === id),
  )
  if (source === undefined)
    return {
      isWell: false,
      words: `${gear.name} cannot be asked to stop: no controller of it is connected by Redfish.`,
    }
  return stopSystem(source, { identities: identities.map(({ value }) => value), isDry, timeoutMs: STOP_MS })
}
