import type { GearKind } from '../catalogue/index.ts'
import type { Severity } from '../rules/index.ts'

/** A gear that a silent source tells of. */
export interface SilentGear {
  readonly name: string
  readonly kind: GearKind
  /** Sources that tell of it, too, and are heard. */
  readonly others: number
  /** Machines that run on it. */
  readonly machines: number
}

/** What many others hang on: not to hear of it any more is as bad as to hear that it is down. */
const MANY_HANG_ON: ReadonlySet<GearKind> = new Set([
  'array',
  'chassis',
  'cooling',
  'generator',
  'host',
  'switch',
  'ups',
])

/**
 * How bad it is that a source is silent: critical when nothing else is heard of a gear that others hang on.
 * @param asRuled by the rule in force
 * @returns with a sentence that says why, when it is worse than its rule
 */
export function silenceWeight(
  gear: readonly SilentGear[],
  asRuled: Severity,
): { readonly severity: Severity; readonly why: string } {
  const worst = gear.find(
    ({ kind, others, machines }) => others === 0 && (machines > 0 || MANY_HANG_ON.has(kind)),
  )
  if (asRuled === 'critical' || worst === undefined) return { severity: asRuled, why: '' }
  const { name, machines } = worst
  const hangs =
    machines === 0
      ? 'and others hang on it'
      : `and ${machines} ${machines === 1 ? 'machine runs' : 'machines run'} on it`
  return { severity: 'critical', why: `Nothing else tells of ${name}, ${hangs}.` }
}
