import type { GearKind, LinkKind } from '../catalogue/index.ts'
import type { GearState } from '../gear/state.ts'

/** A gear, or a group of them, as a point of the drawing. Ids of groups are negative. */
export interface PathGear {
  readonly id: number
  readonly name: string
  readonly kind: GearKind | 'group'
  readonly state: GearState
}

export interface PathLink {
  readonly kind: LinkKind | 'belongs'
  readonly fromId: number
  readonly toId: number
  readonly fromPart: string | null
  readonly toPart: string | null
  readonly fromPartId: number | null
  readonly toPartId: number | null
  /** Why it does not carry: “port xe-17 of reef-2 is down”; `null` when it does, or nobody knows. */
  readonly fault: string | null
}

export interface PathNode extends PathGear {
  readonly x: number
  readonly y: number
  /** What it stands for, where several are drawn as one. */
  readonly bundle: readonly PathGear[]
  readonly isStart: boolean
}

export interface PathEdge extends PathLink {
  /** How many links are drawn as this one. */
  readonly count: number
}

export interface Path {
  readonly nodes: readonly PathNode[]
  readonly edges: readonly PathEdge[]
  readonly width: number
  readonly height: number
}

export const NODE_WIDTH = 138
export const NODE_HEIGHT = 36
const COLUMN = 172
const ROW = 46
const MARGIN = 4

/** From what people ask for to what it hangs on. Of two links between kinds the later column is needed by the earlier. */
const COLUMN_OF: Readonly<Record<GearKind | 'group', number>> = {
  group: 0,
  service: 1,
  selfMonitoring: 1,
  cluster: 1,
  machine: 1,
  volume: 1,
  camera: 1,
  probe: 1,
  door: 1,
  rope: 1,
  meter: 1,
  host: 2,
  server: 2,
  recorder: 2,
  chassis: 3,
  store: 3,
  switch: 4,
  pdu: 4,
  array: 5,
  ups: 5,
  cooling: 5,
  generator: 6,
}
/** What is computed and stored on above, the wires below it, then power and air. */
const BAND_OF: Readonly<Partial<Record<GearKind | 'group', number>>> = {
  array: 1,
  store: 1,
  switch: 2,
  pdu: 3,
  ups: 3,
  generator: 3,
  cooling: 4,
}
const band = (kind: GearKind | 'group'): number => BAND_OF[kind] ?? 0

/** More of a kind that hang on the same things are drawn as one. */
const MOST_ALONE = 6

/** In links of these kinds the one that is needed stands first; in all others the one that needs. */
export const isNeededFirst = (kind: PathLink['kind']): boolean => kind === 'hosts' || kind === 'contains'

/** Of a link: who needs whom. */
export function needOf(link: Pick<PathLink, 'kind' | 'fromId' | 'toId'>): {
  readonly who: number
  readonly whom: number
} {
  const turned = isNeededFirst(link.kind)
  return turned ? { who: link.toId, whom: link.fromId } : { who: link.fromId, whom: link.toId }
}

export interface PathGraph {
  readonly gear: ReadonlyMap<number, PathGear>
  readonly links: readonly PathLink[]
}

interface Way {
  readonly kind: PathLink['kind']
  readonly to: number
}

/** After a link of one kind, upwards: which kinds still lead to what would miss the start. */
const UPWARDS: Readonly<Record<PathLink['kind'], readonly PathLink['kind'][]>> = {
  'fed-by': ['fed-by', 'hosts', 'contains'],
  hosts: ['hosts', 'contains', 'belongs'],
  contains: ['hosts', 'contains', 'belongs'],
  'stores-on': ['stores-on', 'belongs'],
  'wired-to': [],
  'cooled-by': [],
  belongs: ['belongs'],
}

/**
 * What some gear needs and what needs it, with the links between.
 *
 * Downwards: a machine's host and its chassis, its own stores and their arrays, the wires of those, and the power and air
 * of what computes. Where somebody asks for a machine, the other stores of its host and the power of the switches would
 * hide what matters; they are a click away. Upwards: what hangs on it by power, what runs there, what is stored there.
 */
export function pathOf(graph: PathGraph, startIds: readonly number[]): PathGraph {
  const kindOf = (id: number): PathGear['kind'] | undefined => graph.gear.get(id)?.kind
  const ways = waysOf(graph, kindOf)
  const starts = new Set(startIds)
  const { reached, isFollowed } = followDown(ways.needs, startIds, kindOf)
  const inner = new Set(reached)
  followUp(ways.neededBy, startIds, kindOf, reached)
  const isUp = (id: number): boolean => starts.has(id) || kindOf(id) === 'pdu'
  // Of what hangs on the start, everything between its ends is drawn; else what was not followed is not drawn, though both ends be there by other ways.
  const isWay = ({ kind, fromId, toId }: PathLink): boolean =>
    kind === 'belongs' ||
    kind === 'wired-to' ||
    isFollowed(needOf({ kind, fromId, toId }).who, kind) ||
    isUp(fromId) ||
    isUp(toId)
  // Other groups of a member are of no use in the drawing of one.
  const ofGroup = startIds.some((id) => kindOf(id) === 'group')
  const links = graph.links.filter(
    (link) =>
      [link.fromId, link.toId].every((id) => reached.has(id)) &&
      link.fromId !== link.toId &&
      isWay(link) &&
      !(link.kind === 'belongs' && ofGroup && !inner.has(link.fromId)),
  )
  const used = new Set<number>([...startIds, ...links.flatMap((link) => [link.fromId, link.toId])])
  return { gear: new Map([...graph.gear].filter(([id]) => reached.has(id) && used.has(id))), links }
}

type KindOf = (id: number) => PathGear['kind'] | undefined
type Ways = ReadonlyMap<number, readonly Way[]>

/** Of each gear what it needs, and what needs it. */
function waysOf({ links }: PathGraph, kindOf: KindOf): { readonly needs: Ways; readonly neededBy: Ways } {
  const needs = new Map<number, Way[]>()
  const neededBy = new Map<number, Way[]>()
  const isSwitch = (id: number): boolean => kindOf(id) === 'switch'
  const add = (map: Map<number, Way[]>, id: number, way: Way): void => {
    const known = map.get(id)
    if (known === undefined) map.set(id, [way])
    else known.push(way)
  }
  for (const link of links) {
    const { kind } = link
    const { who, whom } = kind === 'wired-to' ? wireEnds(link, isSwitch) : needOf(link)
    if (kind === 'wired-to' && isSwitch(who)) continue
    add(needs, who, { kind, to: whom })
    add(neededBy, whom, { kind, to: who })
  }
  return { needs, neededBy }
}

/** What is needed by the start, and which links of a gear are followed to find it. */
function followDown(
  needs: Ways,
  startIds: readonly number[],
  kindOf: KindOf,
): { reached: Set<number>; isFollowed: (id: number, kind: PathLink['kind']) => boolean } {
  const reached = new Set<number>(startIds)
  /** What is asked for, and what it computes on. */
  const main = new Set<number>(startIds)
  const isFollowed = followedBy(new Set(startIds), main, kindOf)
  const open = [...startIds]
  for (let id = open.pop(); id !== undefined; id = open.pop())
    for (const { kind, to } of needs.get(id) ?? []) {
      // A group is what somebody has put together: it is needed by nobody.
      if (kind === 'belongs' ? kindOf(id) !== 'group' : !isFollowed(id, kind)) continue
      if ((kind === 'hosts' || kind === 'contains' || kind === 'belongs') && main.has(id)) main.add(to)
      if (reached.has(to)) continue
      reached.add(to)
      open.push(to)
    }
  return { reached, isFollowed }
}

const followedBy =
  (starts: ReadonlySet<number>, main: ReadonlySet<number>, kindOf: KindOf) =>
  (id: number, kind: PathLink['kind']): boolean => {
    const own = kindOf(id)
    switch (kind) {
      case 'fed-by':
        return main.has(id) || own === 'pdu' || own === 'ups'
      case 'cooled-by':
        return main.has(id)
      case 'wired-to':
        return main.has(id) || own === 'array'
      case 'stores-on':
        return starts.has(id) || (own !== 'server' && own !== 'host')
      default:
        return true
    }
  }

/** Adds what would miss the start to what is reached. */
function followUp(neededBy: Ways, startIds: readonly number[], kindOf: KindOf, reached: Set<number>): void {
  const open = startIds
    .filter((id) => kindOf(id) !== 'group')
    .map((id) => ({ id, after: null as PathLink['kind'] | null }))
  for (let at = open.pop(); at !== undefined; at = open.pop())
    for (const { kind, to } of neededBy.get(at.id) ?? []) {
      if (reached.has(to) || (at.after !== null && !UPWARDS[at.after].includes(kind))) continue
      reached.add(to)
      open.push({ id: to, after: kind })
    }
}

function wireEnds(
  { fromId, toId }: PathLink,
  isSwitch: (id: number) => boolean,
): { who: number; whom: number } {
  return isSwitch(fromId) && !isSwitch(toId) ? { who: toId, whom: fromId } : { who: fromId, whom: toId }
}

/**
 * Places a path in columns, from what people ask for at the left to what all hangs on at the right; within a column what
 * belongs together stands near to what it hangs on. Many of a kind that hang on the same things become one; what is not
 * well stays by itself.
 */
export function drawPath(path: PathGraph, startIds: readonly number[]): Path {
  const starts = new Set(startIds)
  const { gear, nodeOf } = bundled(path, starts)
  const edges = mergedEdges(path.links, nodeOf)
  const columns = inOrder(gear, edges)
  const most = Math.max(1, ...columns.map((list) => list.length))
  const nodes = columns.flatMap((list, at) => {
    const top = MARGIN + ((most - list.length) * ROW) / 2
    return list.map((each, index): PathNode => ({
      ...each,
      isStart: starts.has(each.id),
      x: MARGIN + at * COLUMN,
      y: top + index * ROW,
    }))
  })
  return {
    nodes,
    edges,
    width: 2 * MARGIN + (columns.length - 1) * COLUMN + NODE_WIDTH,
    height: 2 * MARGIN + (most - 1) * ROW + NODE_HEIGHT,
  }
}

/** The columns from left to right, in each what stands from top to bottom: by barycentres, to and fro (Sugiyama, Tagawa and Toda 1981). */
function inOrder(gear: readonly Bundled[], edges: readonly PathEdge[]): Bundled[][] {
  const numbers = [...new Set(gear.map(({ kind }) => COLUMN_OF[kind]))].sort((a, b) => a - b)
  const columns = numbers.map((number) => gear.filter(({ kind }) => COLUMN_OF[kind] === number))
  const near = neighboursOf(edges)
  const rank = new Map<number, number>()
  const sortBy = (list: Bundled[], centre: (id: number) => number): void => {
    list.sort(
      (a, b) => band(a.kind) - band(b.kind) || centre(a.id) - centre(b.id) || compareNames(a.name, b.name),
    )
  }
  const settle = (): void => {
    for (const list of columns) list.forEach(({ id }, index) => rank.set(id, index - (list.length - 1) / 2))
  }
  for (const list of columns) sortBy(list, () => 0)
  settle()
  for (let sweep = 0; sweep < 6; sweep += 1) {
    for (const list of columns) {
      const centres = new Map(list.map(({ id }) => [id, centreOf(id, near, rank)]))
      sortBy(list, (id) => centres.get(id)!)
    }
    settle()
  }
  return columns
}

function neighboursOf(edges: readonly PathEdge[]): ReadonlyMap<number, readonly number[]> {
  const near = new Map<number, number[]>()
  for (const { fromId, toId } of edges) {
    near.set(fromId, [...(near.get(fromId) ?? []), toId])
    near.set(toId, [...(near.get(toId) ?? []), fromId])
  }
  return near
}

function centreOf(
  id: number,
  near: ReadonlyMap<number, readonly number[]>,
  rank: ReadonlyMap<number, number>,
): number {
  const others = near.get(id) ?? []
  if (others.length === 0) return rank.get(id) ?? 0
  return others.reduce((total, other) => total + (rank.get(other) ?? 0), 0) / others.length
}

const compareNames = (a: string, b: string): number => a.localeCompare(b, 'en', { numeric: true })

type Bundled = PathGear & { readonly bundle: readonly PathGear[] }

/** Gear with the same kind, the same links and nothing wrong is one, where there is much of it. */
function bundled(
  path: PathGraph,
  starts: ReadonlySet<number>,
): { gear: Bundled[]; nodeOf: ReadonlyMap<number, number> } {
  const ways = new Map<number, Set<string>>()
  for (const { kind, fromId, toId, fault } of path.links) {
    // Machines on eight hosts are drawn as one when what matters is the array below.
    const ends = [
      [fromId, `${kind} > ${coarse(path, toId)}`],
      [toId, `${kind} < ${coarse(path, fromId)}`],
    ] as const
    for (const [id, way] of ends)
      ways.set(id, (ways.get(id) ?? new Set()).add(fault === null ? way : `${way} ${fault}`))
  }
  const alike = new Map<string, PathGear[]>()
  for (const each of path.gear.values()) {
    const alone = starts.has(each.id) || each.state !== 'well'
    const key = alone ? `alone ${each.id}` : `${each.kind} ${[...(ways.get(each.id) ?? [])].sort().join('|')}`
    alike.set(key, [...(alike.get(key) ?? []), each])
  }
  const gear: Bundled[] = []
  const nodeOf = new Map<number, number>()
  const crowded = new Set(
    [...count([...path.gear.values()].map(({ kind }) => kind))].flatMap(([kind, number]) =>
      number > MOST_ALONE ? [kind] : [],
    ),
  )
  for (const list of alike.values()) {
    const isBundle = list.length > 1 && crowded.has(list[0]!.kind)
    for (const each of isBundle ? [list] : list.map((one) => [one])) {
      const first = each[0]!
      each.forEach(({ id }) => nodeOf.set(id, first.id))
      gear.push({ ...first, bundle: each.length > 1 ? each : [] })
    }
  }
  return { gear, nodeOf }
}

/** What an end is, for the question whether two hang on the same: things there are few of by themselves, others by kind. */
function coarse(path: PathGraph, id: number): string {
  const { kind, state } = path.gear.get(id)!
  const many = kind === 'machine' || kind === 'server' || kind === 'volume' || kind === 'pdu'
  return many && state === 'well' ? kind : String(id)
}

function count<Key>(keys: readonly Key[]): Map<Key, number> {
  const counts = new Map<Key, number>()
  for (const key of keys) counts.set(key, (counts.get(key) ?? 0) + 1)
  return counts
}

function mergedEdges(links: readonly PathLink[], nodeOf: ReadonlyMap<number, number>): PathEdge[] {
  const merged = new Map<string, PathEdge>()
  for (const link of links) {
    const [fromId, toId] = [nodeOf.get(link.fromId)!, nodeOf.get(link.toId)!]
    if (fromId === toId) continue
    const ends = link.kind === 'wired-to' ? [fromId, toId].sort((a, b) => a - b) : [fromId, toId]
    const key = `${link.kind} ${ends.join(' ')}`
    const known = merged.get(key)
    merged.set(
      key,
      known === undefined
        ? { ...link, fromId, toId, count: 1 }
        : { ...known, count: known.count + 1, fault: known.fault ?? link.fault },
    )
  }
  return [...merged.values()]
}

export interface Feeds {
  /** What carries its power in the end: UPS units, or strips that nothing is known of. */
  readonly sources: readonly PathGear[]
  readonly cords: number
}

/** On how many feeds a gear hangs, by all of its cords. */
export function feedsOf(graph: PathGraph, id: number): Feeds {
  const above = (from: number): number[] =>
    graph.links.flatMap((link) => (link.kind === 'fed-by' && link.fromId === from ? [link.toId] : []))
  const cords = graph.links.filter((link) => link.kind === 'fed-by' && link.fromId === id)
  const ends = new Set<number>()
  for (const { toId } of cords) {
    const ups = above(toId).filter((each) => graph.gear.get(each)?.kind === 'ups')
    if (ups.length === 0) ends.add(toId)
    ups.forEach((each) => ends.add(each))
  }
  return { sources: [...ends].flatMap((each) => graph.gear.get(each) ?? []), cords: cords.length }
}

/** What the feeds of a gear mean, as a sentence; `null` when it has none. */
export function feedSentence(name: string, { sources, cords }: Feeds): string | null {
  if (cords === 0) return null
  const names = sources.map((each) => each.name)
  if (sources.length === 1 && cords === 1) return `${name} hangs on ${names[0]} alone, by one cord.`
  if (sources.length === 1)
    return `${cords === 2 ? 'Both' : `All ${cords}`} cords of ${name} hang on ${names[0]}: without it, ${name} is off.`
  return `${name} hangs on ${names.slice(0, -1).join(', ')} and ${names.at(-1)}: either can be lost.`
}
