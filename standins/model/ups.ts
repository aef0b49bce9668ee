import { type Fault, FaultBoard } from './faults.ts'
import { noise, officeLoad, round } from './noise.ts'

const DAY_MS = 86_400_000

export interface UpsSpec {
  readonly name: string
  readonly model: string
  readonly seed: number
  /** Minutes on battery at the load it was made out for, when fully charged and on the first day of the demo. */
  readonly fullMinutes: number
  readonly ratedWatts: number
  /** Minutes a year before: a battery that grows old. */
  readonly yearAgoMinutes?: number
}

export interface UpsTies {
  /** What hangs on it. */
  readonly loadWatts?: (atMs: number) => number
}

const RECHARGE_MINUTES = 180
/** The share of the rated power that `fullMinutes` is for. */
const USUAL_LOAD = 0.55
/** A battery gives less energy the faster it is drained (Peukert 1897; 1.1 to 1.2 for lead). */
const PEUKERT = 1.15

/**
 * A UPS as its physics. Mains lost drains the battery, the faster the more hangs on it; mains back charges it again.
 * Charge is 0..1 and moves between two looks as the load between them was.
 */
export class SimUps {
  readonly faults = new FaultBoard(['lose-mains', 'fail-fan', 'silent', 'garbage', 'slow'])
  #charge = 1
  #seenMs: number
  #pace = 1
  #outage: Fault | null = null

  constructor(
    readonly spec: UpsSpec,
    private readonly startMs: number,
    private readonly ties: UpsTies = {},
  ) {
    this.#seenMs = startMs
  }

  onBattery(): boolean {
    return this.faults.has('lose-mains')
  }

  /** Whether what hangs on it has power. */
  carries(atMs: number): boolean {
    return !this.onBattery() || this.charge(atMs) > 0
  }

  /** Minutes from full to empty at a load, as old as the battery is. */
  fullMinutes(atMs: number): number {
    const { fullMinutes, yearAgoMinutes = fullMinutes } = this.spec
    const years = (atMs - this.startMs) / (365 * DAY_MS)
    const aged = Math.max(1, fullMinutes + (fullMinutes - yearAgoMinutes) * years)
    if (this.ties.loadWatts === undefined) return aged
    const share = Math.max(0.02, this.outputWatts(atMs) / this.spec.ratedWatts)
    return aged * (USUAL_LOAD / share) ** PEUKERT
  }

  minutesLeft(atMs: number): number {
    return this.charge(atMs) * this.fullMinutes(atMs)
  }

  secondsOnBattery(atMs: number): number {
    const fault = this.faults.find('lose-mains')
    return fault === null ? 0 : Math.floor((atMs - fault.sinceMs) / 1000)
  }

  chargePercent(atMs: number): number {
    return Math.round(this.charge(atMs) * 100)
  }

  /** RFC 1628 `upsBatteryStatus`: batteryNormal(2), batteryLow(3), batteryDepleted(4). */
  batteryStatus(atMs: number): number {
    const percent = this.chargePercent(atMs)
    if (percent <= 1) return 4
    return percent < 20 ? 3 : 2
  }

  loadPercent(atMs: number): number {
    return Math.round((this.outputWatts(atMs) / this.spec.ratedWatts) * 100)
  }

  outputWatts(atMs: number): number {
    const { seed, ratedWatts } = this.spec
    const own = this.ties.loadWatts?.(atMs)
    if (own !== undefined) return Math.round(own)
    return Math.round(ratedWatts * (0.46 + 0.2 * officeLoad(seed, atMs) + 0.012 * noise(seed, atMs, 40_000)))
  }

  inputVolts(atMs: number): number {
    return this.onBattery() ? 0 : Math.round(231 + 1.6 * noise(this.spec.seed + 3, atMs, 45_000))
  }

  batteryVolts(atMs: number): number {
    return round(this.onBattery() ? 196 + 0.3 * this.chargePercent(atMs) : 241.5, 1)
  }

  /** Numbers of `upsWellKnownAlarms` (RFC 1628 §3) that are present. */
  alarms(atMs: number): number[] {
    return [
      ...(this.onBattery() ? [2, 6] : []),
      ...(this.batteryStatus(atMs) === 3 ? [3] : []),
      ...(this.faults.has('fail-fan') ? [16] : []),
    ]
  }

  /** The charge now. A look at a time before the last one changes nothing. */
  charge(atMs: number): number {
    if (atMs <= this.#seenMs) return this.#charge
    const fault = this.faults.find('lose-mains')
    // Up to the moment that mains were lost it was charging.
    const isNew = fault !== null && fault !== this.#outage
    const lostMs = fault === null ? atMs : Math.min(atMs, isNew ? fault.sinceMs : this.#seenMs)
    const [charging, draining] = [Math.max(0, lostMs - this.#seenMs) / 60_000, (atMs - lostMs) / 60_000]
    this.#outage = fault
    // What hangs on it asks back whether it carries: from here on it is as it is now.
    this.#seenMs = atMs
    this.#charge = Math.min(1, this.#charge + (charging * this.#pace) / RECHARGE_MINUTES)
    if (fault !== null) {
      this.#pace = fault.pace
      if (draining > 0)
        this.#charge = Math.max(0, this.#charge - (draining * fault.pace) / this.fullMinutes(atMs))
    }
    return this.#charge
  }
}
