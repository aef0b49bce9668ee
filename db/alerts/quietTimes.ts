import rrule from 'rrule'
import type { QuietTime } from '#core/alerts'
import { instantOf, wallClock } from '#core/units'

const { RRule } = rrule

/**
 * When a quiet holds that repeats: the time it is in, or the next one; `null` when there is none any more. Hours are
 * those of the clocks of a zone, in summer and in winter.
 * @param rule a recurrence rule, `FREQ=WEEKLY;BYDAY=SU` (RFC 5545 §3.3.10)
 */
export function timeOfRepeating(
  first: { readonly fromMs: number; readonly toMs: number },
  rule: string,
  nowMs: number,
  timeZone: string,
): QuietTime | null {
  const lengthMs = first.toMs - first.fromMs
  const rules = new RRule({
    ...RRule.parseString(rule),
    dtstart: new Date(wallClock(first.fromMs, timeZone)),
  })
  // The library counts in a time without zones: the wall clock is given to it as if it were UTC.
  const at = rules.after(new Date(wallClock(nowMs - lengthMs, timeZone)), false)
  if (at === null) return null
  const fromMs = instantOf(at.getTime(), timeZone)
  return { fromMs, toMs: fromMs + lengthMs }
}

/** @returns the sentence why it is none, or `null` when it is well */
export function problemOfRepeating(rule: string): string | null {
  try {
    const { freq } = RRule.parseString(rule)
    if (freq === undefined) return `«${rule}» does not say how often.`
    if (freq > RRule.DAILY) return 'A quiet repeats by the day at most.'
    return null
  } catch {
    return `«${rule}» is no recurrence rule.`
  }
}

/** A recurrence rule in words: «every week on Sunday». */
export const repeatingWords = (rule: string): string => RRule.fromString(rule).toText()
