import { FaultBoard, WIRE_FAULTS } from './faults.ts'
import { hash01, noise, officeLoad, round } from './noise.ts'

export interface ServerSpec {
  readonly name: string
  readonly model: string
  readonly serial: string
  readonly uuid: string
  readonly seed: number
  readonly bays: number
  /** Life left of each fitted drive, percent, in bay order. */
  readonly driveLifePercent: readonly number[]
  readonly fans: number
  readonly memoryModules: number
}

/** A server as its physics: what its management controller could measure at any time, under the faults caused. */
export class SimServer {
  readonly faults = new FaultBoard(['stop-fan', 'unplug-supply', 'fail-drive', ...WIRE_FAULTS])

  constructor(readonly spec: ServerSpec) {}

  load(atMs: number): number {
    return officeLoad(this.spec.seed, atMs)
  }

  fanRpm(fan: number, atMs: number): number {
    if (this.faults.has('stop-fan', String(fan))) return 0
    const helping = this.faults.list().filter((fault) => fault.name === 'stop-fan').length
    const own = hash01(this.spec.seed, fan) * 160
    return Math.round(
      4600 + own + 1500 * this.load(atMs) + 420 * helping + 30 * noise(this.spec.seed + fan, atMs, 20_000),
    )
  }

  inletCelsius(atMs: number): number {
    const day = Math.sin((atMs / 86_400_000 - 0.4) * 2 * Math.PI)
    return round(22.6 + 0.9 * day + 0.25 * noise(this.spec.seed + 50, atMs, 120_000), 1)
  }

  /** Rises by 0.6 °C a minute for each stopped fan, to at most 14 °C more. */
  outletCelsius(atMs: number): number {
    const heating = this.faults
      .list()
      .filter((fault) => fault.name === 'stop-fan')
      .reduce((sum, fault) => sum + ((atMs - fault.sinceMs) / 60_000) * 0.6 * fault.pace, 0)
    const fine = 0.15 * noise(this.spec.seed + 51, atMs, 9_000)
    return round(this.inletCelsius(atMs) + 7 + 9 * this.load(atMs) + Math.min(14, heating) + fine, 2)
  }

  processorCelsius(processor: number, atMs: number): number {
    return round(
      41 +
        34 * this.load(atMs) +
        1.5 * noise(this.spec.seed + 60 + processor, atMs, 30_000) +
        processor * 1.8,
      1,
    )
  }

  watts(atMs: number): number {
    return Math.round(176 + 330 * this.load(atMs) + 6 * noise(this.spec.seed + 70, atMs, 15_000))
  }

  isSupplyPlugged(supply: number): boolean {
    return !this.faults.has('unplug-supply', String(supply))
  }

  supplyWatts(supply: number, atMs: number): number {
    if (!this.isSupplyPlugged(supply)) return 0
    const plugged = [1, 2].filter((each) => this.isSupplyPlugged(each)).length
    return Math.round(this.watts(atMs) / plugged)
  }

  driveFails(bay: number): boolean {
    return this.faults.has('fail-drive', String(bay))
  }
}
