import { FaultBoard } from './faults.ts'
import { noise } from './noise.ts'

/** A standing generator: it runs when somebody, or an outage, starts it, and drinks then. */
export class SimGenerator {
  readonly faults = new FaultBoard(['run', 'low-fuel', 'fail', 'silent', 'refuse'])

  constructor(readonly spec: { readonly name: string; readonly serial: string; readonly seed: number }) {}

  at(atMs: number) {
    const running = this.faults.find('run')
    const drunk = running === null ? 0 : ((atMs - running.sinceMs) / 3_600_000) * 0.08 * running.pace
    const fuel = (this.faults.has('low-fuel') ? 0.14 : 0.86) - drunk
    return {
      isRunning: running !== null,
      fuel: Math.max(0, fuel),
      coolant: running === null ? 38 + noise(this.spec.seed, atMs, 3_600_000) : 84,
      starterVolts: 27.1 + 0.15 * noise(this.spec.seed + 1, atMs, 1_800_000),
      outputVolts: running === null ? 0 : 230,
      health: this.faults.has('fail') ? 2 : this.faults.has('low-fuel') ? 1 : 0,
    }
  }
}
