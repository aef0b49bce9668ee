import { setMaxListeners } from 'node:events'
import { z } from 'zod'
import { type Identity, usableIdentities } from '#core/gear'
import { failureSentence } from '#core/sources'
import type { Target } from '#protocols/driver'
import { endpointOf, FetchFailure, getJson, type HttpTarget, openAgent, postJson } from '#protocols/http'
import { addressOf, printable } from '#protocols/reach'
import { redfishTarget } from './driver.ts'
import { signedIn } from './signIn.ts'

const LIMIT_BYTES = 1024 * 1024
const link = z.object({ '@odata.id': z.string() })
const root = z.object({ Systems: link })
const collection = z.object({ Members: z.array(link) })
const system = z.object({
  Name: z.string().optional(),
  HostName: z.string().nullish(),
  SerialNumber: z.string().nullish(),
  UUID: z.string().nullish(),
  PowerState: z.string().nullish(),
  Actions: z
    .object({
      '#ComputerSystem.Reset': z
        .object({
          target: z.string(),
          'ResetType@Redfish.AllowableValues': z.array(z.string()).optional(),
        })
        .optional(),
    })
    .optional(),
})
const HOW = 'GracefulShutdown'
/** So many systems are named in a sentence. */
const MOST_NAMED = 4

export interface StopOutcome {
  /** Whether it was asked, or would have been. */
  readonly isWell: boolean
  /** What happened, or would have, in a sentence. */
  readonly words: string
}

/**
 * Asks a system to stop as if somebody had pressed its button: `ComputerSystem.Reset` with `GracefulShutdown` (DSP0266
 * §7.11.1, DSP0268 ComputerSystem). Its operating system ends in order, or does not; nothing is cut off.
 * @param identities serial numbers and UUIDs by which the system is found where a service has several
 * @param isDry goes all the way, and asks nothing
 */
export async function stopSystem(
  target: Target,
  { identities, isDry, timeoutMs }: { identities: readonly Identity[]; isDry: boolean; timeoutMs: number },
): Promise<StopOutcome> {
  const { address, settings, secret } = redfishTarget.parse(target)
  const agent = openAgent(settings)
  const signal = AbortSignal.timeout(timeoutMs)
  setMaxListeners(0, signal)
  const open: HttpTarget = {
    origin: new URL(address).origin,
    agent,
    signal,
    timeoutMs,
    limitBytes: LIMIT_BYTES,
    protocol: 'Redfish',
    headers: { 'odata-version': '4.0' },
  }
  const where = addressOf(endpointOf(new URL(address)))
  try {
    const account = { ...secret, signIn: settings.signIn }
    return await signedIn({ open, root: open }, account, (http) => stopBy(http, { where, identities, isDry }))
  } catch (error) {
    return { isWell: false, words: whyNot(error, where) }
  } finally {
    void agent.destroy()
  }
}

async function stopBy(
  http: HttpTarget,
  { where, identities, isDry }: { where: string; identities: readonly Identity[]; isDry: boolean },
): Promise<StopOutcome> {
  const systems = await systemsOf(http)
  const found = systemOf(systems, identities)
  if (found === undefined) return { isWell: false, words: notThis(where, systems, identities) }
  const name = found.HostName ?? found.Name ?? where
  if (found.PowerState === 'Off') return { isWell: true, words: `${name} is off already.` }
  const path = pathToStop(found)
  if (path === null) return { isWell: false, words: notOffered(name, found) }
  if (isDry)
    return {
      isWell: true,
      words: `${name} is on and offers it: it would be asked by POST ${path} with ${HOW}.`,
    }
  await postJson(http, path, { ResetType: HOW })
  return { isWell: true, words: `${name} was asked to stop (${HOW}) and said yes.` }
}

type System = z.infer<typeof system>

async function systemsOf(http: HttpTarget): Promise<System[]> {
  const read = async <T>(path: string, shape: z.ZodType<T>): Promise<T> =>
    shape.parse(await getJson(http, path))
  const { Systems } = await read('/redfish/v1/', root)
  const { Members } = await read(Systems['@odata.id'], collection)
  const systems = []
  for (const member of Members) systems.push(await read(member['@odata.id'], system))
  return systems
}

/** The one that has one of the identities: of what does not say who it is nothing is asked. */
function systemOf(systems: readonly System[], identities: readonly Identity[]): System | undefined {
  const isKnown = (own: Identity): boolean =>
    identities.some(({ kind, value }) => kind === own.kind && value === own.value)
  return systems.find((system) => identitiesOf(system).some(isKnown))
}

const identitiesOf = ({ SerialNumber, UUID }: System): readonly Identity[] =>
  usableIdentities([
    { kind: 'serial', value: SerialNumber ?? '' },
    { kind: 'uuid', value: UUID ?? '' },
  ])

const WORDS: Readonly<Record<Identity['kind'], string>> = {
  serial: 'serial number',
  uuid: 'UUID',
  wwn: 'WWN',
  mac: 'MAC address',
}
const spoken = (identities: readonly Identity[]): string =>
  identities.map(({ kind, value }) => `${WORDS[kind]} ${printable(value)}`).join(' and ')

/** Whose identities were found, and whose were looked for. */
function notThis(where: string, systems: readonly System[], identities: readonly Identity[]): string {
  const told = systems.map((system) => spoken(identitiesOf(system)) || 'no identity')
  const found =
    told.length === 0
      ? 'has no system'
      : told.length === 1
        ? `is the system with ${told[0]}`
        : `has ${told.length} systems (${told.slice(0, MOST_NAMED).join('; ')})`
  const meant =
    identities.length === 0
      ? 'no serial number and no UUID is known of this gear'
      : `this gear is known by ${spoken(identities)}`
  return `Not asked to stop: ${where} ${found}, and ${meant}.`
}

const resetOf = ({ Actions }: System) => Actions?.['#ComputerSystem.Reset']
const offeredBy = (system: System): string[] | undefined =>
  resetOf(system)?.['ResetType@Redfish.AllowableValues']

/** Where it is asked to stop; `null` when it does not offer it. One that does not say what it offers may. */
const pathToStop = (system: System): string | null =>
  offeredBy(system)?.includes(HOW) === false ? null : (resetOf(system)?.target ?? null)

function notOffered(name: string, system: System): string {
  const offered = offeredBy(system)
  const instead = offered === undefined ? '' : `; it offers ${offered.join(', ')}`
  return `${name} does not offer to stop in order (${HOW})${instead}.`
}

/** @throws what is no fault of the far side */
function whyNot(error: unknown, where: string): string {
  if (error instanceof FetchFailure) return failureSentence(error.failure)
  if (error instanceof z.ZodError)
    return `${where} answers what is no Redfish: ${error.issues[0]?.message ?? ''}.`
  throw error
}
