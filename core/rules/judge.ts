import type { LevelRule, Sample, Severity, StateRule } from './rule.ts'

export type Verdict =
  | {
      readonly kind: 'holds'
      readonly severity: Severity
      readonly breaches: number
      readonly of: number
      readonly sinceMs: number
    }
  | { readonly kind: 'clear' }

/** How many readings of a series a rule looks at. */
export const windowLength = (rule: LevelRule | StateRule): number => rule.n

/**
 * Judges one series by its latest readings.
 * The worse severity wins when both hold. A breach of the critical line also counts as one of the warning line.
 * @param samples the latest readings, oldest first; only the last `rule.n` are looked at. Missing readings are simply
 * not among them: a gap neither breaches nor clears.
 */
export function judge(rule: LevelRule | StateRule, samples: readonly Sample[]): Verdict {
  const window = samples.slice(-rule.n)
  for (const severity of ['critical', 'warning'] as const) {
    const breaching = window.filter((sample) => breaches(rule, sample.value, severity))
    const first = breaching[0]
    if (first !== undefined && breaching.length >= rule.k) {
      return { kind: 'holds', severity, breaches: breaching.length, of: window.length, sinceMs: first.atMs }
    }
  }
  return { kind: 'clear' }
}

function breaches(rule: LevelRule | StateRule, value: number, severity: Severity): boolean {
  if (rule.kind === 'state') {
    const found = rule.states[value]
    return found === severity || (severity === 'warning' && found === 'critical')
  }
  const line = severity === 'critical' ? rule.critical : (rule.warning ?? rule.critical)
  if (line === null) return false
  return rule.direction === 'above' ? value > line : value < line
}
