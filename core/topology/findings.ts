import type { GearKind, LinkKind, MeasureKey, PartKind } from '../measures/index.ts'
import type { Identity } from './identity.ts'

/** A component as its device reports it. `key` is stable within its gear. */
export interface PartFinding {
  readonly key: string
  readonly kind: PartKind
  readonly name: string
  readonly facts: Readonly<Record<string, string>>
}

/** A gear as one source sees it. `key` is stable within the source; the gear's own id is found by its identities. */
export interface GearFinding {
  readonly key: string
  readonly kind: GearKind
  readonly name: string
  readonly identities: readonly Identity[]
  readonly facts: Readonly<Record<string, string>>
  readonly parts: readonly PartFinding[]
}

export interface LinkFinding {
  readonly kind: LinkKind
  readonly from: string
  readonly to: string
}

/** `value` is in the unit of the measure; `null` when the device has no value to give now. */
export interface ReadingFinding {
  readonly gear: string
  readonly part: string | null
  readonly measure: MeasureKey
  readonly value: number | null
}

/** What one reading of one source brought: everything a protocol knows, and nothing of the database. */
export interface Findings {
  readonly gear: readonly GearFinding[]
  readonly links: readonly LinkFinding[]
  readonly readings: readonly ReadingFinding[]
}
