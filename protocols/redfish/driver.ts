import { setMaxListeners } from 'node:events'
import { z } from 'zod'
import { FetchFailure, getJson, openAgent } from '#protocols/http'
import type { Driver } from '#protocols/driver'
import { findingsOf } from './findings.ts'
import { ShapeError, walk } from './walk.ts'

const LIMIT_BYTES = 4 * 1024 * 1024

export const redfishTarget = z.object({
  address: z.url({ protocol: /^https$/, error: 'The address of a controller begins with https://' }),
  settings: z.object({ authorityPem: z.string().nullable().default(null) }),
  secret: z.object({ username: z.string(), password: z.string() }),
})

/** A server's management controller by Redfish (DMTF DSP0266) over HTTPS with basic authentication (§13.3.2). */
export const redfish: Driver = {
  protocol: 'redfish',
  async collect({ target, timeoutMs }) {
    const { address, settings, secret } = redfishTarget.parse(target)
    const agent = openAgent(settings.authorityPem)
    const token = Buffer.from(`${secret.username}:${secret.password}`).toString('base64')
    const signal = AbortSignal.timeout(timeoutMs)
    setMaxListeners(0, signal) // every request of the walk listens to the one deadline
    const http = {
      origin: new URL(address).origin,
      agent,
      headers: { authorization: `Basic ${token}`, 'odata-version': '4.0' },
      signal,
      timeoutMs,
      limitBytes: LIMIT_BYTES,
    }
    try {
      return { kind: 'found', found: findingsOf(await walk((path) => getJson(http, path))) }
    } catch (error) {
      if (error instanceof FetchFailure) return { kind: 'failed', failure: error.failure }
      if (error instanceof ShapeError) {
        return {
          kind: 'failed',
          failure: { kind: 'malformed', address: new URL(address).host, detail: error.message },
        }
      }
      throw error
    } finally {
      void agent.destroy()
    }
  },
}
