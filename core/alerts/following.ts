import { GEAR_KINDS, type GearKind } from '../catalogue/index.ts'
import type { CauseGear, CauseLink } from './ways.ts'

export interface FollowOn {
  readonly title: string
  readonly kind: GearKind | null
  readonly gearName: string | null
}

/** What an alert brings along: “It explains 3 more: 2 servers and 1 camera.” Empty when nothing. */
export function followOnWords(following: readonly FollowOn[]): string {
  if (following.length === 0) return ''
  const counts = new Map<GearKind, Set<string>>()
  for (const { kind, gearName } of following)
    if (kind !== null && gearName !== null) counts.set(kind, (counts.get(kind) ?? new Set()).add(gearName))
  const words = [...counts].map(([kind, names]) =>
    names.size === 1 ? [...names][0]! : `${names.size} ${GEAR_KINDS[kind].plural}`,
  )
  const on = words.length === 0 ? '' : `, on ${words.slice(0, 4).join(', ')}`
  return `It explains ${following.length} more alert${following.length === 1 ? '' : 's'}${on}.`
}

/** Gear at the other end of what is plugged into a part: of a port by wire, of an outlet by cord. In order of names. */
export function pluggedInto(
  gearId: number,
  partId: number,
  gear: ReadonlyMap<number, CauseGear>,
  links: readonly CauseLink[],
): CauseGear[] {
  const ends = links.flatMap((link) => {
    if (link.kind !== 'wired-to' && link.kind !== 'fed-by') return []
    if (link.toGearId === gearId && link.toPartId === partId) return [link.fromGearId]
    return link.kind === 'wired-to' && link.fromGearId === gearId && link.fromPartId === partId
      ? [link.toGearId]
      : []
  })
  return [...new Set(ends)].flatMap((id) => gear.get(id) ?? []).sort((a, b) => a.name.localeCompare(b.name))
}

/** What hangs on power for itself; strips and probes only carry it on, or have a battery. */
const FED: ReadonlySet<GearKind> = new Set([
  'server',
  'host',
  'chassis',
  'array',
  'switch',
  'recorder',
  'camera',
  'cooling',
])

/** Gear that is fed, over any number of strips, by this UPS and by no other. In order of names. */
export function fedOnlyBy(
  upsId: number,
  gear: ReadonlyMap<number, CauseGear>,
  links: readonly CauseLink[],
): CauseGear[] {
  const feeds = new Map<number, number[]>()
  for (const { kind, fromGearId, toGearId } of links)
    if (kind === 'fed-by') feeds.set(fromGearId, [...(feeds.get(fromGearId) ?? []), toGearId])
  const sourcesOf = (id: number, seen: ReadonlySet<number>): number[] => {
    if (gear.get(id)?.kind === 'ups') return [id]
    return (feeds.get(id) ?? []).flatMap((next) =>
      seen.has(next) ? [] : sourcesOf(next, new Set([...seen, next])),
    )
  }
  return [...gear.values()]
    .filter(({ id, kind }) => {
      if (!FED.has(kind) || !feeds.has(id)) return false
      const sources = new Set((feeds.get(id) ?? []).flatMap((next) => sourcesOf(next, new Set([id, next]))))
      return sources.size === 1 && sources.has(upsId)
    })
    .sort((a, b) => a.name.localeCompare(b.name))
}
