import type { PartFinding, ReadingFinding } from '#core/gear'
import { Table } from './objects.ts'
import { numberOf, type Objects } from './session.ts'

/** HOST-RESOURCES-MIB, RFC 2790. */
export const HOST_TREE = '1.3.6.1.2.1.25'
const STORAGE = `${HOST_TREE}.2.3.1`
const STORAGE_TYPES = `${HOST_TREE}.2.1`
const PROCESSOR = `${HOST_TREE}.3.3.1`
const DEVICE = `${HOST_TREE}.3.2.1`
/** What is walked of it; the tables of software and of files can have tens of thousands of rows. */
export const HOST_WALKS = [`${HOST_TREE}.1`, STORAGE, DEVICE, PROCESSOR]

const RAM = `${STORAGE_TYPES}.2`
const VIRTUAL = `${STORAGE_TYPES}.3`
const FIXED_DISK = `${STORAGE_TYPES}.4`
const NETWORK_DISK = `${STORAGE_TYPES}.10`
const RAM_DISK = `${STORAGE_TYPES}.8`

/** What lies in memory only, or is another view of what is counted elsewhere. */
const PASSING = /^\/(run|dev|sys|proc)(\/|$)|^(Cached|Shared) memory|^Memory buffers/i

const SWAP = /swap|paging|page file/i

export interface OfHost {
  readonly parts: readonly PartFinding[]
  readonly readings: readonly ReadingFinding[]
}

/** The agent's own disk table (UCD-SNMP-MIB dskTable), where somebody has set it up: it tells what is available. */
const DISKS = '1.3.6.1.4.1.2021.9.1'
const OF_DISK = { path: 2, available: 7, used: 8 }
export const DISK_WALKS = Object.values(OF_DISK).map((column) => `${DISKS}.${column}`)

/** hrSystemUptime (RFC 2790 §4): of the host, where `sysUpTime` is that of the agent. In seconds; `null` when not told. */
export function hostUptime(objects: Objects): number | null {
  const ticks = numberOf(objects.get(`${HOST_TREE}.1.1.0`))
  return ticks === null ? null : ticks / 100
}

/**
 * Processors, memory and file systems (RFC 2790 §3: hrProcessorTable, hrStorageTable).
 * @returns `null` when the agent has none of it
 */
export function hostResources(objects: Objects, gear: string): OfHost | null {
  const storage = new Table(objects, STORAGE)
  const processors = new Table(objects, PROCESSOR)
  if (storage.indices.length === 0 && processors.indices.length === 0) return null
  const to: Collecting = { gear, parts: [], readings: [] }
  addProcessors(to, processors, new Table(objects, DEVICE))
  const processes = objects.get(`${HOST_TREE}.1.6.0`)
  if (typeof processes === 'number') read(to, 'system.process.count', processes)
  const rows = storage.indices.flatMap((index) => storageRow(storage, index) ?? [])
  addMemory(to, rows)
  for (const { capacity, usage } of rows.filter(({ type, name }) => type === VIRTUAL && SWAP.test(name))) {
    read(to, 'system.paging.usage', usage)
    read(to, 'system.paging.utilization', usage === null || capacity === 0 ? null : usage / capacity)
  }
  addFileSystems(to, rows, disksOf(objects))
  return { parts: to.parts, readings: to.readings }
}

interface Collecting {
  readonly gear: string
  readonly parts: PartFinding[]
  readonly readings: ReadingFinding[]
}

const read = (
  { gear, readings }: Collecting,
  measure: ReadingFinding['measure'],
  value: number | null,
  part: string | null = null,
) => readings.push({ gear, part, measure, value })

function addProcessors(to: Collecting, processors: Table, devices: Table): void {
  const loads: number[] = []
  processors.indices.forEach((index, position) => {
    const load = processors.number(2, index)
    if (load !== null) loads.push(load / 100)
    const key = `processor ${index}`
    const model = devices.text(3, index)
    const facts: Record<string, string> = model === '' ? {} : { model }
    to.parts.push({ key, kind: 'processor', name: `Processor ${position + 1}`, facts })
    read(to, 'system.cpu.utilization', load === null ? null : load / 100, key)
  })
  if (loads.length > 0)
    read(to, 'system.cpu.utilization', loads.reduce((total, load) => total + load, 0) / loads.length)
}

interface StorageRow {
  readonly type: string
  readonly name: string
  /** In bytes. */
  readonly capacity: number
  readonly usage: number | null
}

function storageRow(storage: Table, index: string): StorageRow | null {
  const unit = storage.number(4, index)
  const size = storage.number(5, index)
  const used = storage.number(6, index)
  // No available memory at all is told as a size of nothing, too.
  if (unit === null || size === null) return null
  if (size === 0 && !/^available memory/i.test(storage.text(3, index))) return null
  return {
    type: storage.text(2, index),
    name: storage.text(3, index),
    capacity: wrapped(size) * unit,
    usage: used === null ? null : wrapped(used) * unit,
  }
}

/**
 * Memory that is in use. What the kernel keeps of files while nobody needs the room is not: it is what is not available,
 * where the agent tells that; else without buffers and cache, of which shared memory is a part that cannot be given back.
 */
function addMemory(to: Collecting, rows: readonly StorageRow[]): void {
  const named = (pattern: RegExp): StorageRow | undefined =>
    rows.find(({ type, name }) => type !== FIXED_DISK && pattern.test(name))
  const available = named(/^available memory/i)
  const physical = rows.find(
    ({ type, name }) => type === RAM && !PASSING.test(name) && name !== available?.name,
  )
  if (physical === undefined) return
  const { capacity } = physical
  const kept =
    (named(/^memory buffers/i)?.usage ?? 0) +
    (named(/^cached memory/i)?.usage ?? 0) -
    (named(/^shared memory/i)?.usage ?? 0)
  const usage =
    available !== undefined
      ? Math.max(0, capacity - available.capacity)
      : physical.usage === null
        ? null
        : Math.max(0, physical.usage - Math.max(0, kept))
  read(to, 'system.memory.limit', capacity)
  read(to, 'system.memory.usage', usage)
  read(to, 'system.memory.utilization', usage === null ? null : usage / capacity)
}

/** By path: what of it is in use, of what may be used. */
function disksOf(objects: Objects): ReadonlyMap<string, number> {
  const disks = new Table(objects, DISKS)
  return new Map(
    disks.indices.flatMap((index) => {
      const available = disks.number(OF_DISK.available, index)
      const used = disks.number(OF_DISK.used, index)
      if (available === null || used === null || available + used <= 0) return []
      return [[disks.text(OF_DISK.path, index), used / (used + available)] as const]
    }),
  )
}

/** Without the agent's own table space that is reserved for the system counts as free. */
function addFileSystems(
  to: Collecting,
  rows: readonly StorageRow[],
  disks: ReadonlyMap<string, number>,
): void {
  for (const { type, name, capacity, usage } of rows) {
    if (type !== FIXED_DISK && type !== NETWORK_DISK && type !== RAM_DISK) continue
    const key = `filesystem ${name}`
    if (to.parts.some((part) => part.key === key)) continue
    const isIdle = PASSING.test(name) || type === RAM_DISK
    to.parts.push({
      key,
      kind: 'filesystem',
      name,
      facts: type === NETWORK_DISK ? { media: 'over the network' } : {},
      ...(isIdle ? { idle: 'lies in memory only' } : {}),
    })
    read(to, 'system.filesystem.limit', capacity, key)
    read(to, 'system.filesystem.usage', usage, key)
    read(
      to,
      'system.filesystem.utilization',
      disks.get(name) ?? (usage === null ? null : usage / capacity),
      key,
    )
  }
}

/** hrStorageSize and hrStorageUsed are Integer32: agents let more than 2^31 units run into the negative. */
const wrapped = (units: number): number => (units < 0 ? units + 2 ** 32 : units)
