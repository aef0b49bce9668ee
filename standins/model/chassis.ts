import { FaultBoard, WIRE_FAULTS } from './faults.ts'
import { hash01, noise, round } from './noise.ts'
import type { SimServer } from './server.ts'

export interface ChassisSpec {
  readonly name: string
  readonly model: string
  readonly serial: string
  readonly seed: number
}

export interface ChassisTies {
  readonly blades: readonly SimServer[]
  readonly inlet: (atMs: number) => number
  readonly isFed: (supply: number, atMs: number) => boolean
}

const SUPPLIES = [1, 2, 3, 4]

/** A chassis: four supplies and six fans for all of its blades. */
export class SimChassis {
  readonly faults = new FaultBoard(['stop-fan', 'unplug-supply', 'fail-drive', ...WIRE_FAULTS])

  constructor(
    readonly spec: ChassisSpec,
    readonly ties: ChassisTies,
  ) {}

  isSupplyFed(supply: number, atMs: number): boolean {
    return !this.faults.has('unplug-supply', String(supply)) && this.ties.isFed(supply, atMs)
  }

  isOn(atMs: number): boolean {
    return SUPPLIES.some((supply) => this.isSupplyFed(supply, atMs))
  }

  watts(atMs: number): number {
    if (!this.isOn(atMs)) return 0
    return Math.round(180 + this.ties.blades.reduce((sum, blade) => sum + blade.watts(atMs), 0))
  }

  supplyWatts(supply: number, atMs: number): number {
    if (!this.isSupplyFed(supply, atMs)) return 0
    return Math.round(this.watts(atMs) / SUPPLIES.filter((each) => this.isSupplyFed(each, atMs)).length)
  }

  fanRpm(fan: number, atMs: number): number {
    if (this.faults.has('stop-fan', String(fan)) || !this.isOn(atMs)) return 0
    return Math.round(
      6100 + hash01(this.spec.seed, fan) * 240 + 60 * noise(this.spec.seed + fan, atMs, 30_000),
    )
  }

  inletCelsius(atMs: number): number {
    return round(this.ties.inlet(atMs) + 0.2 * noise(this.spec.seed, atMs, 200_000), 1)
  }
}
