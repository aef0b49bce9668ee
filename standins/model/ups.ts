import { FaultBoard } from './faults.ts'
import { noise, officeLoad, round } from './noise.ts'

export interface UpsSpec {
  readonly name: string
  readonly model: string
  readonly seed: number
  /** Minutes on battery at the present load when fully charged. */
  readonly fullMinutes: number
  readonly ratedWatts: number
}

const RECHARGE_MINUTES = 180

/** A UPS as its physics. Mains lost drains the battery minute for minute; mains back charges it again. */
export class SimUps {
  readonly faults = new FaultBoard(['lose-mains', 'fail-fan', 'silent', 'garbage', 'slow'])
  /** Minutes on battery that were left when mains last came or went. */
  #minutesThen: number
  #changedMs: number
  #wasLost = false
  #pace = 1

  constructor(
    readonly spec: UpsSpec,
    startMs: number,
  ) {
    this.#minutesThen = spec.fullMinutes
    this.#changedMs = startMs
  }

  onBattery(): boolean {
    return this.faults.has('lose-mains')
  }

  minutesLeft(atMs: number): number {
    this.#settle(atMs)
    const elapsed = ((atMs - this.#changedMs) / 60_000) * this.#pace
    const minutes = this.#wasLost
      ? this.#minutesThen - elapsed
      : this.#minutesThen + (elapsed * this.spec.fullMinutes) / RECHARGE_MINUTES
    return Math.min(this.spec.fullMinutes, Math.max(0, minutes))
  }

  secondsOnBattery(atMs: number): number {
    const fault = this.faults.find('lose-mains')
    return fault === null ? 0 : Math.floor((atMs - fault.sinceMs) / 1000)
  }

  chargePercent(atMs: number): number {
    return Math.round((this.minutesLeft(atMs) / this.spec.fullMinutes) * 100)
  }

  /** RFC 1628 `upsBatteryStatus`: batteryNormal(2), batteryLow(3), batteryDepleted(4). */
  batteryStatus(atMs: number): number {
    const percent = this.chargePercent(atMs)
    if (percent <= 1) return 4
    return percent < 20 ? 3 : 2
  }

  loadPercent(atMs: number): number {
    return Math.round(46 + 20 * officeLoad(this.spec.seed, atMs) + 1.2 * noise(this.spec.seed, atMs, 40_000))
  }

  outputWatts(atMs: number): number {
    return Math.round((this.spec.ratedWatts * this.loadPercent(atMs)) / 100)
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

  #settle(atMs: number): void {
    const fault = this.faults.find('lose-mains')
    const isLost = fault !== null
    if (isLost === this.#wasLost) return
    const changedMs = fault?.sinceMs ?? atMs
    const elapsed = ((changedMs - this.#changedMs) / 60_000) * this.#pace
    const drained = this.#wasLost ? -elapsed : (elapsed * this.spec.fullMinutes) / RECHARGE_MINUTES
    this.#minutesThen = Math.min(this.spec.fullMinutes, Math.max(0, this.#minutesThen + drained))
    this.#changedMs = changedMs
    this.#wasLost = isLost
    this.#pace = fault?.pace ?? 1
  }
}
