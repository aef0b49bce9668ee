import { findStoppable } from '#db/gear'
import type { Db } from '#db/platform'
import { type SecretKey, openSources } from '#db/sources'
import { whyNotThere } from '#protocols/reach'
import { redfish, stopSystem, type StopOutcome } from '#protocols/redfish'

const STOP_MS = 30_000

/** Asks a gear to stop through the controller that sees it. @param isDry goes all the way, and asks nothing */
export async function stopGear(db: Db, key: SecretKey, gearId: number, isDry: boolean): Promise<StopOutcome> {
  const gear = await findStoppable(db, gearId)
  if (gear === undefined) return { isWell: false, words: 'The gear is gone.' }
  const source = (await openSources(db, key)).find(
    ({ id, protocol }) => protocol === redfish.protocol && gear.sourceIds.includes(id),
  )
  const no = (words: string): StopOutcome => ({ isWell: false, words: `${gear.name} ${words}.` })
  if (source === undefined) return no('cannot be asked to stop: no controller of it is connected by Redfish')
  if (source.isShut) return no('was not asked to stop: the credential of its controller cannot be opened')
  const detail =
    source.destinations === null
      ? null
      : whyNotThere(source.destinations, source.destinations.kind, source.address)
  if (detail !== null)
    return no(`was not asked to stop: the credential of its controller is not for there; ${detail}`)
  return stopSystem(source, { identities: gear.identities, isDry, timeoutMs: STOP_MS })
}

/** So many controllers are asked at a time. */
const AT_A_TIME = 8

/** What would be done now of all that a step covers: goes all the way to each, and asks nothing of any. */
export async function dryStops(db: Db, key: SecretKey, gearIds: readonly number[]): Promise<StopOutcome> {
  const ends: StopOutcome[] = []
  for (let from = 0; from < gearIds.length; from += AT_A_TIME)
    ends.push(
      ...(await Promise.all(
        gearIds.slice(from, from + AT_A_TIME).map((id) =>
          stopGear(db, key, id, true).catch((error: unknown): StopOutcome => ({
            isWell: false,
            words: error instanceof Error ? error.message : String(error),
          })),
        ),
      )),
    )
  const [would, not] = [ends.filter(({ isWell }) => isWell), ends.filter(({ isWell }) => !isWell)]
  const head = `Of ${ends.length} gear that it covers ${would.length} would be asked now, ${not.length} not.`
  return {
    isWell: would.length > 0,
    words: [head, ...[...would, ...not].map(({ words }) => words)].join('\n'),
  }
}
