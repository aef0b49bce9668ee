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
export const WIRE_FAULTS = ['silent', 'garbage', 'slow', 'huge', 'endless', 'deny'] as const
export type WireFault = (typeof WIRE_FAULTS)[number]

/** The faults of one stand-in. */
export class FaultBoard {
  readonly #faults: Fault[] = []

  constructor(readonly known: readonly string[]) {}

  /** @throws RangeError with a sentence when the fault is not one of this stand-in's. */
  cause(name: string, part: string | null, sinceMs: number, pace = 1): void {
    if (!this.known.includes(name)) {
      throw new RangeError(`«${name}» is not a fault here. Known are: ${this.known.join(', ')}.`)
    }
    this.mend(name, part)
    this.#faults.push({ name, part, sinceMs, pace })
  }

  /** Mends one fault, or all when no name is given. */
  mend(name?: string, part: string | null = null): void {
    for (let index = this.#faults.length - 1; index >= 0; index -= 1) {
      const fault = this.#faults[index]!
      if (name === undefined || (fault.name === name && (part === null || fault.part === part))) {
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

  list(): readonly Fault[] {
    return this.#faults
  }
}
