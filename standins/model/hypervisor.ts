import { FaultBoard } from './faults.ts'
import { noise, officeLoad, round } from './noise.ts'

const GIB = 1024 ** 3
const TIB = 1024 ** 4
const DAY_MS = 86_400_000

export interface MachineSpec {
  readonly name: string
  readonly uuid: string
  readonly processors: number
  readonly memoryGiB: number
  readonly share: number
  readonly store: string
}

export interface StoreSpec {
  readonly name: string
  readonly uuid: string
  readonly capacityTiB: number
  readonly usedRatio: number
  readonly growthPerDay: number
}

export interface HypervisorSpec {
  readonly name: string
  readonly serial: string
  readonly uuid: string
  readonly model: string
  readonly cluster: string
  readonly seed: number
  readonly memoryGiB: number
  readonly machines: readonly MachineSpec[]
  readonly stores: readonly StoreSpec[]
}

/** A hypervisor host with its machines and stores: what its sender could measure at any time. */
export class SimHypervisor {
  readonly faults = new FaultBoard(['fill-store', 'silent', 'garbage', 'deny'])

  constructor(
    readonly spec: HypervisorSpec,
    readonly startMs: number,
  ) {}

  guestRatio(atMs: number): number {
    return round(Math.min(0.93, officeLoad(this.spec.seed, atMs) * 0.94), 4)
  }

  hypervisorRatio(atMs: number): number {
    return round(0.035 + 0.012 * (noise(this.spec.seed + 5, atMs, 50_000) + 1), 4)
  }

  memoryRatio(atMs: number): number {
    return round(0.71 + 0.015 * noise(this.spec.seed + 9, atMs, 1_800_000), 4)
  }

  machineRatio(machine: MachineSpec, atMs: number): number {
    const own = officeLoad(this.spec.seed + machine.processors * 31 + machine.share * 100, atMs)
    return round(Math.min(0.8, own * (0.55 + machine.share)), 4)
  }

  machineMemoryBytes(machine: MachineSpec): number {
    return machine.memoryGiB * GIB
  }

  /** Grows by its rate from the start on; `fill-store` takes half an hour at natural pace to 97 %. */
  storeRatio(store: StoreSpec, atMs: number): number {
    const grown = store.usedRatio + ((atMs - this.startMs) / DAY_MS) * store.growthPerDay
    const fault = this.faults.find('fill-store', store.name)
    const filling = fault === null ? 0 : ((atMs - fault.sinceMs) / 1_800_000) * 0.2 * fault.pace
    return Math.min(0.97, grown + filling + 0.0008 * noise(store.capacityTiB, atMs, 900_000))
  }

  storeCapacityBytes(store: StoreSpec): number {
    return store.capacityTiB * TIB
  }
}
