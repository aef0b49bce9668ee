import type { GearKind, LinkKind } from '../catalogue/index.ts'
import { needOf } from '../links/index.ts'
import { isAt, type Subject, type Where } from '../rules/index.ts'

/** A gear as a quiet finds it. */
export interface QuietGear extends Omit<Subject, 'measure' | 'partKind' | 'partId'> {
  readonly gearName: string
}

/** Of a link: who would miss whom. */
export interface Need {
  readonly who: number
  readonly whom: number
}

/** Gear in a place that is not quieted with it. */
export interface Spared {
  readonly gearId: number
  readonly name: string
  readonly kind: GearKind
  /** Gear outside of the place that would miss it. None: nothing is known of what hangs on it. */
  readonly missedBy: readonly string[]
}

export interface QuietReach {
  readonly silent: ReadonlySet<number>
  readonly spared: readonly Spared[]
  /** What falls silent although gear outside of the place hangs on it, because it was named. */
  readonly named: readonly Spared[]
}

/** What a place shares with others: power, air, wires, storage. */
const SHARED: ReadonlySet<GearKind> = new Set([
  'array',
  'cooling',
  'generator',
  'pdu',
  'selfMonitoring',
  'switch',
  'ups',
])
/** What runs or lies on other gear is quiet with that; it stands nowhere by itself. */
const NOWHERE: ReadonlySet<GearKind> = new Set(['machine', 'service', 'store', 'volume'])
export const runsOnOthers = (kind: GearKind): boolean => NOWHERE.has(kind)

/**
 * What falls silent when a place is quieted. What gear elsewhere hangs on, straight or by what is between, is not taken
 * along unless it is named; neither is power, air or wiring of which nobody knows what hangs on it. A gear or a part is
 * its own name, and *everywhere* is everything.
 */
export function reachOf(
  where: Where,
  named: readonly number[],
  gear: ReadonlyMap<number, QuietGear>,
  needs: readonly Need[],
): QuietReach {
  const inside = [...gear.values()]
    .filter((each) => isAt(where, { ...each, partId: null }))
    .sort((a, b) => a.gearName.localeCompare(b.gearName, 'en', { numeric: true }))
  const within = new Set(inside.map(({ gearId }) => gearId))
  if (where.kind === 'everywhere' || where.kind === 'gear') return { silent: within, spared: [], named: [] }
  const neededBy = upwards(needs)
  const shared = inside.flatMap((each): Spared[] => {
    if (!SHARED.has(each.gearKind)) return []
    const missing = missedBy(each.gearId, neededBy).flatMap((id) => gear.get(id) ?? [])
    const outside = missing.filter(({ gearId, gearKind }) => !within.has(gearId) && !NOWHERE.has(gearKind))
    if (missing.length > 0 && outside.length === 0) return []
    const { gearId, gearName: name, gearKind: kind } = each
    return [{ gearId, name, kind, missedBy: outside.map(({ gearName }) => gearName) }]
  })
  const spared = shared.filter(({ gearId }) => !named.includes(gearId))
  const loud = new Set(spared.map(({ gearId }) => gearId))
  return {
    silent: new Set([...within].filter((id) => !loud.has(id))),
    spared,
    named: shared.filter(({ gearId }) => named.includes(gearId)),
  }
}

/** Who would miss whom, out of links: of a wire what is wired misses its switch, and between switches nobody. */
export const needsOf = (
  links: readonly { readonly kind: LinkKind; readonly fromId: number; readonly toId: number }[],
  kindOf: (id: number) => GearKind | undefined,
): Need[] =>
  links.flatMap((link) => {
    if (link.kind !== 'wired-to') return [needOf(link)]
    const { fromId, toId } = link
    const [from, to] = [kindOf(fromId) === 'switch', kindOf(toId) === 'switch']
    if (from === to) return []
    return [from ? { who: toId, whom: fromId } : { who: fromId, whom: toId }]
  })

function upwards(needs: readonly Need[]): ReadonlyMap<number, readonly number[]> {
  const neededBy = new Map<number, number[]>()
  for (const { who, whom } of needs) {
    const known = neededBy.get(whom)
    if (known === undefined) neededBy.set(whom, [who])
    else known.push(who)
  }
  return neededBy
}

function missedBy(id: number, neededBy: ReadonlyMap<number, readonly number[]>): number[] {
  const seen = new Set([id])
  const open = [id]
  for (let at = open.pop(); at !== undefined; at = open.pop())
    for (const who of neededBy.get(at) ?? [])
      if (!seen.has(who)) {
        seen.add(who)
        open.push(who)
      }
  seen.delete(id)
  return [...seen]
}

/** “harbour-A (9 gear elsewhere hang on it)” */
export function sparedWords({ name, missedBy: missing }: Spared): string {
  if (missing.length === 0) return `${name} (what hangs on it is not known)`
  const [first, second] = missing
  if (missing.length === 1) return `${name} (${first} hangs on it)`
  if (missing.length === 2) return `${name} (${first} and ${second} hang on it)`
  return `${name} (${first}, ${second} and ${missing.length - 2} more elsewhere hang on it)`
}
