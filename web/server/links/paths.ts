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
import type { GroupRow } from '#db/gear'
import { listAllLinks, listLiveParts } from '#db/links'
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
    .map(({ fromGearId: fromId, toGearId: toId, ...link }) => ({ ...link, fromId, toId, fault: null }))
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
  graph: SiteGraph,
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
