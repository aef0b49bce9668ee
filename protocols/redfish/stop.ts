import { setMaxListeners } from 'node:events'
import { z } from 'zod'
import { failureSentence } from '#core/sources'
import type { Target } from '#protocols/driver'
import { endpointOf, FetchFailure, getJson, type HttpTarget, openAgent, postJson } from '#protocols/http'
import { addressOf } from '#protocols/reach'
import { redfishTarget } from './driver.ts'

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
  { identities, isDry, timeoutMs }: { identities: readonly string[]; isDry: boolean; timeoutMs: number },
): Promise<StopOutcome> {
  const { address, settings, secret } = redfishTarget.parse(target)
  const agent = openAgent(settings)
  const signal = AbortSignal.timeout(timeoutMs)
  setMaxListeners(0, signal)
  const token = Buffer.from(`${secret.username}:${secret.password}`).toString('base64')
  const origin = new URL(address).origin
  const http: HttpTarget = {
    origin,
    agent,
    signal,
    timeoutMs,
    limitBytes: LIMIT_BYTES,
    protocol: 'Redfish',
    headers: { authorization: `Basic ${token}`, 'odata-version': '4.0' },
  }
  const where = addressOf(endpointOf(new URL(address)))
  const read = async <T>(path: string, shape: z.ZodType<T>): Promise<T> =>
    shape.parse(await getJson(http, path))
  try {
    const { Systems } = await read('/redfish/v1/', root)
    const { Members } = await read(Systems['@odata.id'], collection)
    const systems = []
    for (const member of Members) systems.push(await read(member['@odata.id'], system))
    const known = new Set(identities.map((each) => each.toLowerCase()))
    const isIt = ({ SerialNumber, UUID }: z.infer<typeof system>): boolean =>
      [SerialNumber, UUID].some((each) => each != null && known.has(each.toLowerCase()))
    const found = systems.find(isIt) ?? (systems.length === 1 ? systems[0] : undefined)
    if (found === undefined)
      return {
        isWell: false,
        words: `${where} has ${systems.length} systems, and none of them is this gear.`,
      }
    const name = found.HostName ?? found.Name ?? where
    if (found.PowerState === 'Off') return { isWell: true, words: `${name} is off already.` }
    const reset = found.Actions?.['#ComputerSystem.Reset']
    const offered = reset?.['ResetType@Redfish.AllowableValues']
    if (reset === undefined || (offered !== undefined && !offered.includes(HOW)))
      return {
        isWell: false,
        words: `${name} does not offer to stop in order (${HOW})${offered === undefined ? '' : `; it offers ${offered.join(', ')}`}.`,
      }
    if (isDry)
      return {
        isWell: true,
        words: `${name} is on and offers it: it would be asked by POST ${reset.target} with ${HOW}.`,
      }
    await postJson(http, reset.target, { ResetType: HOW })
    return { isWell: true, words: `${name} was asked to stop (${HOW}) and said yes.` }
  } catch (error) {
    if (error instanceof FetchFailure) return { isWell: false, words: failureSentence(error.failure) }
    if (error instanceof z.ZodError)
      return {
        isWell: false,
        words: `${where} answers what is no Redfish: ${error.issues[0]?.message ?? ''}.`,
      }
    throw error
  } finally {
    void agent.destroy()
  }
}
