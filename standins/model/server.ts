import { type DriveModel, type DriveState, driveState, Q4 } from './drive.ts'
import { FaultBoard, WIRE_FAULTS } from './faults.ts'
import { hash01, noise, officeLoad, round } from './noise.ts'

const DAY_MS = 86_400_000

export interface ServerSpec {
  readonly name: string
  readonly model: string
  readonly serial: string
  readonly uuid: string
  readonly seed: number
  readonly bays: number
  /** Life left of each fitted drive, percent, in bay order. */
  readonly driveLifePercent: readonly number[]
  /** Drives that wear faster than a hundredth of a percent a day, and when they were new. */
  readonly wear?: Readonly<Record<number, { readonly percentPerDay: number; readonly newSinceDays: number }>>
  /** What its drives are, when not the usual ones. */
  readonly drives?: DriveModel
  /** Its host reads the pages of its drives and tells of them. */
  readonly tellsPages?: boolean
  /** What its drives have counted, in bay order. */
  readonly counted?: readonly { readonly reallocated: number; readonly cable: number }[]
  readonly fans: number
  readonly memoryModules: number
  /** Hardware addresses of its ports. */
  readonly ports?: readonly string[]
  /** Supplies that have no cord. */
  readonly withoutCord?: readonly number[]
}

/** What a server has to do, what air it gets, and whether its cords carry. */
export interface ServerTies {
  readonly startMs?: number
  readonly load?: (atMs: number) => number
  readonly inlet?: (atMs: number) => number
  readonly isFed?: (supply: number, atMs: number) => boolean
}

const WEAR_PER_DAY = 0.01

/** A server as its physics: what its management controller could measure at any time, under the faults caused. */
export class SimServer {
  readonly faults = new FaultBoard([
    'stop-fan',
    'unplug-supply',
    'fail-drive',
    'replace-drive',
    'update-firmware',
    'power-off',
    ...WIRE_FAULTS,
  ])

  constructor(
    readonly spec: ServerSpec,
    private readonly ties: ServerTies = {},
  ) {}

  load(atMs: number): number {
    if (!this.isOn(atMs)) return 0
    return (this.ties.load ?? ((at) => officeLoad(this.spec.seed, at)))(atMs)
  }

  /** On unless somebody switched it off, or none of its supplies has power. */
  isOn(atMs: number): boolean {
    return !this.faults.has('power-off') && [1, 2].some((supply) => this.isSupplyPlugged(supply, atMs))
  }

  fanRpm(fan: number, atMs: number): number {
    if (this.faults.has('stop-fan', String(fan)) || !this.isOn(atMs)) return 0
    const helping = this.faults.list().filter((fault) => fault.name === 'stop-fan').length
    const own = hash01(this.spec.seed, fan) * 160
    return Math.round(
      4600 + own + 1500 * this.load(atMs) + 420 * helping + 30 * noise(this.spec.seed + fan, atMs, 20_000),
    )
  }

  inletCelsius(atMs: number): number {
    const day = Math.sin((atMs / DAY_MS - 0.4) * 2 * Math.PI)
    const air = this.ties.inlet?.(atMs) ?? 22.6 + 0.9 * day
    return round(air + 0.25 * noise(this.spec.seed + 50, atMs, 120_000), 1)
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
    // What comes in warmer makes everything warmer.
    const air = this.inletCelsius(atMs) - 22.6
    return round(
      41 +
        34 * this.load(atMs) +
        0.8 * Math.max(0, air) +
        1.5 * noise(this.spec.seed + 60 + processor, atMs, 30_000) +
        processor * 1.8,
      1,
    )
  }

  watts(atMs: number): number {
    if (!this.isOn(atMs)) return 0
    return Math.round(176 + 330 * this.load(atMs) + 6 * noise(this.spec.seed + 70, atMs, 15_000))
  }

  /** Whether a supply has power: a cord, and a feed that carries. */
  isSupplyPlugged(supply: number, atMs = 0): boolean {
    if (this.spec.withoutCord?.includes(supply) === true) return false
    return !this.faults.has('unplug-supply', String(supply)) && (this.ties.isFed?.(supply, atMs) ?? true)
  }

  supplyWatts(supply: number, atMs: number): number {
    if (!this.isSupplyPlugged(supply, atMs)) return 0
    const plugged = [1, 2].filter((each) => this.isSupplyPlugged(each, atMs)).length
    return Math.round(this.watts(atMs) / plugged)
  }

  driveFails(bay: number): boolean {
    return this.faults.has('fail-drive', String(bay))
  }

  /** Life left in whole percent, as drives report it; falls with what is written. */
  driveLifePercent(bay: number, atMs: number): number {
    return Math.max(0, Math.min(100, Math.round(this.#life(bay, atMs))))
  }

  get driveModel(): DriveModel {
    return this.spec.drives ?? Q4
  }

  /** Everything that a drive could tell. */
  drive(bay: number, atMs: number): DriveState {
    const wear = this.spec.wear?.[bay]
    const isReplaced = this.faults.has('replace-drive', String(bay))
    const startMs = this.ties.startMs ?? atMs
    return driveState(
      this.driveModel,
      {
        serial: this.driveSerial(bay),
        lifeLeft: this.#life(bay, atMs) / 100,
        seed: this.spec.seed * 31 + bay,
        startMs: startMs - (wear === undefined || isReplaced ? 0 : wear.newSinceDays * DAY_MS),
        isNew: isReplaced || wear !== undefined,
        fails: this.driveFails(bay),
      },
      atMs,
    )
  }

  #life(bay: number, atMs: number): number {
    if (this.faults.has('replace-drive', String(bay))) return 100
    const now = this.spec.driveLifePercent[bay] ?? 0
    const wear = this.spec.wear?.[bay]
    if (this.ties.startMs === undefined) return now
    const days = (atMs - this.ties.startMs) / DAY_MS
    if (wear === undefined) return now - days * WEAR_PER_DAY
    // Before it was new another one was in its place, that had been worn as fast.
    const age = days + wear.newSinceDays
    return age >= 0 ? now - days * wear.percentPerDay : 16 - age * wear.percentPerDay
  }

  driveSerial(bay: number): string {
    const suffix = this.faults.has('replace-drive', String(bay)) ? 'N' : ''
    return `AM-${this.spec.serial.slice(-3)}${String(bay).padStart(2, '0')}${suffix}`
  }

  biosVersion(): string {
    return this.faults.has('update-firmware') ? '3.3.0' : '3.2.1'
  }
}
