import { FaultBoard, WIRE_FAULTS } from './faults.ts'
import { noise, round } from './noise.ts'

export interface PduSpec {
  readonly name: string
  readonly rack: string
  readonly side: 'A' | 'B'
  readonly model: string
  readonly serial: string
  readonly seed: number
  /** What feeds it, by name. */
  readonly feed: string
  readonly outlets: number
  /** What hangs on it, from the first outlet on. */
  readonly cords: readonly { readonly gear: string; readonly supply: number }[]
  /** Nearly everything hangs on its first phase. */
  readonly isUneven: boolean
}

export interface PduTies {
  /** What a supply of a gear draws. */
  readonly watts: (gear: string, supply: number, atMs: number) => number
  /** Whether its feed carries. */
  readonly isFed: (atMs: number) => boolean
}

const VOLTS = 230

/** A strip of outlets on three phases, each outlet metered. */
export class SimPdu {
  readonly faults = new FaultBoard(['outlet-off', 'trip', ...WIRE_FAULTS])

  constructor(
    readonly spec: PduSpec,
    private readonly ties: PduTies,
  ) {}

  /** Whether an outlet has power. */
  carries(outlet: number, atMs: number): boolean {
    return this.ties.isFed(atMs) && !this.faults.has('trip') && !this.faults.has('outlet-off', String(outlet))
  }

  outletOf(gear: string, supply: number): number | null {
    const at = this.spec.cords.findIndex((cord) => cord.gear === gear && cord.supply === supply)
    return at < 0 ? null : at + 1
  }

  outletWatts(outlet: number, atMs: number): number {
    const cord = this.spec.cords[outlet - 1]
    return cord === undefined || !this.carries(outlet, atMs)
      ? 0
      : round(this.ties.watts(cord.gear, cord.supply, atMs) * 1.04, 0)
  }

  /** The phase of an outlet, 0 to 2. */
  phaseOf(outlet: number): number {
    if (this.spec.isUneven) return outlet <= 2 ? 0 : 1
    return (outlet - 1) % 3
  }

  phaseAmperes(phase: number, atMs: number): number {
    let watts = 9
    for (let outlet = 1; outlet <= this.spec.cords.length; outlet += 1)
      if (this.phaseOf(outlet) === phase) watts += this.outletWatts(outlet, atMs)
    return round(this.ties.isFed(atMs) && !this.faults.has('trip') ? watts / VOLTS : 0, 2)
  }

  volts(atMs: number): number {
    return this.ties.isFed(atMs) && !this.faults.has('trip')
      ? round(VOLTS + 1.2 * noise(this.spec.seed, atMs, 90_000), 1)
      : 0
  }

  watts(atMs: number): number {
    let watts = 0
    for (let outlet = 1; outlet <= this.spec.cords.length; outlet += 1)
      watts += this.outletWatts(outlet, atMs)
    return Math.round(watts)
  }
}
