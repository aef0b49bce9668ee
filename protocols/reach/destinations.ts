import { isIP } from 'node:net'
import type { CredentialKind } from '#core/sources'
import { Networks } from './networks.ts'

/** Where a credential may go. */
export interface Destinations {
  /** Names, addresses and networks. A name is meant as it is written; what it stands for now does not count. */
  readonly hosts: readonly string[]
  /** Why it may go without TLS; `null`: it may not. */
  readonly inClear: string | null
}

/** The host of an address as sources have it: `https://petrel-07.example:8443/redfish`, `192.0.2.7:161`, `[2001:db8::7]:161`. */
export function hostIn(address: string): string {
  const bare = address.replace(/^[a-z][a-z0-9+.-]*:\/\//i, '').split('/')[0]!
  const bracketed = /^\[([^\]]+)\]/.exec(bare)?.[1]
  if (bracketed !== undefined) return bracketed.toLowerCase()
  if (isIP(bare) === 6) return bare.toLowerCase()
  return bare.split(':')[0]!.toLowerCase()
}

/** What is given over HTTP can be read by everybody on the way; SNMP has its own ways, and says so where it is chosen. */
const NEEDS_TLS: ReadonlySet<CredentialKind> = new Set(['basic', 'bearer'])

/** What is wrong with a list of hosts; `null` when nothing is. */
export function hostsProblem(hosts: readonly string[]): string | null {
  const bad = hosts.find((host) => !isHost(host) && !isNetwork(host))
  return bad === undefined
    ? null
    : `“${bad}” is no host and no network, as petrel-07.example, 192.0.2.7 or 192.0.2.0/24 are`
}

const isHost = (text: string): boolean =>
  /^[a-z0-9]([a-z0-9_-]*[a-z0-9])?(\.[a-z0-9]([a-z0-9_-]*[a-z0-9])?)*$/i.test(text)

function isNetwork(text: string): boolean {
  try {
    new Networks([text])
    return true
  } catch {
    return false
  }
}

/** Why a credential is not given to whoever is at an address; `null` when it is. */
export function whyNotThere(
  { hosts, inClear }: Destinations,
  kind: CredentialKind,
  address: string,
): string | null {
  const host = hostIn(address)
  const isListed =
    hosts.some((each) => each.toLowerCase() === host) || new Networks(hosts.filter(isNetwork)).includes(host)
  if (!isListed)
    return hosts.length === 0
      ? 'it may go nowhere yet'
      : `it may go to ${listed(hosts)} alone, and this is ${host}`
  if (NEEDS_TLS.has(kind) && inClear === null && /^http:/i.test(address))
    return 'it would go without TLS, in the open'
  return null
}

const MOST_NAMED = 4
const listed = (hosts: readonly string[]): string =>
  hosts.length <= MOST_NAMED
    ? hosts.join(', ')
    : `${hosts.slice(0, MOST_NAMED).join(', ')} and ${hosts.length - MOST_NAMED} more`
