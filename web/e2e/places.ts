import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'

/** The installations that the browser looks at: the demo twice, and an empty one. All started by `bin/start`. */
export interface Place {
  readonly port: number
  readonly url: string
  readonly folder: string
  /** How often it reads its gear; the usual pace when not said. */
  readonly intervalMs: number
}
const USUAL_MS = 10_000

const base = Number(process.env['RACK_E2E_PORT'] ?? 8560)
const data = process.env['RACK_E2E_DATA'] ?? join('data', 'browser')
const place = (port: number, name: string, intervalMs = USUAL_MS): Place => ({
  port,
  url: `http://127.0.0.1:${port}`,
  folder: join(data, name),
  intervalMs,
})

/** The ports of a demo, its stand-ins' among them. */
const PORTS = 36
/** Where faults are waited for until they are told, at twice the usual pace; minutes go by with little to do. */
export const DEMO = place(base, 'demo', USUAL_MS / 2)
/** Where screens are looked at meanwhile. */
export const SECOND_DEMO = place(base + PORTS, 'second')
/** It takes 14 ports. */
export const EMPTY = place(base + 2 * PORTS, 'empty')

/** How often the installation at this address reads its gear. */
export const intervalAt = (url: string): number => (url === DEMO.url ? DEMO : SECOND_DEMO).intervalMs

export const environmentOf = ({ folder, intervalMs }: Place): Record<string, string> => ({
  RACK_DATA: folder,
  RACK_DEMO_INTERVAL_MS: String(intervalMs),
  // The year before is laid down by a test of its own; here it would take the machine from the browser.
  RACK_DEMO_DAYS: '3',
})

export const ROLES = { administer: 'asta', operate: 'bo', see: 'cleo' } as const
export type Role = keyof typeof ROLES
/** The file with the cookies of whoever has signed in at an installation. */
export const sessionOf = (role: Role, url: string): string => join(data, `${new URL(url).port}-${role}.json`)

export const READY_MS = 480_000

/** Waits until an installation answers. */
export async function answers(url: string): Promise<void> {
  for (const beganMs = Date.now(); Date.now() - beganMs < READY_MS; await pause(500)) {
    const reply = await fetch(`${url}/healthz`).catch(() => null)
    if (reply?.ok) return
  }
  throw new Error(`${url} was not ready within ${READY_MS / 1000} s`)
}
