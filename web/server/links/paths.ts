import { groupState } from '#core/gear'
import {
  type CarryFault,
  drawPath,
  type Path,
  type PathGear,
  type PathGraph,
  type PathLink,
  pathOf,
  pathSentences,
  withFaults,
} from '#core/links'
import { type GroupRow, listNamesOfGear } from '#db/gear'
import { type LinkRow, listAllLinks, listLiveParts } from '#db/links'
import type { Db } from '#db/platform'
import { latestReadings } from '#db/readings'
import type { Present } from '../platform/present.ts'

export interface PathView {
  readonly path: Path
  /** What the drawing has found, in sentences. */
  readonly sentences: readonly string[]
}

/** Everything that hangs together, with its states. Groups stand in it by their negative ids. */
export interface SiteGraph extends PathGraph {
  readonly groups: readonly (GroupRow & {
    /** Those who are named, and whoever has its tag. */
    readonly members: readonly PathGear[]
  })[]
}

/**
 * What hangs together with one gear, with its states: of a large site a small part. What is reached from it is asked
 * for step by step, until nothing more is.
 */
export async function loadGraphAround(present: Present, startId: number): Promise<PathGraph> {
  const states = await present.states()
  const gear = new Map<number, PathGear>()
  const links = new Map<number, PathLink>()
  const learn = async (ids: readonly number[]): Promise<void> => {
    const wanted = ids.filter((id) => !gear.has(id))
    for (const { id, name, kind } of await listNamesOfGear(present.db, wanted))
      gear.set(id, { id, name, kind, state: states.get(id) ?? 'well' })
  }
  await learn([startId])
  const asked = new Set<number>()
  for (let open = [startId]; open.length > 0;) {
    open.forEach((id) => asked.add(id))
    const found = await listAllLinks(present.db, open)
    await learn(found.flatMap(({ fromGearId, toGearId }) => [fromGearId, toGearId]))
    for (const link of found) links.set(link.id, drawnLink(link))
    const reached = pathOf({ gear, links: [...links.values()] }, [startId]).gear
    open = [...reached.keys()].filter((id) => !asked.has(id))
  }
  const groups = await groupsOf(present, [...asked])
  const inOrder = [...links.values()].sort(
    (a, b) => compare(a.kind, b.kind) || a.fromId - b.fromId || a.toId - b.toId,
  )
  const named = [...gear.values()].sort((a, b) => compare(a.name, b.name))
  return {
    gear: new Map([...named, ...groups.map((group) => group.gear)].map((each) => [each.id, each])),
    links: [...inOrder, ...groups.flatMap((group) => group.links)],
  }
}

const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)

const drawnLink = ({ fromGearId: fromId, toGearId: toId, ...link }: LinkRow): PathLink => ({
  ...link,
  fromId,
  toId,
  fault: null,
})

/** The groups to which some gear belongs, with their states. */
async function groupsOf(present: Present, ids: readonly number[]) {
  const [groups, own] = await Promise.all([present.groups(), present.scopesOf(ids)])
  const touched = groups.filter(({ id }) => [...own.values()].some(({ groupIds }) => groupIds.includes(id)))
  if (touched.length === 0) return []
  const [states, scopes] = await Promise.all([
    present.states(),
    touched.some(({ tag }) => tag !== null)
      ? present.scopes()
      : present.scopesOf(touched.flatMap(({ memberIds }) => memberIds)),
  ])
  return touched.map(({ id, name, ...rule }) => {
    const members = [...scopes.values()].filter(({ groupIds }) => groupIds.includes(id))
    const { state } = groupState(
      members.map(({ gearId }) => states.get(gearId) ?? 'well'),
      rule,
    )
    return {
      gear: { id: -id, name, kind: 'group' as const, state },
      links: [...own.values()]
        .filter(({ groupIds }) => groupIds.includes(id))
        .sort((a, b) => compare(a.gearName, b.gearName))
        .map(({ gearId }) => belongs(-id, gearId)),
    }
  })
}

export async function loadGraph(present: Present): Promise<SiteGraph> {
  const [names, states, links, groups, scopes] = await Promise.all([
    present.names(),
    present.states(),
    listAllLinks(present.db),
    present.groups(),
    present.scopes(),
  ])
  const gear = new Map<number, PathGear>(
    names.map(({ id, name, kind }) => [id, { id, name, kind, state: states.get(id) ?? 'well' }]),
  )
  const drawn: PathLink[] = links
    .filter(({ fromGearId, toGearId }) => gear.has(fromGearId) && gear.has(toGearId))
    .map(drawnLink)
  const withMembers = groups.map((group) => ({
    ...group,
    members: [...gear.values()].filter(({ id }) => scopes.get(id)?.groupIds.includes(group.id)),
  }))
  for (const { id, name, members, ...rule } of withMembers) {
    const { state } = groupState(
      members.map((member) => member.state),
      rule,
    )
    gear.set(-id, { id: -id, name, kind: 'group', state })
    drawn.push(...members.map((member) => belongs(-id, member.id)))
  }
  return { gear, links: drawn, groups: withMembers }
}

const belongs = (fromId: number, toId: number): PathLink => ({
  kind: 'belongs',
  fromId,
  toId,
  fromPart: null,
  toPart: null,
  fromPartId: null,
  toPartId: null,
  fault: null,
})

/** What some gear, or a group (by its negative id), needs and carries; drawn, and said. */
export async function loadPath(
  present: Present,
  graph: PathGraph,
  startIds: readonly number[],
): Promise<PathView> {
  const whole = pathOf(graph, startIds)
  const partIds = whole.links.flatMap(({ fromPartId, toPartId }) => [fromPartId ?? [], toPartId ?? []].flat())
  const path = withFaults(whole, await partFaults(present.db, [...new Set(partIds)]))
  return { path: drawPath(path, startIds), sentences: pathSentences(graph, path, startIds) }
}

/** Ports that are down, outlets that are off, supplies without power: by part. */
async function partFaults(db: Db, partIds: readonly number[]): Promise<ReadonlyMap<number, CarryFault>> {
  const series = await listLiveParts(db, partIds)
  const latest = await latestReadings(db, [...new Set(series.map(({ sourceId }) => sourceId))])
  return new Map(
    series
      .filter(({ id }) => latest.get(id)?.value === 0)
      .map(({ partId, kind }) => [partId, kind === 'port' ? 'down' : kind === 'outlet' ? 'off' : 'dead']),
  )
}
