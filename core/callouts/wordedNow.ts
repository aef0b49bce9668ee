import {
  alertTitle,
  type AlertFacts,
  isBeyond,
  isSeriesRule,
  type Rule,
  type Severity,
  standingWords,
} from '../rules/index.ts'
import { formatClock, formatElapsed } from '../units/index.ts'
import type { Facts } from './compose.ts'

/** An alert as it stands in the moment in which a message about it leaves. */
export interface AlertNow {
  readonly title: string
  readonly reason: string
  readonly severity: Severity
  /** The line that it is beyond, in words. */
  readonly line: string | null
  readonly sinceMs: number
  readonly openedAtMs: number
  readonly clearedAtMs: number | null
  /** The reading that opened it. */
  readonly thenValue: number | null
  /** What it measures now, with what else is read of the same part; `null` where it is about no reading. */
  readonly about: AlertFacts | null
  /** `null` when it is not kept any more. */
  readonly rule: Rule | null
}

/** From here on what leaves is late: it says for how long the alert has stood. */
const LATE_MS = 2 * 60_000
/** A step that waited says what it waited for, unless it left this much later. */
const A_LITTLE_MS = 60_000

/**
 * A message in the words of the moment in which it leaves: with the readings of now, since when it is so, for how long it
 * has stood, or that it is over.
 * @param dueAtMs when it was to leave
 */
export function factsNow(
  facts: Facts,
  alert: AlertNow,
  { nowMs, dueAtMs }: { nowMs: number; dueAtMs: number },
): Facts {
  if (facts.event === 'cleared' || facts.event === 'test') return facts
  const over = alert.clearedAtMs
  return {
    ...facts,
    severity: alert.severity,
    sinceMs: alert.sinceMs,
    overMs: over,
    stillAfter: over === null ? stillAfter(facts, alert, { nowMs, dueAtMs }) : null,
    ...wordsNow(facts, alert),
  }
}

function stillAfter(
  { event, stillAfter: planned }: Facts,
  { openedAtMs }: AlertNow,
  { nowMs, dueAtMs }: { nowMs: number; dueAtMs: number },
): string | null {
  if (event === 'worse') return planned
  if (planned !== null && nowMs - dueAtMs < A_LITTLE_MS) return planned
  const stoodMs = nowMs - openedAtMs
  return planned === null && stoodMs < LATE_MS ? null : formatElapsed(stoodMs)
}

function wordsNow(
  facts: Facts,
  { about, rule, thenValue, line, openedAtMs, clearedAtMs }: AlertNow,
): Partial<Facts> {
  // What is forecast is not told by the reading of now.
  if (about === null || clearedAtMs !== null || rule?.kind === 'ahead') return {}
  // What is not beyond its line at this moment, and may be over soon, keeps its headline: the reason says the number.
  const isStill = rule === null || !isSeriesRule(rule) ? null : isBeyond(rule, about.value)
  const then =
    thenValue === null ? null : { value: thenValue, clock: formatClock(openedAtMs, facts.timeZone) }
  return {
    ...(isStill === false ? {} : { title: alertTitle(about) }),
    reason: standingWords(about, then, line),
  }
}
