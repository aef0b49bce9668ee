import { type DriveState, driveState, Q2 } from './drive.ts'
import { FaultBoard, WIRE_FAULTS } from './faults.ts'
import { hash01, noise, officeLoad, round } from './noise.ts'

const DAY_MS = 86_400_000

export interface ArraySpec {
  readonly name: string
  readonly model: string
  readonly serial: string
  readonly seed: number
  readonly driveLifePercent: readonly number[]
  /** Drives of one batch, equally worn. */
  readonly batch: {
    readonly bays: readonly number[]
    readonly partNumber: string
    readonly percentPerDay: number
  } | null
  readonly stores: readonly string[]
  /** What its pool had promised before any of these volumes came, on days before and after the demo began. */
  readonly promised: {
    readonly tebibytes: number
    readonly volumes: readonly { readonly day: number; readonly tebibytes: number }[]
  }
}

export interface ArrayTies {
  readonly startMs: number
  /** Bytes that its stores take. */
  readonly usedBytes: (atMs: number) => number
  /** What one of them may take, and what it takes. */
  readonly store: (
    name: string,
    atMs: number,
  ) => { readonly capacityBytes: number; readonly usedBytes: number }
  readonly inlet: (atMs: number) => number
  readonly isFed: (supply: number, atMs: number) => boolean
}

const MIB = 1024 ** 2
const TIB = 1024 ** 4
/** What is left of what hosts write, once it is packed. */
const PACKED = 0.55
export const POOL_BYTES = 96 * TIB

/** An array with two controllers, two supplies, four fans and a pool over all of its drives. */
export class SimArray {
  readonly faults = new FaultBoard([
    'fail-drive',
    'fail-controller',
    'stop-fan',
    'unplug-supply',
    ...WIRE_FAULTS,
  ])

  constructor(
    readonly spec: ArraySpec,
    readonly ties: ArrayTies,
  ) {}

  driveLifePercent(bay: number, atMs: number): number {
    return Math.max(0, Math.min(100, Math.round(this.#life(bay, atMs))))
  }

  /** Everything that a drive could tell. */
  drive(bay: number, atMs: number): DriveState {
    const batch = this.drivePartNumber(bay).slice(-4)
    return driveState(
      Q2,
      {
        serial: `AM-${this.spec.serial.slice(-3)}-${batch}${String(bay).padStart(2, '0')}`,
        lifeLeft: this.#life(bay, atMs) / 100,
        seed: this.spec.seed * 31 + bay,
        startMs: this.ties.startMs,
        fails: this.faults.has('fail-drive', String(bay)),
      },
      atMs,
    )
  }

  #life(bay: number, atMs: number): number {
    const days = (atMs - this.ties.startMs) / DAY_MS
    const { batch } = this.spec
    const perDay = batch?.bays.includes(bay) === true ? batch.percentPerDay : 0.03
    return this.spec.driveLifePercent[bay]! - days * perDay
  }

  drivePartNumber(bay: number): string {
    const { batch } = this.spec
    return batch?.bays.includes(bay) === true
      ? batch.partNumber
      : `Q2-7T6-${2201 + Math.floor(hash01(this.spec.seed, bay) * 90)}`
  }

  /** All that the volumes of its pool may take, whether they do or not. */
  promisedBytes(atMs: number): number {
    const { tebibytes, volumes } = this.spec.promised
    const day = (atMs - this.ties.startMs) / DAY_MS
    return volumes.reduce((sum, volume) => sum + (volume.day <= day ? volume.tebibytes : 0), tebibytes) * TIB
  }

  /** The volume under a store; what is written there is packed to a little over half. */
  volume(name: string, atMs: number): { readonly capacityBytes: number; readonly consumedBytes: number } {
    const { capacityBytes, usedBytes } = this.ties.store(name, atMs)
    return { capacityBytes, consumedBytes: Math.round((PACKED * usedBytes) / MIB) * MIB }
  }

  fanRpm(fan: number, atMs: number): number {
    if (this.faults.has('stop-fan', String(fan))) return 0
    return Math.round(5200 + hash01(this.spec.seed, fan) * 200 + 900 * this.load(atMs))
  }

  load(atMs: number): number {
    return officeLoad(this.spec.seed, atMs)
  }

  inletCelsius(atMs: number): number {
    return round(this.ties.inlet(atMs) + 0.3 * noise(this.spec.seed, atMs, 300_000), 1)
  }

  isSupplyFed(supply: number, atMs: number): boolean {
    return !this.faults.has('unplug-supply', String(supply)) && this.ties.isFed(supply, atMs)
  }

  watts(atMs: number): number {
    const fed = [1, 2].some((supply) => this.isSupplyFed(supply, atMs))
    return fed ? Math.round(420 + 90 * this.load(atMs) + 4 * noise(this.spec.seed + 4, atMs, 60_000)) : 0
  }

  supplyWatts(supply: number, atMs: number): number {
    if (!this.isSupplyFed(supply, atMs)) return 0
    return Math.round(this.watts(atMs) / [1, 2].filter((each) => this.isSupplyFed(each, atMs)).length)
  }
}
