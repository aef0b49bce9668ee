import { FaultBoard } from './faults.ts'
import { noise, officeLoad } from './noise.ts'

const DAY_MS = 86_400_000
const HOUR_MS = 3_600_000

export interface PortSpec {
  readonly name: string
  readonly speedMbps: number
  /** Mean share of its speed that is in use. */
  readonly busy: number
  readonly neighbour: { readonly name: string; readonly mac: string | null; readonly port: string } | null
  /** It has been going up and down since so many days before the demo began. */
  readonly flapsSinceDays?: number
  /** It has been down since so many hours before the demo began. */
  readonly failsSinceHours?: number
}

export interface SwitchSpec {
  readonly name: string
  readonly number: number
  readonly seed: number
  readonly ports: readonly PortSpec[]
}

/** A port that flaps is down for two minutes, up for three, and down again. */
const isDownTurn = (forMs: number): boolean => forMs % 300_000 < 120_000

/** A switch: which ports are up, and what goes through them. */
export class SimSwitch {
  readonly faults = new FaultBoard(['fail-port', 'flap-port', 'die', 'silent', 'garbage', 'slow'])
  readonly #octets = new Map<string, { atMs: number; octets: number }>()

  constructor(
    readonly spec: SwitchSpec,
    readonly startMs: number,
  ) {}

  isInUse(port: PortSpec): boolean {
    return port.neighbour !== null
  }

  isUp(port: PortSpec, atMs: number): boolean {
    if (!this.isInUse(port) || this.faults.has('fail-port', port.name) || this.faults.has('die')) return false
    const flaps = this.faults.find('flap-port', port.name)
    if (flaps !== null && isDownTurn((atMs - flaps.sinceMs) * flaps.pace)) return false
    if (port.failsSinceHours !== undefined && atMs >= this.startMs - port.failsSinceHours * HOUR_MS)
      return false
    if (port.flapsSinceDays !== undefined && atMs >= this.startMs - port.flapsSinceDays * DAY_MS)
      // Two ends of one wire go up and down together.
      return noise(971, atMs, 420_000) < 0.42
    return true
  }

  /** Octets a second. */
  rate(port: PortSpec, direction: 'receive' | 'transmit', atMs: number): number {
    if (!this.isUp(port, atMs)) return 0
    const seed =
      this.spec.seed +
      port.name.length * 7 +
      Number(port.name.slice(-2)) * 3 +
      (direction === 'receive' ? 0 : 1)
    const share = port.busy * (0.35 + 1.3 * officeLoad(seed, atMs)) * (1 + 0.2 * noise(seed, atMs, 120_000))
    return Math.round(Math.min(0.99, Math.max(0, share)) * port.speedMbps * 125_000)
  }

  /** `ifHCInOctets`, `ifHCOutOctets` since the stand-in began. */
  octets(port: PortSpec, direction: 'receive' | 'transmit', atMs: number): number {
    const key = `${port.name} ${direction}`
    const last = this.#octets.get(key) ?? { atMs: this.startMs, octets: 0 }
    const seconds = Math.min(300, Math.max(0, (atMs - last.atMs) / 1000))
    const octets = last.octets + Math.round(seconds * this.rate(port, direction, atMs))
    this.#octets.set(key, { atMs, octets })
    return octets
  }

  mac(port: number): string {
    const two = (number: number): string => number.toString(16).padStart(2, '0')
    return `02:6b:00:01:${two(this.spec.number)}:${two(port)}`
  }
}
