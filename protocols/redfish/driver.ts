import { setMaxListeners } from 'node:events'
import { z } from 'zod'
import type { Failure } from '#core/sources'
import type { Driver } from '#protocols/driver'
import { endpointOf, FetchFailure, getJson, type HttpTarget, openAgent } from '#protocols/http'
import { addressOf } from '#protocols/reach'
import { findingsOf } from './findings.ts'
import { ROOT, signedIn, signInSchema } from './signIn.ts'
import { MissingDocument, ShapeError, walk } from './walk.ts'

const LIMIT_BYTES = 4 * 1024 * 1024

export const redfishTarget = z.object({
  address: z.url({ protocol: /^https$/, error: 'The address of a controller begins with https://' }),
  settings: z.object({
    authorityPem: z.string().nullable().default(null),
    fingerprint: z.string().nullable().default(null),
    signIn: signInSchema.default('basic'),
  }),
  secret: z.object({ username: z.string(), password: z.string() }),
})

/** A management controller by Redfish (DMTF DSP0266) over HTTPS with basic authentication (§13.3.2) or a session (§13.3.4). */
export const redfish: Driver = {
  protocol: 'redfish',
  reach(target) {
    const { address, settings } = redfishTarget.parse(target)
    return { ...endpointOf(new URL(address)), transport: 'tls', trust: settings }
  },
  async collect({ target, timeoutMs, trace }) {
    const { address, settings, secret } = redfishTarget.parse(target)
    const agent = openAgent(settings)
    const signal = AbortSignal.timeout(timeoutMs)
    setMaxListeners(0, signal) // every request of the walk listens to the one deadline
    const open: HttpTarget = {
      origin: new URL(address).origin,
      agent,
      signal,
      timeoutMs,
      limitBytes: LIMIT_BYTES,
      protocol: 'Redfish',
      headers: { 'odata-version': '4.0' },
      ...(trace === undefined ? {} : { trace: { tell: trace, credential: null } }),
    }
    // An open document says nothing of whether the credential is taken.
    const root: HttpTarget =
      trace === undefined
        ? open
        : { ...open, trace: { tell: (each) => trace({ ...each, isAccepted: false }), credential: null } }
    try {
      const account = { ...secret, signIn: settings.signIn }
      const found = await signedIn({ open, root }, account, async (http) =>
        findingsOf(await walk((path) => getDocument(path === ROOT ? root : http, path))),
      )
      return { kind: 'found', found }
    } catch (error) {
      if (error instanceof FetchFailure) return { kind: 'failed', failure: asRedfish(error.failure) }
      if (error instanceof ShapeError) {
        const where = addressOf(endpointOf(new URL(address)))
        return { kind: 'failed', failure: { kind: 'malformed', address: where, detail: error.message } }
      }
      throw error
    } finally {
      void agent.destroy()
    }
  },
}

/** @throws MissingDocument below the root, where a link leads nowhere */
async function getDocument(http: HttpTarget, path: string): Promise<unknown> {
  try {
    return await getJson(http, path)
  } catch (error) {
    const isMissing =
      error instanceof FetchFailure &&
      error.failure.kind === 'malformed' &&
      error.failure.detail === `HTTP 404 for ${path}`
    if (isMissing && path !== ROOT) throw new MissingDocument(path)
    throw error
  }
}

/** A web server that has nothing at Redfish's own path is no controller. */
function asRedfish(failure: Failure): Failure {
  if (failure.kind !== 'malformed' || failure.detail !== `HTTP 404 for ${ROOT}`) return failure
  return {
    kind: 'unsupported',
    address: failure.address,
    detail: 'a web server answers, but has no Redfish service at /redfish/v1/',
    hint: 'Redfish may be switched off in its settings, or this is another device; switch it on there, or check the address.',
  }
}
