import { formatNumber } from '../units/index.ts'
import { judgeAhead, type Outlook } from './ahead.ts'
import type { AheadRule, Severity } from './rule.ts'

const DAY_MS = 86_400_000
/** So far ahead a rule on days left is rehearsed. */
export const REHEARSED_DAYS = 90

/** Something that is forecast, on which the rule would be in force. */
export interface Foreseen {
  readonly seriesId: number
  readonly name: string
  readonly outlook: Outlook
}

/** When a rule would begin to tell of it, as forecasts stand. */
export interface ToldAhead {
  readonly seriesId: number
  readonly name: string
  readonly severity: Severity
  /** Now, at the earliest. */
  readonly atMs: number
  /** `null`: it is over its line. */
  readonly runOutMs: number | null
}

export interface AheadRehearsal {
  /** Of what it would tell now and within the days to come, the soonest first. */
  readonly told: readonly ToldAhead[]
  readonly now: number
  readonly sentence: string
}

/**
 * What a rule on days left would tell now and in the days to come if everything went as it is forecast.
 * @param things all that is forecast on which it would be in force
 * @param overridden how many more are in its scope, on which another rule has precedence
 */
export function rehearseAhead(
  rule: Pick<AheadRule, 'lines'>,
  things: readonly Foreseen[],
  nowMs: number,
  overridden = 0,
): AheadRehearsal {
  const endMs = nowMs + REHEARSED_DAYS * DAY_MS
  const told = things
    .flatMap(({ seriesId, name, outlook }) => {
      const begins = beginOf(rule, outlook, nowMs)
      return begins === null || begins.atMs > endMs
        ? []
        : [{ seriesId, name, ...begins, runOutMs: outlook.verdict === 'over' ? null : outlook.runOutMs }]
    })
    .sort((a, b) => a.atMs - b.atMs || (a.runOutMs ?? 0) - (b.runOutMs ?? 0))
  const now = told.filter(({ atMs }) => atMs === nowMs)
  return {
    told,
    now: now.length,
    sentence: sentenceOf({ things: things.length, overridden }, now, told.length - now.length),
  }
}

/** The first moment at which it would be told, and how grave it is then; `null` when never. */
function beginOf(
  rule: Pick<AheadRule, 'lines'>,
  outlook: Outlook,
  nowMs: number,
): { readonly atMs: number; readonly severity: Severity } | null {
  const { orderedForMs } = outlook
  const runOutMs = outlook.verdict === 'over' ? nowMs : outlook.runOutMs
  if (runOutMs === null || rule.lines.length === 0) return null
  const days = Math.max(...rule.lines.map((line) => line.days))
  const due = Math.max(nowMs, runOutMs - days * DAY_MS, orderedForMs === null ? 0 : orderedForMs + DAY_MS)
  // A line is crossed with less than its days left, and not with just as many.
  const { severity } = judgeAhead(rule, outlook, { nowMs: due + 1, held: null })
  return severity === null ? null : { atMs: due, severity }
}

function sentenceOf(
  { things, overridden }: { readonly things: number; readonly overridden: number },
  now: readonly ToldAhead[],
  later: number,
): string {
  const of = (count: number): string => `${formatNumber(count, 0)} ${count === 1 ? 'thing' : 'things'}`
  const others =
    overridden === 0 ? '' : ` On ${of(overridden)} in its scope a rule with a narrower scope has precedence.`
  if (things === 0)
    return overridden === 0
      ? 'It would be in force on nothing: nothing of what is forecast is in its scope.'
      : `It would be in force on nothing.${others}`
  const grave = now.filter(({ severity }) => severity === 'critical').length
  const first =
    now.length === 0
      ? 'It would tell of nothing now'
      : `It would tell of ${of(now.length)} now${grave === 0 ? '' : `, ${formatNumber(grave, 0)} of them critical`}`
  const more = now.length === 0 ? of(later) : `${formatNumber(later, 0)} more`
  const then = later === 0 ? 'and of no more' : `and of ${more}`
  return `${first}, ${then} within ${REHEARSED_DAYS} days, if all goes as forecast. It looks at ${of(things)}.${others}`
}
