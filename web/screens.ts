import type { Role } from '#core/accounts'

/** A place in the rail: its entry here makes the menu, the keyboard and the right to open it. */
export interface Screen {
  readonly name: string
  readonly href: string
  /** After `g`, it goes there. */
  readonly key: string
  /** Places of a group stand together; between groups there is a gap. */
  readonly group: 'now' | 'site' | 'time' | 'set up'
  /** Whoever may less does not see it. */
  readonly least: Role
  /** Which lamp of the shell is its own; `null`: nothing waits there by itself. */
  readonly lamp: 'watch' | 'gear' | 'ahead' | 'sources' | null
}

/** In the order of the rail. */
export const SCREENS: readonly Screen[] = [
  { name: 'Watch', href: '/', key: 'w', group: 'now', least: 'see', lamp: 'watch' },
  { name: 'Alerts', href: '/alerts', key: 'a', group: 'now', least: 'see', lamp: null },
  { name: 'Logs', href: '/logs', key: 'l', group: 'now', least: 'see', lamp: null },
  { name: 'Rooms', href: '/rooms', key: 'r', group: 'site', least: 'see', lamp: null },
  { name: 'Gear', href: '/gear', key: 'g', group: 'site', least: 'see', lamp: 'gear' },
  { name: 'Disks', href: '/disks', key: 'd', group: 'site', least: 'see', lamp: null },
  { name: 'Past', href: '/past', key: 'p', group: 'time', least: 'see', lamp: null },
  { name: 'Ahead', href: '/ahead', key: 'h', group: 'time', least: 'see', lamp: 'ahead' },
  { name: 'Sources', href: '/sources', key: 's', group: 'set up', least: 'see', lamp: 'sources' },
  { name: 'Settings', href: '/settings', key: 'e', group: 'set up', least: 'administer', lamp: null },
]

/** The screen that a path, or the id of a route, belongs to. */
export function screenOf(path: string): Screen | undefined {
  const plain = path.replace('/(app)', '') || '/'
  return SCREENS.filter(({ href }) => plain === href || (href !== '/' && plain.startsWith(`${href}/`))).sort(
    (a, b) => b.href.length - a.href.length,
  )[0]
}
