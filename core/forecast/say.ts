import type { Fitted } from './fitted.ts'
import { DAY_MS, type ForecastInput, type Seen, type Shape, type Verdict } from './face.ts'
import { formatBytes, formatValue, type Unit } from '../units/index.ts'
import { medianOf } from './numbers.ts'
import type { Outlook } from './paths.ts'

/** What the best model saw, in the unit of the line. */
export function seenOf({ input, scale }: Fitted, { models, teeth, week, spanDays }: Outlook): Seen[] {
  const model = models[0]!
  const unit = scale.sign * scale.size
  const msOf = (days: number): number => input.nowMs + days * DAY_MS
  const marked = new Set((input.marks ?? []).map(({ atMs }) => Math.round((atMs - input.nowMs) / DAY_MS)))
  const seen: Seen[] = []
  const rateAt = (days: number): number =>
    model.terms.reduce(
      (sum, { kind, valueAt }, index) =>
        kind === 'trend' || kind === 'rate' || kind === 'shape'
          ? sum + model.beta[index]! * (valueAt(days) - valueAt(days - 0.5)) * 2
          : sum,
      0,
    )
  const rates = model.terms.filter(({ kind }) => kind === 'rate').map(({ at }) => at)
  for (const at of rates.toSorted((a, b) => a - b))
    seen.push({
      what: 'rate',
      atMs: msOf(at),
      fromPerDay: unit * rateAt(at),
      toPerDay: unit * rateAt(at + 1),
    })
  model.terms.forEach(({ kind, at }, index) => {
    const size = unit * model.beta[index]!
    if (kind === 'step')
      seen.push({ what: 'step', atMs: msOf(at), size, isMarked: marked.has(Math.round(at)) })
    if (kind === 'spike') seen.push({ what: 'outlier', atMs: msOf(at), value: size })
  })
  if (model.jumps !== null)
    seen.push({
      what: 'jumps',
      count: model.jumps.sizes.length,
      size: unit * medianOf(model.jumps.sizes),
      everyDays: 1 / model.jumps.perDay,
    })
  if (teeth !== null)
    seen.push({
      what: 'teeth',
      count: teeth.periods.length + 1,
      size: scale.size * teeth.size,
      everyDays: medianOf(teeth.periods),
    })
  if (week !== null) seen.push({ what: 'week', size: scale.size * (Math.max(...week) - Math.min(...week)) })
  if (model.base === 'yearly')
    seen.push({ what: 'year', size: scale.size * yearSize(model.terms.length, model.beta) })
  const perDay = unit * rateAt(0)
  const shape: Shape = model.jumps !== null ? 'jumps' : model.base
  const since = rates.length > 0 ? Math.max(...rates) : -spanDays
  seen.unshift({ what: 'growth', perDay, sinceMs: msOf(since), shape })
  return seen
}

function yearSize(count: number, beta: Float64Array): number {
  const waves = beta.slice(0, count).subarray(-2)
  return 2 * Math.hypot(waves[0] ?? 0, waves[1] ?? 0)
}

/** What was found, without a unit: those who show it say sizes in the unit of their measure. */
export function sentenceOf(fitted: Fitted, seen: readonly Seen[], verdict: Verdict, line: number): string {
  return describe(fitted, seen, verdict, line, plainAmount)
}

const plainAmount = (value: number): string => String(Number(value.toPrecision(3)))

/**
 * Writes amounts of a unit, small ones with as many decimals as they need: rates a day are small. Amounts and differences are
 * written alike, and stand in what is kept for everybody: temperatures stay in °C.
 */
export const amountIn =
  (unit: Unit) =>
  (value: number): string => {
    if (unit === 'byte') return formatBytes(value)
    const shown = Math.abs(unit === 'ratio' ? value * 100 : value)
    const decimals =
      shown === 0 || shown >= 100 ? 0 : Math.min(4, Math.max(0, 1 - Math.floor(Math.log10(shown))))
    return formatValue(value, unit, decimals, 'celsius')
  }

const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' })
const YEAR_MS = 300 * DAY_MS
const YEARLY = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
})
/** A day; with its year where that is not plain. */
const dayOf = (ms: number, nowMs: number): string => (nowMs - ms > YEAR_MS ? YEARLY : DAY).format(ms)
/** Steps smaller than this share of the line are not worth a word. */
const WORTH_SAYING = 0.02

/** @param amount how a size is written in the unit of its measure */
export function describe(
  { input }: Fitted,
  seen: readonly Seen[],
  verdict: Verdict,
  line: number,
  amount: (value: number) => string,
): string {
  const growth = seen.find((each) => each.what === 'growth')
  const jumps = seen.find((each) => each.what === 'jumps')
  const teeth = seen.find((each) => each.what === 'teeth')
  const counted =
    jumps === undefined
      ? seen
          .filter((each) => each.what === 'step')
          .filter(({ size }) => Math.abs(size) > WORTH_SAYING * Math.abs(line || 1))
          .slice(-2)
      : []
  const parts = [
    ...(verdict === 'over' ? [`It is at the line of ${amount(line)} already`] : []),
    ...(jumps === undefined
      ? growth === undefined
        ? []
        : [growthWords(growth, seen, input, amount)]
      : [`Grows by jumps of about ${amount(Math.abs(jumps.size))}, one in ${days(jumps.everyDays)}`]),
    ...(teeth === undefined
      ? []
      : [`it is emptied about every ${days(teeth.everyDays)}, by ${amount(teeth.size)}; its peaks count`]),
    ...counted.map((step) => stepWords(step, input.nowMs, amount)),
    ...otherWords(seen, input.nowMs, amount),
  ]
  const [first = '', ...rest] = parts
  return `${[first, ...rest.map((part) => part.charAt(0).toLowerCase() + part.slice(1))].join('; ')}.`
}

const days = (count: number): string => {
  const whole = Math.round(count)
  return whole <= 1 ? 'day' : `${whole} days`
}

type Growth = Extract<Seen, { what: 'growth' }>

function growthWords(
  { perDay, sinceMs, shape }: Growth,
  seen: readonly Seen[],
  { direction, nowMs }: Pick<ForecastInput, 'direction' | 'nowMs'>,
  amount: (value: number) => string,
): string {
  const isTowards = direction === 'up' ? perDay > 0 : perDay < 0
  const verb = perDay > 0 ? 'Grows' : 'Falls'
  if (shape === 'flat' && !seen.some((each) => each.what === 'rate')) return 'Neither grows nor shrinks'
  const change = seen.filter((each) => each.what === 'rate').at(-1)
  const before =
    change === undefined || change.what !== 'rate'
      ? ''
      : `, before that ${amount(Math.abs(change.fromPerDay))}`
  const how =
    shape === 'levelling'
      ? ', less and less'
      : shape === 'accelerating' && isTowards
        ? ', faster and faster'
        : ''
  return `${verb} ${amount(Math.abs(perDay))} a day since ${dayOf(sinceMs, nowMs)}${before}${how}`
}

function stepWords(step: Seen, nowMs: number, amount: (value: number) => string): string {
  if (step.what !== 'step') return ''
  return `${step.size > 0 ? 'a rise' : 'a fall'} of ${amount(Math.abs(step.size))} on ${dayOf(step.atMs, nowMs)} counts as a step`
}

function otherWords(seen: readonly Seen[], nowMs: number, amount: (value: number) => string): string[] {
  const last = (what: Seen['what']) => seen.findLast((each) => each.what === what)
  const [reset, capacity, week, year] = [last('reset'), last('capacity'), last('week'), last('year')]
  return [
    ...(reset?.what === 'reset' ? [`it began anew on ${dayOf(reset.atMs, nowMs)}`] : []),
    ...(capacity?.what === 'capacity'
      ? [`its capacity became ${amount(capacity.to)} on ${dayOf(capacity.atMs, nowMs)}`]
      : []),
    ...(week?.what === 'week' ? ['it has a pattern of the week'] : []),
    ...(year?.what === 'year' ? ['it has a pattern of the year'] : []),
  ]
}
