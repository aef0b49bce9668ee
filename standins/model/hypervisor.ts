import { FaultBoard } from './faults.ts'
import { noise, officeLoad, round } from './noise.ts'
import { storeLevel, type StoreStory } from './stores.ts'

const GIB = 1024 ** 3
const MIB = 1024 ** 2
const TIB = 1024 ** 4
const DAY_MS = 86_400_000
const HOUR_MS = 3_600_000
const YEAR_DAYS = 400

/** What a machine does with its days. */
export type Work = 'model' | 'office' | 'steady' | 'idle' | 'nightly' | 'oversized'

export interface MachineSpec {
  readonly name: string
  readonly uuid: string
  readonly processors: number
  readonly memoryGiB: number
  readonly share: number
  readonly store: string
  /** Its part of what its store held when it held least, and of what came since. */
  readonly stored: { readonly store: StoreSpec; readonly ofLeast: number; readonly ofGrowth: number }
  readonly work: Work
  /** Since so many days it sends much and receives little. */
  readonly sendsSinceDays?: number
}

export interface StoreSpec {
  readonly name: string
  readonly uuid: string
  readonly capacityTiB: number
  readonly usedRatio: number
  readonly growthPerDay: number
  readonly story?: StoreStory
}

export interface HypervisorSpec {
  readonly name: string
  readonly serial: string
  readonly uuid: string
  readonly model: string
  readonly cluster: string
  readonly seed: number
  readonly memoryGiB: number
  readonly cores: number
  readonly memoryRatio: number
  /** What it held until so many days before the demo began. */
  readonly memoryBefore?: { readonly ratio: number; readonly untilDays: number }
  readonly machines: readonly MachineSpec[]
  readonly stores: readonly StoreSpec[]
  /** UUIDs of all stores that it stores on. */
  readonly storesOn: readonly string[]
  readonly storeIds: Readonly<Record<string, string>>
  readonly arrayOf: Readonly<Record<string, string>>
}

export type Direction = 'receive' | 'transmit'

/** A hypervisor host with its machines and stores: what its sender could measure at any time. */
export class SimHypervisor {
  readonly faults = new FaultBoard(['fill-store', 'silent', 'garbage', 'deny'])
  readonly #octets = new Map<string, { atMs: number; octets: number }>()

  constructor(
    readonly spec: HypervisorSpec,
    readonly startMs: number,
  ) {}

  /** What its machines take of its cores. */
  guestRatio(atMs: number): number {
    const { cores, machines } = this.spec
    const busy = machines.reduce(
      (sum, machine) => sum + this.machineRatio(machine, atMs) * machine.processors,
      0,
    )
    return round(Math.min(0.93, busy / cores), 4)
  }

  hypervisorRatio(atMs: number): number {
    return round(0.035 + 0.012 * (noise(this.spec.seed + 5, atMs, 50_000) + 1), 4)
  }

  /** What its server has to do. */
  load(atMs: number): number {
    return Math.min(1, this.guestRatio(atMs) + this.hypervisorRatio(atMs))
  }

  memoryRatio(atMs: number): number {
    const { memoryRatio, memoryBefore } = this.spec
    const isBefore = memoryBefore !== undefined && atMs < this.startMs - memoryBefore.untilDays * DAY_MS
    const held = isBefore ? memoryBefore.ratio : memoryRatio
    return round(held + 0.015 * noise(this.spec.seed + 9, atMs, 1_800_000), 4)
  }

  machineRatio(machine: MachineSpec, atMs: number): number {
    const seed = this.spec.seed + machine.processors * 31 + machine.share * 100
    const fine = 0.03 * noise(seed + 1, atMs, 60_000)
    switch (machine.work) {
      case 'model':
        return round(clamp(0.1 + 2.1 * modelRun(atMs) + 0.04 * noise(seed, atMs, 600_000) + fine), 4)
      case 'office':
        return round(Math.min(0.8, officeLoad(seed, atMs) * (0.55 + machine.share)), 4)
      case 'steady':
        return round(clamp(0.28 + machine.share / 2 + 0.06 * noise(seed, atMs, 1_800_000) + fine), 4)
      case 'idle':
        return round(clamp(0.015 + 0.006 * noise(seed, atMs, 300_000)), 4)
      case 'nightly':
        return round(clamp(0.06 + (isNight(atMs) ? 0.7 : 0) + fine), 4)
      case 'oversized':
        return round(clamp(0.045 + machine.share / 12 + 0.015 * noise(seed, atMs, 900_000)), 4)
      default:
        return machine.work satisfies never
    }
  }

  /** Octets a second of a machine's adapter. */
  machineIo(machine: MachineSpec, direction: Direction, atMs: number): number {
    const seed = this.spec.seed + machine.processors * 13 + (direction === 'receive' ? 1 : 2)
    const wobble = 1 + 0.25 * noise(seed, atMs, 240_000)
    const { sendsSinceDays } = machine
    if (sendsSinceDays !== undefined && atMs >= this.startMs - sendsSinceDays * DAY_MS)
      return Math.round((direction === 'transmit' ? 38e6 : 32_000) * wobble)
    if (machine.work === 'nightly') {
      const carried = isNight(atMs) ? 210e6 : 40_000
      return Math.round((direction === 'transmit' ? carried : carried / 30) * wobble)
    }
    const most = machine.work === 'idle' ? 20_000 : 9e6
    const share = direction === 'transmit' ? 0.7 : 1
    return Math.round((5000 + most * share * this.machineRatio(machine, atMs)) * wobble)
  }

  /** Octets of a machine's adapter, or written by it, since the stand-in began, as its counter has them. */
  machineOctets(machine: MachineSpec, what: Direction | 'write', atMs: number): number {
    const key = `${machine.name} ${what}`
    const last = this.#octets.get(key) ?? { atMs: this.startMs, octets: 0 }
    const seconds = Math.min(120, Math.max(0, (atMs - last.atMs) / 1000))
    const rate = what === 'write' ? this.machineWrites(machine, atMs) : this.machineIo(machine, what, atMs)
    const octets = last.octets + Math.round(seconds * rate)
    this.#octets.set(key, { atMs, octets })
    return octets
  }

  machineMemoryBytes(machine: MachineSpec): number {
    return machine.memoryGiB * GIB
  }

  /** What of its memory it uses: together they use what their host does, but for a twentieth that the hypervisor needs. */
  machineMemoryUsedBytes(machine: MachineSpec, atMs: number): number {
    const { machines, memoryGiB } = this.spec
    const given = machines.reduce((sum, each) => sum + each.memoryGiB, 0)
    const used = Math.min(1, (0.95 * this.memoryRatio(atMs) * memoryGiB) / given)
    return Math.round(used * machine.memoryGiB * 1024) * MIB
  }

  /** What its disks take up on its store: all machines together leave a tenth of its least to nobody. */
  machineStoredBytes({ stored }: MachineSpec, atMs: number): number {
    const { store, ofLeast, ofGrowth } = stored
    const days = (atMs - this.startMs) / DAY_MS
    const least = Math.min(storeLevel(store, -YEAR_DAYS), storeLevel(store, 0))
    const ratio = 0.9 * least * ofLeast + (storeLevel(store, days) - least) * ofGrowth
    return Math.round(Math.max(0, ratio) * this.storeCapacityBytes(store))
  }

  /** Bytes a second that it writes. */
  machineWrites(machine: MachineSpec, atMs: number): number {
    const seed = this.spec.seed + machine.processors * 17
    const busy = machine.work === 'nightly' && isNight(atMs) ? 120e6 : 0
    const own = 40_000 + 6e6 * machine.stored.ofGrowth + 4e6 * this.machineRatio(machine, atMs)
    return Math.round((own + busy) * (1 + 0.2 * noise(seed, atMs, 300_000)))
  }

  /** As its story goes; `fill-store` takes half an hour at natural pace to 97 %. */
  storeRatio(store: StoreSpec, atMs: number): number {
    const fault = this.faults.find('fill-store', store.name)
    const filling = fault === null ? 0 : ((atMs - fault.sinceMs) / 1_800_000) * 0.2 * fault.pace
    const level = storeLevel(store, (atMs - this.startMs) / DAY_MS)
    return Math.min(0.97, level + filling + 0.0008 * noise(store.capacityTiB, atMs, 900_000))
  }

  storeCapacityBytes(store: StoreSpec): number {
    return store.capacityTiB * TIB
  }
}

const clamp = (ratio: number): number => Math.min(0.97, Math.max(0.004, ratio))

/** The forecast runs at 0, 6, 12 and 18 UTC, each from half an hour after for some two hours. */
function modelRun(atMs: number): number {
  const run = ((atMs % DAY_MS) / (6 * HOUR_MS)) % 1
  return run > 0.08 && run < 0.42 ? 0.3 * Math.sin(((run - 0.08) / 0.34) * Math.PI) : 0
}

/** The backup of the night: from ten past midnight for two and a half hours, into the model run. */
const isNight = (atMs: number): boolean => {
  const hours = (atMs % DAY_MS) / HOUR_MS
  return hours > 0.16 && hours < 2.7
}
