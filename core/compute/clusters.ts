import type { MeasureKey } from '../catalogue/index.ts'
import type { Findings } from '../gear/index.ts'
import { GONE_MS } from '../past/index.ts'
import type { Raster } from '../readings/index.ts'

/** What a host has, and which share of it is used, from 0 to 1. `null`: it is not known now. */
export interface HostUse {
  /** How many processors it has, where it says so. */
  readonly processors: number | null
  readonly processorUse: number | null
  readonly memoryUse: number | null
  /** Bytes. */
  readonly memory: number | null
}

/** The measures of a cluster, in the order in which they are kept. */
export const CLUSTER_MEASURES = [
  'system.cpu.utilization',
  'system.cpu.less_largest',
  'system.memory.usage',
  'system.memory.limit',
  'system.memory.utilization',
  'system.memory.less_largest',
] as const satisfies readonly MeasureKey[]
export type ClusterMeasure = (typeof CLUSTER_MEASURES)[number]
export type ClusterUse = Readonly<Record<ClusterMeasure, number | null>>

/** What a host has, and uses of it. */
interface Share {
  readonly used: number
  readonly whole: number
}

/**
 * What a cluster of these hosts uses at one instant, and what that would be of the hosts that are left when the largest one
 * is lost. A host whose value is not known now makes what is summed over it unknown, for a sum without it would be another
 * sum. Hosts count by their processors where all of them say how many they have, else each as much as any other.
 */
export function clusterUse(hosts: readonly HostUse[]): ClusterUse {
  const saysAll = hosts.every(({ processors }) => processors !== null && processors > 0)
  const processor = sharesOf(hosts, ({ processors, processorUse }) => {
    const whole = saysAll ? processors! : 1
    return processorUse === null ? null : { used: processorUse * whole, whole }
  })
  const memory = sharesOf(hosts, ({ memoryUse, memory: whole }) =>
    memoryUse === null || whole === null ? null : { used: memoryUse * whole, whole },
  )
  return {
    'system.cpu.utilization': ratioOf(processor, 0),
    'system.cpu.less_largest': ratioOf(processor, 1),
    'system.memory.usage': sumOf(memory, 'used'),
    'system.memory.limit': sumOf(memory, 'whole'),
    'system.memory.utilization': ratioOf(memory, 0),
    'system.memory.less_largest': ratioOf(memory, 1),
  }
}

/** All of them, the largest first; `null` when not all are known, or there are none. */
function sharesOf(hosts: readonly HostUse[], of: (host: HostUse) => Share | null): readonly Share[] | null {
  const shares = hosts.map(of)
  if (shares.length === 0 || shares.includes(null)) return null
  return (shares as Share[]).sort((a, b) => b.whole - a.whole)
}

const sumOf = (shares: readonly Share[] | null, key: keyof Share): number | null =>
  shares === null ? null : shares.reduce((sum, share) => sum + share[key], 0)

/** What all use of what the hosts have that are left without so many of the largest. */
function ratioOf(shares: readonly Share[] | null, lost: number): number | null {
  const [used, whole] = [sumOf(shares, 'used'), sumOf(shares?.slice(lost) ?? null, 'whole')]
  return used === null || whole === null || whole <= 0 ? null : used / whole
}

/** Past values of a host in the columns of a raster; NaN where nothing was heard. */
export type HostPast = Readonly<Record<'processorUse' | 'memoryUse' | 'memory', Float64Array>> & {
  readonly processors: number | null
}

/**
 * What the cluster used in each column of the past. A host that was not heard for a day is not counted as one of it any
 * more, nor before it was heard for the first time; one that is missing for less makes a gap.
 */
export function clusterPast(
  hosts: readonly HostPast[],
  { columns, stepMs }: Pick<Raster, 'columns' | 'stepMs'>,
): Readonly<Record<ClusterMeasure, Float64Array>> {
  const made = Object.fromEntries(
    CLUSTER_MEASURES.map((measure) => [measure, new Float64Array(columns).fill(NaN)]),
  ) as Record<ClusterMeasure, Float64Array>
  const most = GONE_MS / stepMs
  const heardAt = hosts.map(() => -Infinity)
  for (let column = 0; column < columns; column += 1) {
    const there: HostUse[] = []
    hosts.forEach((host, index) => {
      const known = (key: 'processorUse' | 'memoryUse' | 'memory'): number | null =>
        Number.isNaN(host[key][column]!) ? null : host[key][column]!
      const use = {
        processors: host.processors,
        processorUse: known('processorUse'),
        memoryUse: known('memoryUse'),
        memory: known('memory'),
      }
      if (use.processorUse !== null || use.memoryUse !== null) heardAt[index] = column
      if (column - heardAt[index]! <= most) there.push(use)
    })
    const use = clusterUse(there)
    for (const measure of CLUSTER_MEASURES) made[measure][column] = use[measure] ?? NaN
  }
  return made
}

/** A host by its name. */
export interface NamedHost extends HostUse {
  readonly name: string
}

const KEY = 'cluster '
/** The name of the cluster that stands under this key among the findings. */
export const clusterOfKey = (key: string): string => key.slice(KEY.length)

/** The clusters as gear, as a source would tell of them. */
export function clusterFindings(clusters: ReadonlyMap<string, readonly NamedHost[]>): Findings {
  const keyOf = (name: string): string => KEY + name
  return {
    gear: [...clusters].map(([name, hosts]) => ({
      key: keyOf(name),
      kind: 'cluster',
      name,
      identities: [],
      facts: { hosts: namesOf(hosts) },
      parts: [],
    })),
    links: [],
    readings: [...clusters].flatMap(([name, hosts]) =>
      Object.entries(clusterUse(hosts)).map(([measure, value]) => ({
        gear: keyOf(name),
        part: null,
        measure: measure as MeasureKey,
        value,
      })),
    ),
  }
}

const MOST_NAMES = 12

function namesOf(hosts: readonly NamedHost[]): string {
  const names = hosts.map(({ name }) => name)
  const more = names.length - MOST_NAMES
  return [...names.slice(0, MOST_NAMES), ...(more > 0 ? [`${more} more`] : [])].join(', ')
}
