import type { GearKind } from '../catalogue/index.ts'
import { type Identity, IDENTITY_PRECEDENCE } from './identity.ts'

/** A gear as far as it matters for whether another is the same. Identities are canonical (`usableIdentities`). */
export interface Candidate {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly identities: readonly Identity[]
  readonly sourceIds: readonly number[]
}

/** Kinds under which one and the same box may be told of: its controller says server, its system says host. */
const ALIKE: readonly (readonly GearKind[])[] = [
  ['server', 'host', 'chassis'],
  ['machine', 'host'],
  ['probe', 'door', 'meter'],
]
const mayBeOne = (a: GearKind, b: GearKind): boolean =>
  a === b || ALIKE.some((kinds) => kinds.includes(a) && kinds.includes(b))

const valuesOf = (identities: readonly Identity[], kind: Identity['kind']): readonly string[] =>
  identities.filter((each) => each.kind === kind).map((each) => each.value)

/**
 * A UUID with the octets of its first three fields turned round: the same number as some systems write it (SMBIOS 3.6
 * §7.2.1).
 */
export function turnedUuid(uuid: string): string {
  const turn = (hex: string): string => hex.match(/../g)!.reverse().join('')
  const [a, b, c, ...rest] = uuid.split('-')
  return [turn(a!), turn(b!), turn(c!), ...rest].join('-')
}

/**
 * Whether a weaker identity that is shared may count: not where both have one of a stronger kind and none of those is
 * shared. A UUID is shared when it is the same turned round, too.
 */
export function isContradicted(
  a: readonly Identity[],
  b: readonly Identity[],
  shared: Identity['kind'],
): boolean {
  return IDENTITY_PRECEDENCE.slice(0, IDENTITY_PRECEDENCE.indexOf(shared)).some((kind) => {
    const [own, other] = [valuesOf(a, kind), valuesOf(b, kind)]
    if (own.length === 0 || other.length === 0) return false
    return !own.some(
      (value) => other.includes(value) || (kind === 'uuid' && other.includes(turnedUuid(value))),
    )
  })
}

export interface Likeness {
  readonly a: Candidate
  readonly b: Candidate
  /** Why they are likely one, as a clause: “both are called petrel-07”. */
  readonly why: string
}

const firstLabel = (name: string): string => name.trim().toLowerCase().split('.')[0]!

/**
 * Pairs of gear that are likely one and not certain: what they share is a name, a UUID turned round, or an identity that
 * a stronger one contradicts. Two that one source tells of are two.
 */
export function likelySame(gear: readonly Candidate[]): Likeness[] {
  const found = new Map<string, Likeness>()
  const tell = (a: Candidate, b: Candidate, why: string): void => {
    if (a.id === b.id || !mayBeOne(a.kind, b.kind)) return
    if (a.sourceIds.some((id) => b.sourceIds.includes(id))) return
    const [first, second] = a.id < b.id ? [a, b] : [b, a]
    const key = `${first.id} ${second.id}`
    if (!found.has(key)) found.set(key, { a: first, b: second, why })
  }
  const pairs = (
    keysOf: (each: Candidate) => readonly string[],
    told: (key: string, pair: [Candidate, Candidate]) => string | null,
  ) => {
    const groups = new Map<string, Candidate[]>()
    for (const each of gear)
      for (const key of keysOf(each)) groups.set(key, [...(groups.get(key) ?? []), each])
    for (const [key, group] of groups)
      // A name that many share names none of them.
      if (group.length <= 4)
        group.forEach((a, index) =>
          group.slice(index + 1).forEach((b) => {
            const why = told(key, [a, b])
            if (why !== null) tell(a, b, why)
          }),
        )
  }
  pairs(
    (each) => valuesOf(each.identities, 'uuid').map((uuid) => [uuid, turnedUuid(uuid)].sort()[0]!),
    (_, [a, b]) =>
      valuesOf(a.identities, 'uuid').some((uuid) => valuesOf(b.identities, 'uuid').includes(uuid))
        ? null
        : 'their UUID is the same with the octets of its first fields turned round',
  )
  for (const kind of ['serial', 'wwn', 'mac'] as const)
    pairs(
      (each) => valuesOf(each.identities, kind),
      (value) => `both have the ${kind === 'serial' ? 'serial number' : kind.toUpperCase()} ${value}`,
    )
  pairs(
    (each) => (firstLabel(each.name) === '' ? [] : [firstLabel(each.name)]),
    (name, [a, b]) => (isContradicted(a.identities, b.identities, 'mac') ? null : `both are called ${name}`),
  )
  return [...found.values()]
}
