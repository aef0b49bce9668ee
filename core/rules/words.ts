import { formatReading, gearKindOf, measureOf, partKindOf, SENSOR_ROLES } from '../catalogue/index.ts'
import { formatElapsed, formatValue } from '../units/index.ts'
import { lineOf, type Persistence, type Quantity, type Rule, type Scope, type Severity } from './rule.ts'

/** A value of what a rule compares, in words. */
export function formatQuantity(of: Quantity, value: number): string {
  if (of.with === null) return formatReading(of.measure, value)
  if (of.with.how === 'ratio') return `${value.toFixed(2)} times`
  return formatDifference(of, value)
}

/** A difference of two values of a measure: degrees of one are kelvin. */
export function formatDifference(of: Quantity, value: number): string {
  const { unit, decimals } = measureOf(of.measure)
  return unit === 'celsius' ? `${value.toFixed(decimals)}\u00a0K` : formatValue(value, unit, decimals)
}

export const lower = (text: string): string =>
  /^[A-Z][A-Z]/.test(text) ? text : text.charAt(0).toLowerCase() + text.slice(1)

/** What is compared: “temperature”, “temperature less outlet temperature”. */
export function quantityWords(of: Quantity): string {
  const own = lower(measureOf(of.measure).label)
  if (of.with === null) return own
  const other = lower(measureOf(of.with.measure).label)
  return of.with.how === 'difference' ? `${own} less ${other}` : `${own} by ${other}`
}

/** “in 4 of the last 6 readings”, “for 12 min”. Empty where one reading is enough. */
export function persistenceWords(persistence: Persistence): string {
  if (persistence.kind === 'duration') return `for ${formatElapsed(persistence.ms)}`
  const { k, n } = persistence
  if (n === 1) return ''
  return k === n ? `in ${n} readings in a row` : `in ${k} of the last ${n} readings`
}

/** What a severity of a rule asks for, without how long: “above 27.0 °C”. Empty where it has no line of it. */
export function lineWords(rule: Rule, severity: Severity): string {
  switch (rule.kind) {
    case 'level': {
      const line = lineOf(rule, severity)
      return line === null ? '' : `${rule.direction} ${formatQuantity(rule.of, line.at)}`
    }
    case 'rate': {
      const line = lineOf(rule, severity)
      return line === null
        ? ''
        : `${rule.direction} by ${formatDifference(rule.of, line.at)} within ${formatElapsed(rule.withinMs)}`
    }
    case 'band': {
      const band = rule.bands.find((each) => each.severity === severity)
      return band === undefined
        ? ''
        : `outside of ${formatQuantity(rule.of, band.low)} to ${formatQuantity(rule.of, band.high)}`
    }
    case 'state': {
      const own = Object.keys(rule.states)
        .map(Number)
        .filter((value) => rule.states[value] === severity)
        .map((value) => formatReading(rule.of.measure, value))
      const others =
        rule.otherwise?.severity === severity
          ? [
              `anything but ${rule.otherwise.well.map((value) => formatReading(rule.of.measure, value)).join(' or ')}`,
            ]
          : []
      const all = [...own, ...others]
      if (all.length === 0) return ''
      const after = rule.after === null ? '' : ` after ${formatReading(rule.of.measure, rule.after)}`
      return `${all.join(' or ')}${after}`
    }
    case 'change':
      return rule.severity === severity ? 'changes' : ''
    case 'pair': {
      if (rule.severity !== severity) return ''
      const half = ({ measure, direction, at }: typeof rule.first): string =>
        `${lower(measureOf(measure).label)} ${direction} ${formatReading(measure, at)}`
      return `${half(rule.first)} while ${half(rule.second)}`
    }
    case 'count': {
      const least = rule.least.find((each) => each.severity === severity)
      if (least === undefined) return ''
      const member =
        rule.member.kind === 'level'
          ? `${rule.member.direction} ${formatReading(rule.measure, rule.member.at)}`
          : rule.member.states.map((value) => formatReading(rule.measure, value)).join(' or ')
      return `at least ${least.count} ${member}`
    }
    case 'text':
      return rule.severity === severity
        ? `${rule.count === 1 ? 'a line' : `${rule.count} lines`} like “${rule.pattern}” within ${formatElapsed(rule.windowMs)}`
        : ''
    case 'noData':
      return rule.severity === severity ? `not heard for ${rule.intervals} intervals` : ''
    case 'ahead': {
      const line = rule.lines.find((each) => each.severity === severity)
      return line === undefined
        ? ''
        : `with less than ${line.days === 1 ? 'a day' : `${line.days} days`} left`
    }
    case 'silent':
      return rule.severity === severity ? `not heard for ${formatElapsed(rule.afterMs)}` : ''
  }
}

export const persistenceOf = (rule: Rule): Persistence | null =>
  'persistence' in rule ? rule.persistence : null

/** The whole of a rule's lines: “warning above 27.0 °C, critical above 32.0 °C, in 4 of the last 6 readings”. */
export function ruleWords(rule: Rule): string {
  const lines = (['warning', 'critical'] as const).flatMap((severity) => {
    const words = lineWords(rule, severity)
    return words === '' ? [] : [`${severity} ${words}`]
  })
  if (lines.length === 0) return 'no line: nothing is told here'
  const persistence = persistenceOf(rule)
  return [...lines, ...(persistence === null ? [] : [persistenceWords(persistence)].filter(Boolean))].join(
    ', ',
  )
}

/** Whom a scope is for, without the place: “every fan of a server”, “every UPS”. */
export function kindWords({ gearKind, partKind, role }: Scope): string {
  const gear = gearKind === null ? null : lower(gearKindOf(gearKind).label)
  if (role != null) {
    const of = partKind === null || partKind === 'sensor' ? 'sensor' : lower(partKindOf(partKind).label)
    return `every ${SENSOR_ROLES[role].noun} ${of}${gear === null ? '' : ` of a ${gear}`}`
  }
  if (partKind !== null)
    return `every ${lower(partKindOf(partKind).label)}${gear === null ? '' : ` of a ${gear}`}`
  return gear === null ? 'everything' : `every ${gear}`
}
