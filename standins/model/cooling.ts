import { FaultBoard } from './faults.ts'
import { noise, officeLoad } from './noise.ts'

export interface CoolingSpec {
  readonly name: string
  readonly serial: string
  readonly seed: number
}

/**
 * An in-row cooling unit. Its fans follow the heat; a leak wets its drip tray; a failed fan makes the other run faster;
 * stopped it moves no air, and its coil warms to what the room has.
 */
export class SimCooling {
  readonly faults = new FaultBoard(['stop', 'leak', 'fail-fan', 'warm-water', 'silent', 'refuse'])

  constructor(
    readonly spec: CoolingSpec,
    /** Heat of the room, 0..1; that of an office when not given. */
    private readonly heat: (atMs: number) => number = (atMs) => officeLoad(spec.seed, atMs),
  ) {}

  /** Values at an instant: °C, relative humidity 0..1, fan speed 0..1, W, m³/h. */
  at(atMs: number) {
    const { seed } = this.spec
    const load = this.heat(atMs)
    const hasFailed = this.faults.has('fail-fan')
    const isStopped = this.faults.has('stop')
    const stopped = this.faults.followed('stop', atMs, 240_000)
    const warmer = (this.faults.has('warm-water') ? 5.5 : 0) + (hasFailed ? 1.8 : 0) + 8 * stopped
    const speed = isStopped ? 0 : Math.min(1, 0.38 + 0.5 * load + (hasFailed ? 0.25 : 0))
    return {
      supply: 19.4 + warmer + 0.3 * noise(seed, atMs, 900_000),
      return: 28.6 + 5 * load + 0.7 * warmer + 0.3 * noise(seed + 1, atMs, 700_000),
      humidity: 0.43 + 0.03 * noise(seed + 2, atMs, 7_200_000),
      waterIn: 12.1 + (isStopped ? 0 : warmer) + 0.2 * noise(seed + 3, atMs, 1_800_000),
      waterOut: 16.4 + (isStopped ? -3 : warmer) + 2 * load,
      fans: [hasFailed ? 0 : speed, speed],
      watts: isStopped ? 35 : 420 + 1500 * speed ** 3,
      airflow: 5200 * speed * (hasFailed ? 0.62 : 1),
      isWet: this.faults.has('leak'),
      health: this.faults.has('leak') || isStopped ? 2 : hasFailed ? 1 : 0,
    }
  }
}
