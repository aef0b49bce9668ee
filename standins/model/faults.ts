/** A fault that somebody caused, and since when it holds. */
export interface Fault {
  readonly name: string
  /** Which fan, supply or store, counted from 1 or by name, where the fault needs one. */
  readonly part: string | null
  readonly sinceMs: number
  /** How many times faster than nature the fault runs its course; 1 is as in life. */
  readonly pace: number
}

/** Faults of how a stand-in answers, whatever it stands in for. */
export const WIRE_FAULTS = [
  'silent',
  'garbage',
  'slow',
  'huge',
  'endless',
  'deny',
  'read-only',
  'sessions-only',
] as const
export type WireFault = (typeof WIRE_FAULTS)[number]

const MOST_OVER = 20

/** The faults of one stand-in. */
export class FaultBoard {
  readonly #faults: Fault[] = []
  /** What is over, the newest last: what it has warmed takes a while to cool. */
  readonly #over: (Fault & { readonly untilMs: number })[] = []

  constructor(readonly known: readonly string[]) {}

  /** @throws RangeError with a sentence when the fault is not one of this stand-in's. */
  cause(name: string, part: string | null, sinceMs: number, pace = 1): void {
    if (!this.known.includes(name)) {
      throw new RangeError(`“${name}” is not a fault here. Known are: ${this.known.join(', ')}.`)
    }
    this.mend(name, part)
    this.#faults.push({ name, part, sinceMs, pace })
  }

  /** Mends one fault, or all when no name is given. */
  mend(name?: string, part: string | null = null, atMs: number = Date.now()): void {
    for (let index = this.#faults.length - 1; index >= 0; index -= 1) {
      const fault = this.#faults[index]!
      if (name === undefined || (fault.name === name && (part === null || fault.part === part))) {
        this.#over.push({ ...fault, untilMs: atMs })
        if (this.#over.length > MOST_OVER) this.#over.shift()
        this.#faults.splice(index, 1)
      }
    }
  }

  find(name: string, part?: string): Fault | null {
    return (
      this.#faults.find((fault) => fault.name === name && (part === undefined || fault.part === part)) ?? null
    )
  }

  has(name: string, part?: string): boolean {
    return this.find(name, part) !== null
  }

  /**
   * How far something slow has followed a fault: 0 as if it had never been, 1 as if it had always been. A first-order lag,
   * as air in a room follows what heats it; after a fault is mended it goes back the same way.
   */
  followed(name: string, atMs: number, lagMs: number): number {
    const rise = (fault: Fault, untilMs: number): number =>
      1 - Math.exp((-Math.max(0, untilMs - fault.sinceMs) * fault.pace) / lagMs)
    let sum = 0
    for (const fault of this.#faults) if (fault.name === name) sum += rise(fault, atMs)
    for (const fault of this.#over)
      if (fault.name === name)
        sum +=
          rise(fault, fault.untilMs) * Math.exp((-Math.max(0, atMs - fault.untilMs) * fault.pace) / lagMs)
    return Math.min(1, sum)
  }

  list(): readonly Fault[] {
    return this.#faults
  }
}
