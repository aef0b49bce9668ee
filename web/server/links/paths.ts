import { type GearState, type GroupNode, groupTree } from '#core/gear'
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
import type { GearRow, GroupRow } from '#db/gear'
import { type LinkRow, listLiveParts } from '#db/links'
import type { GearScope } from '#db/rules'
import type { Present } from '../platform/present.ts'

export interface PathView {
  readonly path: Path
  /** What the drawing has found, in sentences. */
  readonly sentences: readonly string[]
}

/** Everything that hangs together, with its states. Groups stand in it by their negative ids. */
export interface SiteGraph extends PathGraph {
  readonly groups: readonly SiteGroup[]
}

/** A group with its state; its members are those who are named, and whoever has its tag. */
export type SiteGroup = GroupRow & GroupNode

type Start = Pick<GearRow, 'id' | 'name' | 'kind'>

/** What one gear needs and carries; drawn, and said. Of a large site that is a small part, and no more of it is read. */
export async function loadPathAround(present: Present, start: Start): Promise<PathView> {
  const { gear, links, asked } = await reachedFrom(present, start)
  const [groups, faults] = await Promise.all([groupsOf(present, asked), partFaults(present, partsOf(links))])
  const graph = {
    gear: new Map([...gear, ...groups.map((group) => group.gear)].map((each) => [each.id, each])),
    links: [...links, ...groups.flatMap((group) => group.links)],
  }
  return viewOf(graph, [start.id], faults)
}

/** What is reached from one gear, with its states: looked up step by step, until nothing more is. In the order of a whole site. */
async function reachedFrom(present: Present, start: Start) {
  const [states, linksOf] = await Promise.all([present.states(), present.linksByGear()])
  const gear = new Map<number, PathGear>()
  const links = new Map<number, PathLink>()
  const learn = ({ id, name, kind }: Omit<PathGear, 'state'>): void => {
    gear.set(id, { id, name, kind, state: states.get(id) ?? 'well' })
  }
  learn(start)
  const asked = new Set<number>()
  for (let open = [start.id]; open.length > 0;) {
    for (const id of open) {
      asked.add(id)
      for (const link of linksOf.get(id) ?? []) {
        if (links.has(link.id)) continue
        learn({ id: link.fromGearId, name: link.fromName, kind: link.fromKind })
        learn({ id: link.toGearId, name: link.toName, kind: link.toKind })
        links.set(link.id, drawnLink(link))
      }
    }
    const reached = pathOf({ gear, links: [...links.values()] }, [start.id]).gear
    open = [...reached.keys()].filter((id) => !asked.has(id))
  }
  return {
    gear: [...gear.values()].sort((a, b) => compare(a.name, b.name)),
    links: [...links.values()].sort(
      (a, b) => compare(a.kind, b.kind) || a.fromId - b.fromId || a.toId - b.toId,
    ),
    asked: [...asked],
  }
}

const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)

const drawnLink = (link: LinkRow): PathLink => ({
  kind: link.kind,
  fromId: link.fromGearId,
  toId: link.toGearId,
  fromPart: link.fromPart,
  toPart: link.toPart,
  fromPartId: link.fromPartId,
  toPartId: link.toPartId,
  fault: null,
})

/** The groups to which some gear belongs, by itself or by another group, with their states. */
async function groupsOf(present: Present, ids: readonly number[]) {
  const [groups, own] = await Promise.all([present.groups(), present.scopesOf(ids)])
  const touched = new Set([...own.values()].flatMap(({ groupIds }) => groupIds))
  if (touched.size === 0) return []
  return (await someGroups(present, groups, touched)).flatMap((group) =>
    touched.has(group.id)
      ? [
          {
            gear: pathGroup(group),
            links: [
              ...group.groupIds.filter((id) => touched.has(id)).map((id) => belongs(-group.id, -id)),
              ...group.members.filter(({ id }) => own.has(id)).map(({ id }) => belongs(-group.id, id)),
            ],
          },
        ]
      : [],
  )
}

/** Some groups with their states, and all within them: their states hang on those, too. */
export async function someGroups(
  present: Present,
  groups: readonly GroupRow[],
  some: ReadonlySet<number>,
): Promise<SiteGroup[]> {
  const wanted = withInner(groups, some)
  const [states, scopes] = await Promise.all([
    present.states(),
    wanted.some(({ tag }) => tag !== null) ? present.scopes() : present.scopesOf(membersOf(wanted)),
  ])
  return nodesOf(wanted, scopes, states)
}

const membersOf = (groups: readonly GroupRow[]): number[] => [
  ...new Set(groups.flatMap(({ memberIds }) => memberIds)),
]

/** Some groups, and all within them. */
function withInner(groups: readonly GroupRow[], some: ReadonlySet<number>): GroupRow[] {
  const wanted = new Set(some)
  const byId = new Map(groups.map((group) => [group.id, group]))
  for (const id of wanted) for (const inner of byId.get(id)?.groupIds ?? []) wanted.add(inner)
  return groups.filter(({ id }) => wanted.has(id))
}

/** Groups with their states; members in the order of their names. */
export function nodesOf(
  groups: readonly GroupRow[],
  scopes: ReadonlyMap<number, GearScope>,
  states: ReadonlyMap<number, GearState>,
): SiteGroup[] {
  const gear = [...scopes.values()].sort((a, b) => compare(a.gearName, b.gearName))
  const rows = groups.map((group) => ({
    ...group,
    members: gear.flatMap(({ gearId, gearName, gearKind, ownGroupIds }) =>
      ownGroupIds.includes(group.id)
        ? [{ id: gearId, name: gearName, kind: gearKind, state: states.get(gearId) ?? 'well' }]
        : [],
    ),
  }))
  const tree = groupTree(rows)
  return rows.map((row) => ({ ...row, ...tree.get(row.id)! }))
}

const pathGroup = ({ id, name, state }: SiteGroup): PathGear => ({
  id: -id,
  name,
  kind: 'group',
  state: state.state,
})

export async function loadGraph(present: Present): Promise<SiteGraph> {
  const [names, states, links, groups, scopes] = await Promise.all([
    present.names(),
    present.states(),
    present.links(),
    present.groups(),
    present.scopes(),
  ])
  const gear = new Map<number, PathGear>(
    names.map(({ id, name, kind }) => [id, { id, name, kind, state: states.get(id) ?? 'well' }]),
  )
  const drawn: PathLink[] = links
    .filter(({ fromGearId, toGearId }) => gear.has(fromGearId) && gear.has(toGearId))
    .map(drawnLink)
  const withMembers = nodesOf(groups, scopes, states)
  for (const group of withMembers) {
    gear.set(-group.id, pathGroup(group))
    drawn.push(
      ...group.groupIds.map((id) => belongs(-group.id, -id)),
      ...group.members.map(({ id }) => belongs(-group.id, id)),
    )
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

/** What some gear, or a group (by its negative id), needs and carries, of a graph that is known; drawn, and said. */
export async function loadPath(
  present: Present,
  graph: PathGraph,
  startIds: readonly number[],
): Promise<PathView> {
  return viewOf(graph, startIds, await partFaults(present, partsOf(pathOf(graph, startIds).links)))
}

const partsOf = (links: readonly PathLink[]): number[] => [
  ...new Set(links.flatMap(({ fromPartId, toPartId }) => [fromPartId ?? [], toPartId ?? []].flat())),
]

function viewOf(
  graph: PathGraph,
  startIds: readonly number[],
  faults: ReadonlyMap<number, CarryFault>,
): PathView {
  const path = withFaults(pathOf(graph, startIds), faults)
  return { path: drawPath(path, startIds), sentences: pathSentences(graph, path, startIds) }
}

/** Ports that are down, outlets that are off, supplies without power: by part. */
async function partFaults(
  present: Present,
  partIds: readonly number[],
): Promise<ReadonlyMap<number, CarryFault>> {
  const series = await listLiveParts(present.db, partIds)
  const latest = await present.latestOf(series.map(({ sourceId }) => sourceId))
  return new Map(
    series
      .filter(({ id }) => latest.get(id)?.value === 0)
      .map(({ partId, kind }) => [partId, kind === 'port' ? 'down' : kind === 'outlet' ? 'off' : 'dead']),
  )
}
