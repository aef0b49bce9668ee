import { clean, type Cleaned } from './clean.ts'
import { type History, teethOf, weekOf, withoutStairs, withoutWeek, worstOfDays } from './daily.ts'
import { DAY_MS, type Forecast, type ForecastInput, type Verdict } from './face.ts'
import type { Fitted, Scale } from './fitted.ts'
import { fastOutlook } from './fast.ts'
import { jumpsOf } from './jumps.ts'
import { quantileOf } from './numbers.ts'
import { drawPaths, type Outlook, type Paths } from './paths.ts'
import { fitModels, stepAt, type Term } from './regress.ts'
import { seenOf, sentenceOf } from './say.ts'

/** A jump that young may still be taken for a rate. */
const FRESH_DAYS = -7
/** With less there is no telling growth from anything else. */
const LEAST_DAYS = 7

/**
 * When a finite thing reaches its line, and how sure that is.
 *
 * What is taken from the literature: the worst value of each day as block maxima; the local level of Harvey (1989) for errors
 * that wander, whitened by its filter, so that steps, changes of rate and outliers are regressors as in the intervention
 * analysis of Box and Tiao (1975), chosen greedily at a price as in Chen and Liu (1993); rival shapes weighed by the criterion
 * of Schwarz (1978); paths drawn from all that remain (Bayesian model averaging, Hoeting et al. 1999). No black box: what an
 * administrator is told to buy by must name what it saw, and a history of a few hundred days teaches nothing larger.
 *
 * Never throws, whatever the history: what cannot be used gives `too-little` with the reason.
 */
export function forecast(input: ForecastInput): Forecast {
  return forecastOf(fitHistory(input), input.line)
}

export function fitHistory(input: ForecastInput): Fitted {
  const cleaned = clean(input)
  const scale = scaleOf(input, cleaned)
  const samples = {
    atMs: cleaned.atMs,
    values: cleaned.values.map((value) => (scale.sign * value) / scale.size),
  }
  const daily = worstOfDays(samples, input.nowMs)
  const days = daily.values.length
  return {
    input,
    cleaned,
    scale,
    outlook: days < LEAST_DAYS ? null : outlookOf(daily, input),
    fast: fastOutlook(samples, daily, input),
    days,
  }
}

function scaleOf({ line, direction }: ForecastInput, { values }: Cleaned): Scale {
  let most = Number.isFinite(line) ? Math.abs(line) : 0
  for (const value of values) most = Math.max(most, Math.abs(value))
  return { sign: direction === 'up' ? 1 : -1, size: most > 0 ? most : 1 }
}

function outlookOf(daily: History, input: ForecastInput): Outlook {
  const teeth = teethOf(daily)
  const stairs = teeth === null ? withoutStairs(daily) : daily
  const week = teeth === null && stairs === daily ? weekOf(daily) : null
  const history = teeth?.peaks ?? (week === null ? stairs : withoutWeek(daily, week))
  const marked = (input.marks ?? []).map(({ atMs, as }) => ({
    term: stepNear(history, (atMs - input.nowMs) / DAY_MS),
    as,
  }))
  const forced = marked.map(({ term }) => term)
  const growing = marked.filter(({ as }) => as === 'growth').map(({ term }) => term.at)
  const single = marked.filter(({ as }) => as === 'one-off').map(({ term }) => term.at)
  const fit = (ratesUntil: number): Outlook['models'] =>
    fitModels(history, { forced, ratesUntil }).map((model) => ({
      ...model,
      jumps: jumpsOf(model, history, growing, single),
    }))
  const models = fit(0)
  // Of what grows by jumps the latest one looks, for some days, like a new rate.
  const isNewRate = models.some(
    ({ jumps, terms }) => jumps !== null && terms.some(({ kind, at }) => kind === 'rate' && at > FRESH_DAYS),
  )
  return {
    models: isNewRate ? fit(FRESH_DAYS) : models,
    endDays: history.atDays.at(-1)!,
    spanDays: history.atDays.at(-1)! - history.atDays[0]!,
    week,
    teeth,
  }
}

function stepNear({ atDays }: History, at: number): Term {
  let best = atDays[1]!
  for (const each of atDays.subarray(1)) if (Math.abs(each - at) < Math.abs(best - at)) best = each
  return stepAt(best)
}

/** The same history against any line, in the unit of the input. @param growth a factor on its growth, for “what if” */
export const forecastOf = (fitted: Fitted, line: number, growth = 1): Forecast =>
  forecastAll(fitted, line, [], growth).told

/**
 * The same, and when other lines are crossed, from the same fit and the same paths; `null` later than the horizon, or when
 * nothing can be told.
 */
export function forecastAll(
  fitted: Fitted,
  line: number,
  others: readonly number[],
  growth = 1,
): { readonly told: Forecast; readonly otherMs: readonly (number | null)[] } {
  const unknown = others.map(() => null)
  if (!Number.isFinite(line)) return { told: tooLittle(fitted, 'The line is no number.'), otherMs: unknown }
  const goals = [line, ...others].map((each) => goalOf(fitted, each))
  const drawn = draw(fitted, goals, { growth })
  if (drawn === null) return { told: tooLittle(fitted, littleReason(fitted)), otherMs: unknown }
  const { paths, outlook } = drawn
  return {
    told: told(fitted, paths, outlook, line, isOver(outlook, paths, goals[0]!)),
    otherMs: others.map((_, index) => dateIn(fitted, paths, index + 1)),
  }
}

/** When a line would be crossed if growth were another; `null` later than the horizon, or when nothing can be told. */
export function dateOf(fitted: Fitted, line: number, growth: number): number | null {
  const drawn = draw(fitted, [goalOf(fitted, line)], { growth, datesOnly: true })
  return drawn === null ? null : dateIn(fitted, drawn.paths, 0)
}

function dateIn({ input }: Fitted, { reached }: Paths, index: number): number | null {
  const days = quantileOf(reached[index]!, 0.5)
  return days < input.horizonDays ? input.nowMs + days * DAY_MS : null
}

const goalOf = ({ scale }: Fitted, line: number): number => (scale.sign * line) / scale.size

interface Drawn {
  readonly paths: Paths
  readonly outlook: Outlook
}

/** The paths that are believed: of the whole history, or of the last days where these are beyond doubt. */
function draw(
  { input, outlook, fast }: Fitted,
  goals: readonly number[],
  how: { readonly growth: number; readonly datesOnly?: boolean },
): Drawn | null {
  const horizon = Math.min(1100, Math.max(1, input.horizonDays))
  const [slow, soon] = [outlook, fast].map((each) =>
    each === null ? null : { paths: drawPaths(each, goals, horizon, input.seed, how), outlook: each },
  )
  if (soon != null && (slow == null || isSooner(soon.paths, slow.paths)))
    return slow == null && !isWithin(soon.paths, horizon) ? null : soon
  return slow ?? null
}

const isWithin = ({ reached }: Paths, days: number): boolean =>
  quantileOf(reached[0]!, 0.5) < Math.min(30, days)
/** What the last days say counts only where it is near and the longer history does not see it coming. */
function isSooner(soon: Paths, slow: Paths): boolean {
  const [a, b] = [quantileOf(soon.reached[0]!, 0.5), quantileOf(slow.reached[0]!, 0.5)]
  return a < 21 && (b === Infinity || a < 0.8 * b)
}

/** The expected worst value is at the line already. */
function isOver({ week, teeth }: Outlook, { p50, reached }: Paths, goal: number): boolean {
  const now = p50[0]! - (week?.[0] ?? 0) + (week === null ? 0 : Math.max(...week))
  if (teeth !== null)
    return teeth.peaks.values.at(-1)! >= goal && quantileOf(reached[0]!, 0.5) < medianPeriod(teeth.periods)
  return now >= goal
}
const medianPeriod = (periods: Float64Array): number => quantileOf(periods.slice().sort(), 0.5)

function told(fitted: Fitted, paths: Paths, outlook: Outlook, line: number, over: boolean): Forecast {
  const { input, scale } = fitted
  const at = (share: number): number | null => {
    if (over) return input.nowMs
    const days = quantileOf(paths.reached[0]!, share)
    return days < input.horizonDays ? input.nowMs + days * DAY_MS : null
  }
  const [p10Ms, p50Ms, p90Ms] = [at(0.1), at(0.5), at(0.9)]
  const verdict: Verdict = over ? 'over' : p50Ms === null ? 'not-in-sight' : 'crosses'
  const unscaled = (values: Float64Array): Float64Array =>
    everyDay(paths.atDays, values, input.horizonDays).map((value) => scale.sign * value * scale.size)
  const [low, high] = scale.sign === 1 ? [paths.p10, paths.p90] : [paths.p90, paths.p10]
  const seen = [...seenOf(fitted, outlook), ...fitted.cleaned.seen]
  return {
    verdict,
    p10Ms,
    p50Ms,
    p90Ms,
    days: { p10: unscaled(low), p50: unscaled(paths.p50), p90: unscaled(high) },
    seen,
    sentence: sentenceOf(fitted, seen, verdict, line),
  }
}

function everyDay(atDays: Float64Array, values: Float64Array, horizonDays: number): Float64Array {
  let low = 0
  return Float64Array.from({ length: Math.max(1, Math.ceil(horizonDays)) }, (_, day) => {
    while (low + 2 < atDays.length && atDays[low + 1]! <= day) low += 1
    const [from, to] = [atDays[low]!, atDays[low + 1] ?? atDays[low]! + 1]
    const share = Math.min(1, Math.max(0, (day - from) / (to - from)))
    return values[low]! + share * ((values[low + 1] ?? values[low]!) - values[low]!)
  })
}

function littleReason({ cleaned, days }: Fitted): string {
  if (cleaned.values.length === 0) return 'Nothing was read yet that could be used.'
  return `Only ${days} ${days === 1 ? 'day' : 'days'} of readings; ${LEAST_DAYS} are needed to tell growth from anything else.`
}

function tooLittle({ cleaned }: Fitted, sentence: string): Forecast {
  const none = new Float64Array(0)
  return {
    verdict: 'too-little',
    p10Ms: null,
    p50Ms: null,
    p90Ms: null,
    days: { p10: none, p50: none, p90: none },
    seen: cleaned.seen,
    sentence,
  }
}
