import { GEAR_KINDS, type GearKind } from '../catalogue/index.ts'
import type { GroupNode, MemberGear } from './groupTree.ts'
import type { GearState } from './state.ts'

/** So many things that are lost are named; a longer sentence is not read. */
const MOST_NAMED = 3

/** What is not as it should be, in words for people who do not read hardware. */
interface Said {
  readonly words: string
  readonly isOne: boolean
}

/** How a group is called in a sentence. */
export const calledOf = ({ plain, name }: Pick<GroupNode, 'plain' | 'name'>): string =>
  plain === '' ? name : plain

/** “Cameras” are many, a “bus”, an “analysis” and a “UPS” are one. */
const isOne = (called: string): boolean => !/[a-hj-rtv-z]s$/.test(called)

const capital = (words: string): string => `${words[0]?.toUpperCase() ?? ''}${words.slice(1)}`

/**
 * Whether a service works, and what of it does not, in a sentence without a name of any gear: “The public forecast
 * works; its second data path is lost.”
 */
export function serviceSentence(service: GroupNode): string {
  const called = capital(calledOf(service))
  const [works, doesNot] = isOne(called) ? ['works', 'does not work'] : ['work', 'do not work']
  const lost = foundIn(service, 'critical')
  const unheard = foundIn(service, 'noData')
  switch (service.state.state) {
    case 'critical': {
      // What is lost within something that still works is not why.
      const why = foundIn(
        { ...service, groups: service.groups.filter(({ state }) => state.state === 'critical') },
        'critical',
      )
      const silent = `nothing is heard of ${listed(unheard)}`
      if (why.length === 0) return `${called} ${doesNot}: ${silent}.`
      const rest = service.unknown === 'bad' && unheard.length > 0 ? `, and ${silent}` : ''
      return `${called} ${doesNot}: ${sentenceOf(why, ['is lost', 'are lost'])}${rest}.`
    }
    case 'noData':
      if (service.members.length + service.groups.length === 0)
        return `It cannot be said whether ${calledOf(service)} ${works}: nothing belongs to it yet.`
      return `It cannot be said whether ${calledOf(service)} ${works}: nothing is heard of ${listed(unheard)}${lost.length === 0 ? '' : `, and ${sentenceOf(lost, ['is lost', 'are lost'])}`}.`
    case 'warning': {
      const parts = [
        ...(lost.length > 0 ? [sentenceOf(lost, ['is lost', 'are lost'])] : []),
        ...(unheard.length > 0 ? [`nothing is heard of ${listed(unheard)}`] : []),
      ]
      const weak = foundIn(service, 'warning')
      if (parts.length === 0 && weak.length > 0)
        parts.push(sentenceOf(weak, ['needs attention', 'need attention']))
      return `${called} ${works}${parts.length === 0 ? '' : `; ${parts.join(', and ')}`}.`
    }
    case 'quiet':
    case 'well':
      return `${called} ${works}.`
    default:
      return service.state.state satisfies never
  }
}

/** What of a service is in a state; of a group that still works, what of it is. */
function foundIn(node: GroupNode, state: GearState): Said[] {
  const groups = node.groups.flatMap((inner): Said[] => {
    const itself = { words: calledOf(inner), isOne: isOne(calledOf(inner)) }
    if (inner.state.state !== state) return inner.state.state === 'critical' ? [] : foundIn(inner, state)
    if (state !== 'warning') return [itself]
    // What only needs attention is told by the innermost group.
    const within = foundIn({ ...inner, members: [] }, state)
    return within.length > 0 ? within : [itself]
  })
  return [...groups, ...gearIn(node.members, state)]
}

/** “1 of 4 cameras”; gear by their kinds. */
function gearIn(members: readonly MemberGear[], state: GearState): Said[] {
  const kinds = new Map<GearKind, { all: number; found: number }>()
  for (const { kind, state: own } of members) {
    const count = kinds.get(kind) ?? { all: 0, found: 0 }
    kinds.set(kind, { all: count.all + 1, found: count.found + (own === state ? 1 : 0) })
  }
  return [...kinds].flatMap(([kind, { all, found }]): Said[] => {
    if (found === 0) return []
    const { label, plural } = GEAR_KINDS[kind]
    if (all === 1) return [{ words: `the ${inSentence(label)}`, isOne: true }]
    return [
      { words: found === all ? `all ${all} ${plural}` : `${found} of ${all} ${plural}`, isOne: found === 1 },
    ]
  })
}

/** “UPS” stays as it is. */
const inSentence = (label: string): string =>
  label === label.toUpperCase() ? label : `${label[0]?.toLowerCase() ?? ''}${label.slice(1)}`

const listed = (said: readonly Said[]): string => {
  const names = said.map(({ words }) => words)
  const shown =
    names.length > MOST_NAMED
      ? [...names.slice(0, MOST_NAMED - 1), `${names.length - MOST_NAMED + 1} more`]
      : names
  return shown.length <= 1
    ? (shown[0] ?? 'something of it')
    : `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}`
}

const sentenceOf = (said: readonly Said[], [one, many]: readonly [string, string]): string =>
  `${listed(said)} ${said.length <= 1 && (said[0]?.isOne ?? true) ? one : many}`

/** How all services do, in a sentence. */
export function servicesSentence(services: readonly GroupNode[]): string {
  if (services.length === 0) return 'No service is named yet.'
  const of = (...states: readonly GearState[]): readonly GroupNode[] =>
    services.filter(({ state }) => states.includes(state.state))
  const [broken, unsure, weak] = [of('critical'), of('noData'), of('warning')]
  const names = (some: readonly GroupNode[]): string =>
    listed(some.map((service) => ({ words: calledOf(service), isOne: true })))
  const areMany = (some: readonly GroupNode[]): boolean => some.length > 1 || !isOne(calledOf(some[0]!))
  const others = services.length - broken.length - unsure.length
  if (broken.length > 0)
    return [
      `${capital(names(broken))} ${areMany(broken) ? 'do' : 'does'} not work`,
      ...(unsure.length === 0 ? [] : [`of ${names(unsure)} it cannot be said`]),
      ...(others === 0 ? [] : [others === 1 ? '1 other works' : `${others} others work`]),
    ]
      .join('; ')
      .concat('.')
  if (unsure.length > 0)
    return `Of ${names(unsure)} it cannot be said whether ${areMany(unsure) ? 'they work' : 'it works'}.`
  if (services.length === 1) return serviceSentence(services[0]!)
  return `All ${services.length} services work${weak.length === 0 ? '' : `; something is wrong within ${names(weak)}`}.`
}
