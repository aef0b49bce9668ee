import type { GearKind, LinkKind } from '../catalogue/index.ts'

/** A link with the gear and parts at both ends. */
export interface LinkWithEnds {
  readonly id: number
  readonly kind: LinkKind
  readonly fromGearId: number
  readonly fromName: string
  readonly fromKind: GearKind
  readonly fromPart: string | null
  readonly toGearId: number
  readonly toName: string
  readonly toKind: GearKind
  readonly toPart: string | null
  /** The source that tells of it. */
  readonly source: string | null
  /** Who drew it. */
  readonly who: string | null
}

/** A link as one of its ends sees it. */
export interface LinkSeen {
  readonly id: number
  readonly kind: LinkKind
  readonly otherId: number
  readonly otherName: string
  readonly otherKind: GearKind
  /** Whether the other gear stands at the far end: “petrel-07 hosts tide-model-03” seen from petrel-07. */
  readonly isOutgoing: boolean
  readonly ownPart: string | null
  readonly otherPart: string | null
  readonly source: string | null
  readonly who: string | null
}

/** Links of one gear as they are seen from it, by the name of the other; of two with one other the order is kept. */
export function linksSeenFrom(gearId: number, links: readonly LinkWithEnds[]): LinkSeen[] {
  const seen = links.map((link) => {
    const isOutgoing = link.fromGearId === gearId
    const { id, kind, source, who } = link
    const [ownPart, otherPart] = isOutgoing ? [link.fromPart, link.toPart] : [link.toPart, link.fromPart]
    const [otherId, otherName, otherKind] = isOutgoing
      ? [link.toGearId, link.toName, link.toKind]
      : [link.fromGearId, link.fromName, link.fromKind]
    return { id, kind, source, who, isOutgoing, ownPart, otherPart, otherId, otherName, otherKind }
  })
  const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)
  return seen.sort(
    (a, b) =>
      compare(a.otherName, b.otherName) ||
      compare(a.kind, b.kind) ||
      Number(a.isOutgoing) - Number(b.isOutgoing),
  )
}
