import {
  type BandRule,
  type Half,
  type LevelRule,
  lineOf,
  MOST_COUNTED,
  type Persistence,
  type RateRule,
  type Sample,
  type SeriesRule,
  type Severity,
  type StateRule,
} from './rule.ts'

export type Verdict =
  | {
      readonly kind: 'holds'
      readonly severity: Severity
      /** How many of the last readings were beyond the line; of a rule with a duration the one that made it full. */
      readonly breaches: number
      readonly of: number
      /** The first reading that counted. */
      readonly sinceMs: number
    }
  | { readonly kind: 'clear' }

const CLEAR: Verdict = { kind: 'clear' }

/** How bad one reading is: 0 well, 1 beyond the line to warn at, 2 beyond the critical one. */
type Grade = 0 | 1 | 2
const gradeOf = (severity: Severity | null): Grade =>
  severity === 'critical' ? 2 : severity === 'warning' ? 1 : 0

/** Grades a value by the lines as they are crossed on the way in, and on the way back. */
interface Grader {
  in(value: number, other: number): Grade
  back(value: number, other: number): Grade
}

/** What a rule remembers of one series. Made by `begin`, changed by `take`. */
export interface Standing {
  severity: Severity | null
  sinceMs: number
  breaches: number
  of: number
  lastAtMs: number
  /** The last readings, the newest in bit 0: beyond the line on the way in, and on the way back. */
  warnIn: number
  critIn: number
  warnBack: number
  critBack: number
  /** Times of the last readings, in turns. */
  readonly times: Float64Array
  taken: number
  /** Since when without a break, in the same order. NaN when it is not so. */
  warnInMs: number
  critInMs: number
  warnBackMs: number
  critBackMs: number
  /** What a rate looks back upon. */
  readonly back: Sample[]
  lastValue: number
  hasBeen: boolean
}

/** A rule made ready for many readings. */
export interface Judge {
  readonly rule: SeriesRule
  begin(): Standing
  /**
   * Takes the next reading. `other` is the reading of the rule's second measure that is in force at that time, NaN when
   * there is none: then nothing is judged. A reading that is not newer than the last one is passed over.
   * @returns whether severity changed, or it began or ended to hold
   */
  take(standing: Standing, atMs: number, value: number, other?: number): boolean
}

/** What is remembered of a series is bounded by this many readings. */
export const windowLength = (rule: SeriesRule): number =>
  'persistence' in rule && rule.persistence.kind === 'count' ? rule.persistence.n : MOST_COUNTED

export function judgeFor(rule: SeriesRule): Judge {
  const grader = graderOf(rule)
  const persistence: Persistence = rule.kind === 'change' ? { kind: 'count', k: 1, n: 1 } : rule.persistence
  const slots = persistence.kind === 'count' ? persistence.n : 1
  const begin = (): Standing => ({
    severity: null,
    sinceMs: 0,
    breaches: 0,
    of: 0,
    lastAtMs: -Infinity,
    warnIn: 0,
    critIn: 0,
    warnBack: 0,
    critBack: 0,
    times: new Float64Array(slots),
    taken: 0,
    warnInMs: NaN,
    critInMs: NaN,
    warnBackMs: NaN,
    critBackMs: NaN,
    back: [],
    lastValue: NaN,
    hasBeen: false,
  })
  const settle = persistence.kind === 'count' ? byCount(persistence) : byDuration(persistence)
  const take = (standing: Standing, atMs: number, given: number, other = NaN): boolean => {
    if (atMs <= standing.lastAtMs) return false
    let value = given
    if (rule.kind === 'pair') {
      if (Number.isNaN(other)) return false
    } else if (rule.of.with !== null) {
      value = rule.of.with.how === 'difference' ? given - other : given / other
      if (!Number.isFinite(value)) return false
    }
    if (Number.isNaN(value)) return false
    if (rule.kind === 'change') return takeChange(rule.holdMs, rule.severity, standing, atMs, value)
    if (rule.kind === 'rate') {
      value = moved(rule, standing, atMs, value)
      if (Number.isNaN(value)) {
        standing.lastAtMs = atMs
        return false
      }
    }
    let [inside, back] = [grader.in(value, other), grader.back(value, other)]
    if (rule.kind === 'state' && rule.after !== null) {
      if (value === rule.after) standing.hasBeen = true
      else if (!standing.hasBeen && standing.severity === null) [inside, back] = [0, 0]
    }
    return settle(standing, atMs, inside, back)
  }
  return { rule, begin, take }
}

export const verdictOf = (standing: Standing): Verdict =>
  standing.severity === null
    ? CLEAR
    : {
        kind: 'holds',
        severity: standing.severity,
        breaches: standing.breaches,
        of: standing.of,
        sinceMs: standing.sinceMs,
      }

/**
 * Takes up an alert that is open already, after a restart: what was read before is remembered, and the next reading
 * decides whether it still holds.
 * @param samples the newest readings that are stored, oldest first
 */
export function resume(
  { begin, take }: Judge,
  open: { readonly severity: Severity; readonly sinceMs: number },
  samples: readonly (Sample & { readonly other?: number })[],
): Standing {
  const standing = begin()
  standing.hasBeen = true
  const hold = () => {
    standing.severity = open.severity
    standing.sinceMs = open.sinceMs
  }
  hold()
  for (const { atMs, value, other } of samples) {
    take(standing, atMs, value, other)
    hold()
  }
  return standing
}

/**
 * Whether one reading alone is beyond the lines of a rule; `null` of a rule that goes by more than that: a rate, a change,
 * two measures.
 */
export function isBeyond(rule: SeriesRule, value: number): boolean | null {
  if (rule.kind === 'rate' || rule.kind === 'change' || rule.kind === 'pair' || rule.of.with !== null)
    return null
  const once = { ...rule, persistence: { kind: 'count', k: 1, n: 1 } as const }
  return judge(once.kind === 'state' ? { ...once, after: null } : once, [{ atMs: 0, value }]).kind === 'holds'
}

/** Judges a whole row of readings, oldest first. @returns the verdict after the last. */
export function judge(rule: SeriesRule, samples: readonly Sample[]): Verdict {
  const { begin, take } = judgeFor(rule)
  const standing = begin()
  for (const { atMs, value } of samples) take(standing, atMs, value)
  return verdictOf(standing)
}

type Settle = (standing: Standing, atMs: number, inside: Grade, back: Grade) => boolean

function byCount({ k, n }: Extract<Persistence, { kind: 'count' }>): Settle {
  const mask = n >= 31 ? -1 : (1 << n) - 1
  return (standing, atMs, inside, back) => {
    const { times } = standing
    standing.warnIn = ((standing.warnIn << 1) | (inside >= 1 ? 1 : 0)) & mask
    standing.critIn = ((standing.critIn << 1) | (inside >= 2 ? 1 : 0)) & mask
    standing.warnBack = ((standing.warnBack << 1) | (back >= 1 ? 1 : 0)) & mask
    standing.critBack = ((standing.critBack << 1) | (back >= 2 ? 1 : 0)) & mask
    times[standing.taken % n] = atMs
    standing.taken += 1
    standing.lastAtMs = atMs
    const was = gradeOf(standing.severity)
    // Where it holds already, it goes on for as long as the way back is not crossed often enough.
    const critical = was >= 2 ? standing.critBack : standing.critIn
    const warning = was >= 1 ? standing.warnBack : standing.warnIn
    const isCritical = ones(critical) >= k
    const word = isCritical ? critical : warning
    const count = ones(word)
    if (count < k) {
      standing.severity = null
      return was !== 0
    }
    standing.breaches = count
    standing.of = Math.min(standing.taken, n)
    // The oldest reading that counts is the highest bit that is set.
    const age = 31 - Math.clz32(word)
    standing.sinceMs = was === 0 ? times[(standing.taken - 1 - age) % n]! : standing.sinceMs
    standing.severity = isCritical ? 'critical' : 'warning'
    return gradeOf(standing.severity) !== was
  }
}

function byDuration({ ms, bridgeMs }: Extract<Persistence, { kind: 'duration' }>): Settle {
  return (standing, atMs, inside, back) => {
    // Nobody knows what was in a long gap: what is to last begins anew, what holds already goes on.
    const isBroken = atMs - standing.lastAtMs > bridgeMs
    const was = gradeOf(standing.severity)
    standing.warnInMs = runOf(inside >= 1, standing.warnInMs, isBroken && was < 1, atMs)
    standing.critInMs = runOf(inside >= 2, standing.critInMs, isBroken && was < 2, atMs)
    standing.warnBackMs = runOf(back >= 1, standing.warnBackMs, isBroken && was < 1, atMs)
    standing.critBackMs = runOf(back >= 2, standing.critBackMs, isBroken && was < 2, atMs)
    standing.lastAtMs = atMs
    const isCritical = was >= 2 ? !Number.isNaN(standing.critBackMs) : atMs - standing.critInMs >= ms
    const isWarning = was >= 1 ? !Number.isNaN(standing.warnBackMs) : atMs - standing.warnInMs >= ms
    if (!isCritical && !isWarning) {
      standing.severity = null
      return was !== 0
    }
    if (was === 0) standing.sinceMs = isCritical ? standing.critInMs : standing.warnInMs
    standing.severity = isCritical ? 'critical' : 'warning'
    standing.breaches = 1
    standing.of = 1
    return gradeOf(standing.severity) !== was
  }
}

/** Since when something is so without a break. */
function runOf(isSo: boolean, sinceMs: number, isBroken: boolean, atMs: number): number {
  if (!isSo) return NaN
  return Number.isNaN(sinceMs) || isBroken ? atMs : sinceMs
}

function takeChange(
  holdMs: number,
  severity: Severity,
  standing: Standing,
  atMs: number,
  value: number,
): boolean {
  const was = standing.severity
  const isChanged = !Number.isNaN(standing.lastValue) && value !== standing.lastValue
  standing.lastValue = value
  standing.lastAtMs = atMs
  if (isChanged) {
    standing.severity = severity
    standing.sinceMs = atMs
    standing.breaches = standing.of = 1
  } else if (was !== null && atMs - standing.sinceMs >= holdMs) standing.severity = null
  return standing.severity !== was
}

/** How much the value has moved in the rule's direction within its span; NaN before half of the span is known. */
function moved(rule: RateRule, standing: Standing, atMs: number, value: number): number {
  const { back } = standing
  back.push({ atMs, value })
  while (back.length > 2 && atMs - back[1]!.atMs >= rule.withinMs) back.shift()
  const first = back[0]!
  const spanMs = atMs - first.atMs
  if (spanMs < rule.withinMs / 2 || spanMs > rule.withinMs * 2) return NaN
  const change = ((value - first.value) * rule.withinMs) / Math.max(spanMs, 1)
  return rule.direction === 'rising' ? change : -change
}

function graderOf(rule: SeriesRule): Grader {
  switch (rule.kind) {
    case 'level':
      return byLines(rule.lines, rule.direction)
    case 'rate':
      return byLines(rule.lines, 'above')
    case 'band':
      return byBands(rule)
    case 'state':
      return byStates(rule)
    case 'pair':
      return byPair(rule.first, rule.second, gradeOf(rule.severity))
    case 'change':
      return { in: () => 0, back: () => 0 }
  }
}

/** What is beyond the critical line is beyond the one to warn at as well, unless there is none. */
function byLines(lines: LevelRule['lines'], direction: 'above' | 'below'): Grader {
  const sign = direction === 'above' ? 1 : -1
  const never = Infinity
  const at = (severity: Severity, of: 'at' | 'back'): number => {
    const line = lineOf({ lines } as LevelRule, severity)
    return line === null ? never : sign * (of === 'at' ? line.at : (line.back ?? line.at))
  }
  const [warnIn, critIn] = [at('warning', 'at'), at('critical', 'at')]
  const [warnBack, critBack] = [at('warning', 'back'), at('critical', 'back')]
  return {
    in: (value) => (sign * value > critIn ? 2 : sign * value > warnIn ? 1 : 0),
    back: (value) => (sign * value > critBack ? 2 : sign * value > warnBack ? 1 : 0),
  }
}

function byBands({ bands }: BandRule): Grader {
  const grade = (value: number, isBack: boolean): Grade => {
    let found: Grade = 0
    for (const { severity, low, high, margin } of bands) {
      const room = isBack ? margin : 0
      if (value < low + room || value > high - room) found = Math.max(found, gradeOf(severity)) as Grade
    }
    return found
  }
  return { in: (value) => grade(value, false), back: (value) => grade(value, true) }
}

function byStates({ states, otherwise }: StateRule): Grader {
  const grade = (value: number): Grade => {
    const own = states[value]
    if (own !== undefined) return gradeOf(own)
    return otherwise === null || otherwise.well.includes(value) ? 0 : gradeOf(otherwise.severity)
  }
  return { in: grade, back: grade }
}

function byPair(first: Half, second: Half, grade: Grade): Grader {
  const isBeyond = (half: Half, value: number, isBack: boolean): boolean => {
    const line = isBack ? (half.back ?? half.at) : half.at
    return half.direction === 'above' ? value > line : value < line
  }
  return {
    in: (value, other) => (isBeyond(first, value, false) && isBeyond(second, other, false) ? grade : 0),
    back: (value, other) => (isBeyond(first, value, true) && isBeyond(second, other, true) ? grade : 0),
  }
}

/** How many bits are set. */
function ones(word: number): number {
  let left = word - ((word >>> 1) & 0x55555555)
  left = (left & 0x33333333) + ((left >>> 2) & 0x33333333)
  return (((left + (left >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24
}
