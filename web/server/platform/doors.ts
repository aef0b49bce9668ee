import { isIP } from 'node:net'
import { Networks, plainAddress } from '#protocols/reach'

/** How this installation is reached, as whoever runs it has said. */
export interface Doors {
  /** Origins under which it is opened; empty: by an address of its machine, and by no name. */
  readonly origins: readonly string[]
  /** Whom to believe about where a request came from. */
  readonly proxies: Networks
  readonly isBehindTls: boolean
}

/** @throws Error in a sentence when something of it cannot be used */
export function doorsFrom(env: Readonly<Record<string, string | undefined>>): Doors {
  const origins = (env['RACK_ORIGIN'] ?? '').split(/[\s,]+/).filter(Boolean)
  for (const origin of origins)
    if (!URL.canParse(origin) || new URL(origin).origin !== origin)
      throw new Error(
        `RACK_ORIGIN holds “${origin}”, which is no origin; it is as https://rack.example, without a path.`,
      )
  return {
    origins,
    proxies: proxiesIn(env['RACK_PROXIES'] ?? ''),
    isBehindTls: env['RACK_BEHIND_TLS'] === 'yes' || origins.some((origin) => origin.startsWith('https://')),
  }
}

function proxiesIn(text: string): Networks {
  try {
    return new Networks(text.split(/[\s,]+/).filter(Boolean))
  } catch (error) {
    throw new Error(`RACK_PROXIES cannot be used: ${error instanceof Error ? error.message : ''}.`, {
      cause: error,
    })
  }
}

/** Why a request for this origin is refused; `null` when it is ours. A name that nobody has said may lead anybody here. */
export function originProblem({ origins }: Doors, { origin, hostname }: URL): string | null {
  if (origins.length > 0)
    return origins.includes(origin)
      ? null
      : `This installation is not opened as ${origin}. RACK_ORIGIN says how: ${origins.join(', ')}.`
  const bare = hostname.replaceAll(/[[\]]/g, '')
  return isIP(bare) > 0 || bare === 'localhost'
    ? null
    : `This installation is not known as ${hostname}. Open it by its address, or have RACK_ORIGIN say ${origin}.`
}

/**
 * Where a request came from. A proxy that is known is believed about who asked it (`X-Forwarded-For`, from its end on);
 * anybody else is not.
 */
export function clientAddress({ proxies }: Doors, socketAddress: string, forwarded: string | null): string {
  let address = plainAddress(socketAddress)
  const said = (forwarded ?? '').split(',').map((each) => plainAddress(each.trim()))
  while (proxies.includes(address)) {
    const before = said.pop()
    if (before === undefined || isIP(before) === 0) break
    address = before
  }
  return address
}

const SMALL = 512 * 1024
const MIB = 1024 * 1024
/** Routes that take files, and what is more than the file. */
const FILES: Readonly<Record<string, number>> = {
  '/(app)/gear/inventory': 20 * MIB + SMALL,
  '/(app)/sources/many': 8 * MIB + SMALL,
  '/(app)/rooms': 4 * MIB + SMALL,
  // Piece by piece, of any size.
  '/(app)/readings': Infinity,
}

/** How many bytes a request of a route may have. */
export const mostBytes = (routeId: string | null): number => FILES[routeId ?? ''] ?? SMALL

/** No text has it, and the database takes none that does. */
export const hasNul = (url: URL): boolean => /%00/i.test(url.pathname + url.search)
