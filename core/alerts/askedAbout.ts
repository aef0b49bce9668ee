import type { LinkKind } from '../catalogue/index.ts'
import { needOf } from '../links/index.ts'
import { type CausedAlert, type TroubleKind, troubleOf } from './trouble.ts'
import type { CauseGear, CauseLink } from './ways.ts'

/** What a trouble may come from is asked about before it is told: so far up, along links of these kinds. */
const ASKED_STEPS = 2

const ASKED_ALONG: Readonly<Partial<Record<TroubleKind, readonly LinkKind[]>>> = {
  dark: ['fed-by', 'wired-to', 'hosts', 'contains'],
  off: ['fed-by', 'contains', 'hosts'],
  supply: ['fed-by'],
  power: ['fed-by'],
  link: ['wired-to', 'fed-by'],
}

/** Gear that an alert may follow from, and of which it would be good to know how it is now. */
export function askedAbout(
  alert: CausedAlert,
  gear: ReadonlyMap<number, CauseGear>,
  links: readonly CauseLink[],
): number[] {
  const along = ASKED_ALONG[troubleOf(alert, gear.get(alert.gearIds[0] ?? -1)?.kind ?? null)] ?? []
  if (along.length === 0 || alert.gearIds.length > 4) return []
  const found = new Set<number>(alert.gearIds)
  let front = [...alert.gearIds]
  for (let step = 0; step < ASKED_STEPS; step += 1) {
    const ends = links.flatMap((link) => {
      if (!along.includes(link.kind)) return []
      const { who, whom } = needOf({ kind: link.kind, fromId: link.fromGearId, toId: link.toGearId })
      return front.includes(who) ? [whom] : []
    })
    front = ends.filter((id) => !found.has(id))
    front.forEach((id) => found.add(id))
  }
  alert.gearIds.forEach((id) => found.delete(id))
  return [...found]
}
