import type { Findings } from '#core/topology'
import type { Outcome } from '#core/sources'

/** What a source needs to be read: its address, its settings and its opened credential. Validated by the driver. */
export interface Target {
  readonly address: string
  readonly settings: Readonly<Record<string, unknown>>
  readonly secret: Readonly<Record<string, string>>
}

/** A protocol that we ask. */
export interface Driver {
  readonly protocol: string
  /**
   * Reads everything once. A fault of the far side is an `Outcome`; rejects only when we have a bug.
   * @param timeoutMs for the whole reading, not for one request
   */
  collect(request: { target: Target; timeoutMs: number }): Promise<Outcome<Findings>>
}
