import type { GearKind, LinkKind, SensorRole } from '../catalogue/index.ts'
import type { CausedAlert, TroubleKind } from './trouble.ts'

export interface CauseGear {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly roomId: number | null
  /** The rack that it stands in, or hangs before. */
  readonly rackId?: number | null
  /** Of what hangs at a rack: which of its air it measures. */
  readonly role?: SensorRole | null
  /** When any source told of it last; absent of what no source tells of. */
  readonly heardAtMs?: number | null
}

export interface CauseLink {
  readonly kind: LinkKind
  readonly fromGearId: number
  readonly toGearId: number
  readonly fromPartId: number | null
  readonly toPartId: number | null
}

/** Troubles of who needs a gear, by the link between them. */
export const ALONG: Readonly<
  Record<LinkKind, Readonly<Partial<Record<TroubleKind, readonly TroubleKind[]>>>>
> = {
  'fed-by': {
    power: ['supply', 'dark', 'link', 'off', 'still', 'power'],
    empty: ['supply', 'dark', 'link', 'off', 'still', 'power'],
    dark: ['supply', 'dark', 'link', 'power'],
  },
  hosts: { dark: ['dark'], off: ['dark', 'off'] },
  contains: { dark: ['dark'], power: ['dark', 'off'], off: ['dark', 'off'] },
  'stores-on': { dark: ['dark'], off: ['dark'] },
  'wired-to': { link: ['dark', 'link'], dark: ['dark', 'link'], off: ['dark', 'link'] },
  'cooled-by': { cooling: ['heat'], dark: ['heat'], power: ['heat'] },
}

export const VERBS: Readonly<Record<LinkKind, string>> = {
  'fed-by': 'is fed by',
  hosts: 'runs on',
  contains: 'sits in',
  'stores-on': 'stores on',
  'wired-to': 'is wired to',
  'cooled-by': 'is cooled by',
}

export interface Step {
  readonly gearId: number
  readonly kind: LinkKind
  readonly link: CauseLink
}

export interface Around {
  readonly alerts: readonly CausedAlert[]
  readonly troubles: ReadonlyMap<number, TroubleKind>
  readonly onGear: ReadonlyMap<number, readonly CausedAlert[]>
  readonly needs: ReadonlyMap<number, readonly Step[]>
  readonly gear: ReadonlyMap<number, CauseGear>
}

/** Of two feeds, or two wires, one carries all. A supply, or a port, has its own one only. */
export const isShared = (own: TroubleKind, kind: LinkKind): boolean =>
  kind === 'fed-by'
    ? own === 'dark' || own === 'off' || own === 'link' || own === 'still'
    : kind === 'wired-to' && (own === 'dark' || own === 'off')

/** Whether a gear gets nothing along links of a kind any more: each way ends at a trouble, or at gear that gets nothing itself. */
export function isCutOff(
  own: TroubleKind,
  gearId: number,
  kind: LinkKind,
  around: Pick<Around, 'troubles' | 'onGear' | 'needs'>,
  seen: ReadonlySet<number> = new Set([gearId]),
): boolean {
  const { troubles, onGear, needs } = around
  const ways = (needs.get(gearId) ?? []).filter((way) => way.kind === kind)
  return (
    ways.length > 0 &&
    ways.every(({ gearId: whom, link }) => {
      const ends = (onGear.get(whom) ?? []).some((alert) => {
        const trouble = troubles.get(alert.id)!
        return ALONG[kind][trouble]?.includes(own) === true && isOfLink(trouble, alert, link, whom)
      })
      if (ends) return true
      return !seen.has(whom) && isCutOff(own, whom, kind, around, new Set([...seen, whom]))
    })
  )
}

/** Whether a trouble can have come along a link of a kind. A supply hangs on its own feed alone. */
export function isWay(
  own: TroubleKind,
  kind: LinkKind,
  alert: CausedAlert,
  gearId: number,
  link: CauseLink,
): boolean {
  switch (own) {
    case 'heat':
      return kind === 'cooled-by'
    case 'supply':
      return (
        kind === 'fed-by' &&
        (!alert.gearIds.includes(gearId) || link.fromPartId === null || link.fromPartId === alert.partId)
      )
    case 'link':
      return (
        kind === 'fed-by' ||
        (kind === 'wired-to' &&
          (!alert.gearIds.includes(gearId) || [link.fromPartId, link.toPartId].includes(alert.partId)))
      )
    case 'dark':
      return kind !== 'cooled-by'
    case 'power':
    case 'still':
      return kind === 'fed-by'
    case 'off':
      return kind === 'fed-by' || kind === 'contains' || kind === 'hosts'
    default:
      return false
  }
}

export const endAt = ({ toGearId, toPartId, fromPartId }: CauseLink, gearId: number): number | null =>
  toGearId === gearId ? toPartId : fromPartId

/** A port, or an outlet, is the cause only of what hangs on it. */
export function isOfLink(trouble: TroubleKind, cause: CausedAlert, link: CauseLink, whom: number): boolean {
  if (cause.partId === null || (trouble !== 'link' && trouble !== 'power')) return true
  const end = endAt(link, whom)
  return end === null ? trouble === 'power' : end === cause.partId
}
