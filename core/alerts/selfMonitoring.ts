import type { CauseGear, CauseLink } from './ways.ts'

/** Something that has to work for an alert to be told, and the gear that it runs on; `null` where that is not said. */
export interface AlarmPart {
  readonly what: 'collector' | 'database' | 'channel'
  readonly name: string
  readonly gearId: number | null
}

export interface PartFeeds {
  readonly part: AlarmPart
  /** The UPS units that it hangs on, through strips and hosts; empty where none is known. */
  readonly upsIds: readonly number[]
}

export interface FeedLoss {
  readonly ups: CauseGear
  /** What goes with it: has no other feed. */
  readonly lost: readonly AlarmPart[]
  /** Whether nobody would be told any more that it has failed. */
  readonly isSilenced: boolean
}

/** Of each gear what it hangs on by power, or runs in. */
function carriersOf(links: readonly CauseLink[]): ReadonlyMap<number, readonly number[]> {
  const above = new Map<number, number[]>()
  for (const { kind, fromGearId, toGearId } of links) {
    const [lower, upper] =
      kind === 'fed-by'
        ? [fromGearId, toGearId]
        : kind === 'hosts' || kind === 'contains'
          ? [toGearId, fromGearId]
          : [null, null]
    if (lower !== null && upper !== null) above.set(lower, [...(above.get(lower) ?? []), upper])
  }
  return above
}

/** On which UPS units each part of the alarm hangs. */
export function feedsOfParts(
  parts: readonly AlarmPart[],
  gear: ReadonlyMap<number, CauseGear>,
  links: readonly CauseLink[],
): PartFeeds[] {
  const above = carriersOf(links)
  const upsOf = (id: number, seen: Set<number>): number[] => {
    if (gear.get(id)?.kind === 'ups') return [id]
    if (seen.has(id)) return []
    seen.add(id)
    return (above.get(id) ?? []).flatMap((next) => upsOf(next, seen))
  }
  return parts.map((part) => ({
    part,
    upsIds: part.gearId === null ? [] : [...new Set(upsOf(part.gearId, new Set()))].sort((a, b) => a - b),
  }))
}

/**
 * For every UPS what of the alarm goes with it. Nobody is told when all collectors go, or the database, or all channels.
 * A part whose gear is not said, or that no UPS feeds, goes with none.
 */
export function lossesOf(feeds: readonly PartFeeds[], gear: ReadonlyMap<number, CauseGear>): FeedLoss[] {
  const of = (what: AlarmPart['what']) => feeds.filter(({ part }) => part.what === what)
  return [...gear.values()]
    .filter(({ kind }) => kind === 'ups')
    .sort((a, b) => a.name.localeCompare(b.name))
    .map((ups) => {
      const goes = ({ upsIds }: PartFeeds): boolean => upsIds.length === 1 && upsIds[0] === ups.id
      const isGone = (what: AlarmPart['what']): boolean => of(what).length > 0 && of(what).every(goes)
      return {
        ups,
        lost: feeds.filter(goes).map(({ part }) => part),
        isSilenced: isGone('collector') || isGone('database') || isGone('channel'),
      }
    })
}

/** What a loss means, in a sentence; `null` where the alarm does not hang on it. */
export function lossSentence({ ups, lost, isSilenced }: FeedLoss): string | null {
  if (lost.length === 0) return null
  const names = lost.map(({ what, name }) => (what === 'database' ? 'the database' : name))
  const list = names.length === 1 ? names[0]! : `${names.slice(0, -1).join(', ')} and ${names.at(-1)!}`
  const hang = names.length === 1 ? 'hangs' : 'hang'
  return isSilenced
    ? `Should ${ups.name} fail, nobody is notified: ${list} ${hang} on it alone.`
    : `Should ${ups.name} fail, ${list} ${names.length === 1 ? 'goes' : 'go'} with it; the rest still tells.`
}
