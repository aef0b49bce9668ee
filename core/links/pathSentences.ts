import { type GearState, STATE_PREDICATES } from '../gear/state.ts'
import { listNames } from '../rules/index.ts'
import { feedSentence, feedsOf, type PathGraph, type PathLink } from './path.ts'

/** What a port, an outlet or a supply may have against carrying anything. */
export type CarryFault = 'down' | 'off' | 'dead'

/** Why a link does not carry, of one of its parts. */
export function faultWords(fault: CarryFault, part: string, gear: string): string {
  switch (fault) {
    case 'down':
      return `port ${part} of ${gear} is down`
    case 'off':
      return `${part} of ${gear} is off`
    case 'dead':
      return `${part} of ${gear} has no power`
    default:
      return fault satisfies never
  }
}

/** The links of a path with what their parts have against carrying, by the ids of the parts. */
export function withFaults(path: PathGraph, faults: ReadonlyMap<number, CarryFault>): PathGraph {
  const words = (partId: number | null, part: string | null, gearId: number): string | null => {
    const fault = partId === null ? undefined : faults.get(partId)
    const gear = path.gear.get(gearId)
    return fault === undefined || gear === undefined ? null : faultWords(fault, part ?? '', gear.name)
  }
  const faultOf = (link: PathLink): string | null =>
    words(link.fromPartId, link.fromPart, link.fromId) ?? words(link.toPartId, link.toPart, link.toId)
  return { ...path, links: path.links.map((link) => ({ ...link, fault: faultOf(link) })) }
}

/**
 * What a path has found: what on it is not well or does not carry, and what feeds where it starts.
 * @param graph everything that hangs together, for the feeds of the start
 */
export function pathSentences(graph: PathGraph, path: PathGraph, startIds: readonly number[]): string[] {
  const isBad = (state: GearState): boolean => state !== 'well' && state !== 'quiet'
  const bad = [...path.gear.values()].filter(({ id, state }) => isBad(state) && !startIds.includes(id))
  const states = (['critical', 'warning', 'noData'] as const).flatMap((state) => {
    const names = bad.filter((each) => each.state === state).map(({ name }) => name)
    if (names.length === 0) return []
    return [`${listNames(names)} ${names.length === 1 ? 'is' : 'are'} ${STATE_PREDICATES[state]}`]
  })
  const found = [...states, ...new Set(path.links.flatMap(({ fault }) => fault ?? []))]
  const start = graph.gear.get(startIds[0]!)
  const feeds = start === undefined ? null : feedSentence(start.name, feedsOf(graph, start.id))
  const onTheWay =
    found.length > 0
      ? [`On the way, ${found.join('; ')}.`]
      : path.links.length > 0
        ? ['Everything on the way is well.']
        : []
  return [...onTheWay, ...(feeds === null ? [] : [feeds])]
}
