import { GEAR_KINDS } from '#core/catalogue'
import {
  drawPath,
  feedSentence,
  feedsOf,
  type Path,
  type PathGear,
  type PathGraph,
  type PathLink,
  pathOf,
} from '#core/links'
import { type GearState, groupState, tagsOf } from '#core/gear'
import { listNames } from '#core/rules'
import type { Db } from '#db/platform'
import { type GearRow, listGear, type GroupRow, listGroups, listTagRules, type TagRuleRow } from '#db/gear'
import { listAllLinks, listLiveParts } from '#db/links'
import { latestReadings } from '#db/readings'
import { listSources } from '#db/sources'
import { silentSourceIds, stateOf } from '../gear/gearStates.ts'

export interface PathView {
  readonly path: Path
  /** What the drawing has found, in sentences. */
  readonly sentences: readonly string[]
}

/** Everything that hangs together, with its states and what of its links does not carry. */
export interface SiteGraph extends PathGraph {
  readonly rows: ReadonlyMap<number, GearRow>
  readonly groups: readonly GroupRow[]
}

/** Members of a group: those who are named, and whoever has its tag. */
export function membersOf(group: GroupRow, gear: Iterable<GearRow>, rules: readonly TagRuleRow[]): number[] {
  const named = new Set(group.memberIds)
  return [...gear].flatMap((each) =>
    named.has(each.id) || (group.tag !== null && tagsOf(each, rules).includes(group.tag)) ? [each.id] : [],
  )
}

export async function loadGraph(db: Db, nowMs: number): Promise<SiteGraph> {
  const [gear, links, groups, rules, sources, faults] = await Promise.all([
    listGear(db),
    listAllLinks(db),
    listGroups(db),
    listTagRules(db),
    listSources(db),
    listPartFaults(db),
  ])
  const silent = silentSourceIds(sources, nowMs)
  const rows = new Map(gear.map((each) => [each.id, each]))
  const all = new Map<number, PathGear>(
    gear.map(({ id, name, kind, ...rest }) => [
      id,
      { id, name, kind, state: stateOf({ id, name, kind, ...rest }, silent) },
    ]),
  )
  const drawn: PathLink[] = links.flatMap((link) => {
    const [from, to] = [all.get(link.fromGearId), all.get(link.toGearId)]
    if (from === undefined || to === undefined) return []
    const fault =
      faultOf(faults.get(link.fromPartId ?? 0), link.fromPart, from.name) ??
      faultOf(faults.get(link.toPartId ?? 0), link.toPart, to.name)
    return [
      {
        kind: link.kind,
        fromId: link.fromGearId,
        toId: link.toGearId,
        fromPart: link.fromPart,
        toPart: link.toPart,
        fault,
      },
    ]
  })
  for (const group of groups) {
    const members = membersOf(group, gear, rules)
    const { state } = groupState(
      members.map((id) => all.get(id)!.state),
      group,
    )
    all.set(-group.id, { id: -group.id, name: group.name, kind: 'group', state })
    for (const id of members)
      drawn.push({ kind: 'belongs', fromId: -group.id, toId: id, fromPart: null, toPart: null, fault: null })
  }
  return { gear: all, links: drawn, rows, groups }
}

type Fault = 'down' | 'off' | 'dead'

/** Ports that are down, outlets that are off, supplies without power: by part. */
async function listPartFaults(db: Db): Promise<ReadonlyMap<number, Fault>> {
  const [series, latest] = await Promise.all([listLiveParts(db), latestReadings(db)])
  const faults = new Map<number, Fault>()
  for (const { id, partId, kind } of series)
    if (latest.get(id)?.value === 0)
      faults.set(partId!, kind === 'port' ? 'down' : kind === 'outlet' ? 'off' : 'dead')
  return faults
}

function faultOf(fault: Fault | undefined, part: string | null, gear: string): string | null {
  switch (fault) {
    case undefined:
      return null
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

const WORDS: Record<Exclude<GearState, 'well'>, string> = {
  critical: 'critical',
  warning: 'in warning',
  noData: 'without data',
  quiet: 'quieted',
}

/** What some gear, or a group (by its negative id), needs and carries; drawn, and said. */
export function pathView(graph: SiteGraph, startIds: readonly number[]): PathView {
  const path = pathOf(graph, startIds)
  const start = graph.gear.get(startIds[0]!)
  const bad = [...path.gear.values()].filter(
    ({ id, state }) => state !== 'well' && state !== 'quiet' && !startIds.includes(id),
  )
  const said = (['critical', 'warning', 'noData'] as const).flatMap((state) => {
    const names = bad.filter((each) => each.state === state).map(({ name }) => name)
    return names.length === 0
      ? []
      : [`${listNames(names)} ${names.length === 1 ? 'is' : 'are'} ${WORDS[state]}`]
  })
  const broken = [...new Set(path.links.flatMap(({ fault }) => fault ?? []))]
  const faults = [...said, ...broken]
  const feeds = start === undefined ? null : feedSentence(start.name, feedsOf(graph, start.id))
  return {
    path: drawPath(path, startIds),
    sentences: [
      ...(faults.length === 0
        ? path.links.length === 0
          ? []
          : ['Everything on the way is well.']
        : [`On the way, ${faults.join('; ')}.`]),
      ...(feeds === null ? [] : [feeds]),
    ],
  }
}

/** The noun of a kind in a drawing. */
export const kindWord = (kind: PathGear['kind']): string =>
  kind === 'group' ? 'group' : GEAR_KINDS[kind].label.toLowerCase()
