import { join } from 'node:path'

/** The installations that the browser looks at: the demo twice, and an empty one. All started by `bin/start`. */
export interface Place {
  readonly port: number
  readonly url: string
  readonly folder: string
}

const base = Number(process.env['RACK_E2E_PORT'] ?? 8560)
const data = process.env['RACK_E2E_DATA'] ?? join('data', 'browser')
const place = (port: number, name: string): Place => ({
  port,
  url: `http://127.0.0.1:${port}`,
  folder: join(data, name),
})

/** The ports of a demo, its stand-ins' among them. */
const PORTS = 36
/** Where faults are waited for until they are told; minutes go by with little to do. */
export const DEMO = place(base, 'demo')
/** Where screens are looked at meanwhile. */
export const SECOND_DEMO = place(base + PORTS, 'second')
/** It takes 14 ports. */
export const EMPTY = place(base + 2 * PORTS, 'empty')

/** The demo reads at twice the usual pace here. */
export const INTERVAL_MS = 5000

export const environmentOf = ({ folder }: Place): Record<string, string> => ({
  RACK_DATA: folder,
  RACK_DEMO_INTERVAL_MS: String(INTERVAL_MS),
  // The year before is laid down by a test of its own; here it would take the machine from the browser.
  RACK_DEMO_DAYS: '3',
})

export const ROLES = { administer: 'asta', operate: 'bo', see: 'cleo' } as const
export type Role = keyof typeof ROLES
/** The file with the cookies of whoever has signed in at an installation. */
export const sessionOf = (role: Role, url: string): string => join(data, `${new URL(url).port}-${role}.json`)
