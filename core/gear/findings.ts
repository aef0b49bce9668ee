import type { GearKind, LinkKind, MeasureKey, PartKind } from '../catalogue/index.ts'
import type { Identity } from './identity.ts'

/** A component as its device reports it. `key` is stable within its gear. */
export interface PartFinding {
  readonly key: string
  readonly kind: PartKind
  readonly name: string
  readonly facts: Readonly<Record<string, string>>
  /** Why it is usually not worth watching: “no link”, “empty bay”. Such a part is left out until somebody picks it. */
  readonly idle?: string
}

/** A gear as one source sees it. `key` is stable within the source; the gear's own id is found by its identities. */
export interface GearFinding {
  readonly key: string
  readonly kind: GearKind
  readonly name: string
  readonly identities: readonly Identity[]
  readonly facts: Readonly<Record<string, string>>
  readonly parts: readonly PartFinding[]
  /** As of a part: “switched off”. */
  readonly idle?: string
}

/** A link between two gear of the same findings, or of parts of them. */
export interface LinkFinding {
  readonly kind: LinkKind
  readonly from: string
  readonly to: string
  readonly fromPart?: string | null
  readonly toPart?: string | null
}

/** A gear that another source sees: by an identity, or else by its name. */
export interface FarEnd {
  readonly identities: readonly Identity[]
  readonly name: string | null
  /** Name of the part there, as the far side calls it. */
  readonly part: string | null
}

/** A link with a far end: a neighbour on the wire, what hangs on an outlet. */
export interface FarLinkFinding {
  readonly kind: LinkKind
  readonly gear: string
  readonly part: string | null
  /** Whether the link goes from this gear to the far one. */
  readonly isFrom: boolean
  readonly far: FarEnd
}

/** `value` is in the unit of the measure; `null` when the device has no value to give now. */
export interface ReadingFinding {
  readonly gear: string
  readonly part: string | null
  readonly measure: MeasureKey
  readonly value: number | null
}

/**
 * A count on the far side that only grows. Between two moments it becomes a reading of its measure: the growth a second,
 * times `scale`.
 */
export interface CounterFinding {
  readonly gear: string
  readonly part: string | null
  readonly measure: MeasureKey
  /** In decimal: 64 bits do not fit a float64. */
  readonly value: string
  /** Where it wraps. */
  readonly bits: 32 | 64
  /** For how long it has been counting, where the far side says so. */
  readonly countingMs: number | null
  readonly scale?: number
}

/**
 * How many values the far side has seen so far, and what they come to. Between two moments it becomes a reading of its
 * measure: the mean of those in between.
 */
export interface MeanFinding {
  readonly gear: string
  readonly part: string | null
  readonly measure: MeasureKey
  readonly count: number
  readonly sum: number
}

/** A page of a drive as its host read it: 512 octets, in base64. */
export interface PageFinding {
  readonly gear: string
  readonly part: string
  readonly kind: 'nvme-health' | 'ata-smart'
  readonly data: string
  readonly thresholds: string | null
}

/** What one reading of one source brought: everything a protocol knows, and nothing of the database. */
export interface Findings {
  readonly gear: readonly GearFinding[]
  readonly links: readonly LinkFinding[]
  readonly farLinks?: readonly FarLinkFinding[]
  readonly readings: readonly ReadingFinding[]
  readonly counters?: readonly CounterFinding[]
  readonly means?: readonly MeanFinding[]
  readonly pages?: readonly PageFinding[]
}
