import type { PartFinding, ReadingFinding } from '#core/gear'
import { Table } from './objects.ts'
import type { Objects } from './session.ts'

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

export interface OfHost {
  readonly parts: readonly PartFinding[]
  readonly readings: readonly ReadingFinding[]
}

/**
 * Processors, memory and file systems (RFC 2790 §3: hrProcessorTable, hrStorageTable).
 * @returns `null` when the agent has none of it
 */
export function hostResources(objects: Objects, gear: string): OfHost | null {
  const storage = new Table(objects, STORAGE)
  const processors = new Table(objects, PROCESSOR)
  if (storage.indices.length === 0 && processors.indices.length === 0) return null
  const parts: PartFinding[] = []
  const readings: ReadingFinding[] = []
  const read = (measure: ReadingFinding['measure'], value: number | null, part: string | null = null) =>
    readings.push({ gear, part, measure, value })

  const devices = new Table(objects, DEVICE)
  const loads: number[] = []
  processors.indices.forEach((index, position) => {
    const load = processors.number(2, index)
    if (load !== null) loads.push(load / 100)
    const key = `processor ${index}`
    const model = devices.text(3, index)
    parts.push({
      key,
      kind: 'processor',
      name: `Processor ${position + 1}`,
      facts: model === '' ? {} : { model },
    })
    read('system.cpu.utilization', load === null ? null : load / 100, key)
  })
  if (loads.length > 0)
    read('system.cpu.utilization', loads.reduce((total, load) => total + load, 0) / loads.length)
  const processes = objects.get(`${HOST_TREE}.1.6.0`)
  if (typeof processes === 'number') read('system.process.count', processes)

  for (const index of storage.indices) {
    const type = storage.text(2, index)
    const name = storage.text(3, index)
    const unit = storage.number(4, index)
    const size = storage.number(5, index)
    const used = storage.number(6, index)
    if (unit === null || size === null || size <= 0) continue
    const [capacity, usage] = [wrapped(size) * unit, used === null ? null : wrapped(used) * unit]
    const ratio = usage === null ? null : usage / capacity
    if (type === RAM && !PASSING.test(name)) {
      read('system.memory.limit', capacity)
      read('system.memory.usage', usage)
      read('system.memory.utilization', ratio)
    } else if (type === VIRTUAL && /swap|paging|page file/i.test(name)) {
      read('system.paging.usage', usage)
      read('system.paging.utilization', ratio)
    } else if (type === FIXED_DISK || type === NETWORK_DISK || type === RAM_DISK) {
      const key = `filesystem ${name}`
      if (parts.some((part) => part.key === key)) continue
      const idle = PASSING.test(name) || type === RAM_DISK ? 'lies in memory only' : undefined
      parts.push({
        key,
        kind: 'filesystem',
        name,
        facts: type === NETWORK_DISK ? { media: 'over the network' } : {},
        ...(idle === undefined ? {} : { idle }),
      })
      read('system.filesystem.limit', capacity, key)
      read('system.filesystem.usage', usage, key)
      read('system.filesystem.utilization', ratio, key)
    }
  }
  return { parts, readings }
}

/** hrStorageSize and hrStorageUsed are Integer32: agents let more than 2^31 units run into the negative. */
const wrapped = (units: number): number => (units < 0 ? units + 2 ** 32 : units)
