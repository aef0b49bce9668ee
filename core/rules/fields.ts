import { isGearKind, isMeasureKey, isPartKind, type MeasureKey, measureOf } from '../catalogue/index.ts'
import { AmountError, parseAmount, parseSpan, type Unit, writeAmount, writeSpan } from '../units/index.ts'
import {
  BRIDGE_MS,
  type CountRule,
  type Half,
  type Line,
  lineOf,
  type Persistence,
  type Quantity,
  type Rule,
  type RuleKind,
  type Scope,
  type Severity,
  type Where,
} from './rule.ts'

/** A rule as it stands in a form: everything is text, and what does not matter for its kind is ignored. */
export type RuleFields = Readonly<Record<string, string>>

export type Filled =
  | { readonly kind: 'rule'; readonly rule: Rule }
  /** By field, what is wrong with it in a sentence. */
  | { readonly kind: 'problems'; readonly problems: Readonly<Record<string, string>> }

export const RULE_KINDS: Readonly<Record<RuleKind, string>> = {
  level: 'a level',
  band: 'outside of a band',
  rate: 'how fast it moves',
  state: 'a state',
  change: 'any change',
  pair: 'two things at once',
  count: 'how many of all',
  silent: 'a series not heard',
  text: 'what devices say',
  noData: 'a source not heard',
}

export function ruleFromFields(fields: RuleFields): Filled {
  const problems: Record<string, string> = {}
  const text = (name: string): string => (fields[name] ?? '').trim()
  const attempt = <T>(name: string, parse: () => T, otherwise: T): T => {
    try {
      return parse()
    } catch (error) {
      if (!(error instanceof AmountError)) throw error
      problems[name] = error.message
      return otherwise
    }
  }
  const amount = (name: string, unit: Unit, isDifference = false): number | null =>
    text(name) === '' ? null : attempt(name, () => parseAmount(text(name), unit, { isDifference }), null)
  const needed = (name: string, unit: Unit, what: string): number => {
    if (text(name) === '') problems[name] = `Give ${what}.`
    return amount(name, unit) ?? 0
  }
  const span = (name: string, what: string): number => {
    if (text(name) === '') problems[name] = `Give ${what}, as in «12 min».`
    return text(name) === '' ? 1000 : attempt(name, () => parseSpan(text(name)), 1000)
  }
  const whole = (name: string, what: string): number => {
    const value = Number(text(name))
    if (/^\d{1,6}$/.test(text(name)) && value > 0) return value
    problems[name] = `${what} is a whole number above 0.`
    return 1
  }
  const measure = (name: string): MeasureKey => {
    const key = text(name)
    if (isMeasureKey(key)) return key
    problems[name] = 'Choose what is measured.'
    return 'hw.temperature'
  }
  const severity = (): Severity => (text('severity') === 'critical' ? 'critical' : 'warning')
  const direction = (name: string): 'above' | 'below' => (text(name) === 'below' ? 'below' : 'above')
  const quantity = (): Quantity => {
    const how = text('how')
    return {
      measure: measure('measure'),
      with: how === 'difference' || how === 'ratio' ? { how, measure: measure('otherMeasure') } : null,
    }
  }
  /** The unit in which lines are given; a ratio of two measures is a bare number. */
  const unitOf = (of: Quantity): Unit => (of.with?.how === 'ratio' ? 'count' : measureOf(of.measure).unit)
  const lines = (of: Quantity, isDifference: boolean): Line[] =>
    (['warning', 'critical'] as const).flatMap((which) => {
      const at = amount(which, unitOf(of), isDifference)
      return at === null
        ? []
        : [{ severity: which, at, back: amount(`${which}Back`, unitOf(of), isDifference) }]
    })
  const persistence = (): Persistence =>
    text('persistence') === 'duration'
      ? {
          kind: 'duration',
          ms: span('duration', 'how long it must last'),
          bridgeMs: text('bridge') === '' ? BRIDGE_MS : span('bridge', 'the longest gap'),
        }
      : { kind: 'count', k: whole('k', 'The count'), n: whole('n', 'The number of readings') }
  const half = (which: 'first' | 'second'): Half => {
    const of = measure(which === 'first' ? 'measure' : 'secondMeasure')
    const { unit } = measureOf(of)
    return {
      measure: of,
      direction: direction(`${which}Direction`),
      at: needed(`${which}At`, unit, 'a line'),
      back: amount(`${which}Back`, unit),
    }
  }
  const named = {
    key: 'new',
    name: text('name'),
    why: text('why'),
    scope: scopeFrom(fields, problems),
  }

  const make = (): Rule => {
    const kind = text('kind') as RuleKind
    switch (kind) {
      case 'band': {
        const of = quantity()
        return {
          kind,
          ...named,
          of,
          bands: (['warning', 'critical'] as const).flatMap((which) => {
            if (text(`${which}Low`) === '' && text(`${which}High`) === '') return []
            const unit = unitOf(of)
            return [
              {
                severity: which,
                low: needed(`${which}Low`, unit, 'the lower end'),
                high: needed(`${which}High`, unit, 'the upper end'),
                margin: amount('margin', unit, true) ?? 0,
              },
            ]
          }),
          persistence: persistence(),
        }
      }
      case 'rate': {
        const of = quantity()
        return {
          kind,
          ...named,
          of,
          direction: text('rateDirection') === 'falling' ? 'falling' : 'rising',
          withinMs: span('within', 'the span'),
          lines: lines(of, true),
          persistence: persistence(),
        }
      }
      case 'state': {
        const of: Quantity = { measure: measure('measure'), with: null }
        const states: Record<number, Severity> = {}
        for (const value of Object.keys(measureOf(of.measure).states ?? {})) {
          const chosen = text(`state.${value}`)
          if (chosen === 'warning' || chosen === 'critical') states[Number(value)] = chosen
        }
        if (Object.keys(states).length === 0) problems['states'] = 'Choose at least one state.'
        const after = text('after')
        return {
          kind,
          ...named,
          of,
          states,
          otherwise: null,
          after: after === '' ? null : Number(after),
          persistence: persistence(),
        }
      }
      case 'change':
        return {
          kind,
          ...named,
          of: { measure: measure('measure'), with: null },
          severity: severity(),
          holdMs: span('hold', 'how long it is shown'),
        }
      case 'pair':
        return {
          kind,
          ...named,
          first: half('first'),
          second: half('second'),
          severity: severity(),
          persistence: persistence(),
        }
      case 'count': {
        const of = measure('measure')
        const { unit, states } = measureOf(of)
        const least = (['warning', 'critical'] as const).flatMap((which) => {
          const name = which === 'warning' ? 'leastWarning' : 'leastCritical'
          return text(name) === '' ? [] : [{ severity: which, count: whole(name, 'How many') }]
        })
        if (least.length === 0) problems['leastWarning'] = 'Say how many of them.'
        const chosen = Object.keys(states ?? {}).filter((value) => text(`state.${value}`) !== '')
        if (unit === 'state' && chosen.length === 0) problems['states'] = 'Choose at least one state.'
        const member: CountRule['member'] =
          unit === 'state'
            ? { kind: 'state', states: chosen.map(Number) }
            : { kind: 'level', direction: direction('direction'), at: needed('memberAt', unit, 'a line') }
        return { kind, ...named, measure: of, member, least, persistence: persistence() }
      }
      case 'silent':
        return {
          kind,
          ...named,
          measure: measure('measure'),
          afterMs: span('afterSpan', 'for how long'),
          severity: severity(),
        }
      case 'text':
        if (text('pattern') === '') problems['pattern'] = 'Say what a line must look like.'
        return {
          kind,
          ...named,
          pattern: text('pattern'),
          atMost: Math.min(7, Math.max(0, Number(text('atMost') || '7'))),
          count: whole('count', 'How many lines'),
          windowMs: span('window', 'the window'),
          severity: severity(),
        }
      case 'noData':
        return {
          kind,
          ...named,
          intervals: whole('intervals', 'How many intervals'),
          severity: severity(),
        }
      default: {
        const of = quantity()
        return {
          kind: 'level',
          ...named,
          of,
          direction: direction('direction'),
          lines: lines(of, of.with?.how === 'difference'),
          persistence: persistence(),
        }
      }
    }
  }
  const rule = make()
  if (named.name.length < 2) problems['name'] = 'Give the rule a name.'
  return Object.keys(problems).length === 0 ? { kind: 'rule', rule } : { kind: 'problems', problems }
}

function scopeFrom(fields: RuleFields, problems: Record<string, string>): Scope {
  const gearKind = fields['gearKind'] ?? ''
  const partKind = fields['partKind'] ?? ''
  return {
    gearKind: isGearKind(gearKind) ? gearKind : null,
    partKind: isPartKind(partKind) ? partKind : null,
    where: whereFrom(fields['whereKind'] ?? '', (fields['whereValue'] ?? '').trim(), problems),
  }
}

function whereFrom(kind: string, value: string, problems: Record<string, string>): Where {
  const missing = (): Where => {
    problems['whereValue'] = 'Choose which.'
    return { kind: 'everywhere' }
  }
  switch (kind) {
    case 'tag':
      return value === '' ? missing() : { kind, tag: value }
    case 'cluster':
      return value === '' ? missing() : { kind, name: value }
    case 'room':
    case 'rack':
    case 'group':
    case 'gear':
    case 'part':
      return /^\d+$/.test(value) ? { kind, id: Number(value) } : missing()
    default:
      return { kind: 'everywhere' }
  }
}

/** The same rule in a form. */
export function fieldsOfRule(rule: Rule): Record<string, string> {
  const { where } = rule.scope
  const fields: Record<string, string> = {
    kind: rule.kind,
    name: rule.name,
    why: rule.why,
    gearKind: rule.scope.gearKind ?? '',
    partKind: rule.scope.partKind ?? '',
    whereKind: where.kind,
    whereValue:
      where.kind === 'tag'
        ? where.tag
        : where.kind === 'cluster'
          ? where.name
          : 'id' in where
            ? String(where.id)
            : '',
  }
  const put = (name: string, value: number | null, unit: Unit): void => {
    fields[name] = value === null ? '' : writeAmount(value, unit)
  }
  const putQuantity = (of: Quantity): Unit => {
    fields['measure'] = of.measure
    fields['how'] = of.with?.how ?? ''
    fields['otherMeasure'] = of.with?.measure ?? ''
    return of.with?.how === 'ratio' ? 'count' : measureOf(of.measure).unit
  }
  /** A difference of temperatures is written without °C: it would be taken for a temperature. */
  const differenceUnit = (unit: Unit): Unit => (unit === 'celsius' ? 'count' : unit)
  if ('persistence' in rule) {
    const { persistence } = rule
    fields['persistence'] = persistence.kind
    if (persistence.kind === 'count') Object.assign(fields, { k: `${persistence.k}`, n: `${persistence.n}` })
    else
      Object.assign(fields, {
        duration: writeSpan(persistence.ms),
        bridge: persistence.bridgeMs === BRIDGE_MS ? '' : writeSpan(persistence.bridgeMs),
      })
  }
  if ('severity' in rule) fields['severity'] = rule.severity
  switch (rule.kind) {
    case 'level':
    case 'rate': {
      const own = putQuantity(rule.of)
      const isDifference = rule.kind === 'rate' || rule.of.with?.how === 'difference'
      const unit = isDifference ? differenceUnit(own) : own
      for (const which of ['warning', 'critical'] as const) {
        const line = lineOf(rule, which)
        put(which, line?.at ?? null, unit)
        put(`${which}Back`, line?.back ?? null, unit)
      }
      if (rule.kind === 'level') fields['direction'] = rule.direction
      else Object.assign(fields, { rateDirection: rule.direction, within: writeSpan(rule.withinMs) })
      break
    }
    case 'band': {
      const unit = putQuantity(rule.of)
      for (const { severity, low, high, margin } of rule.bands) {
        put(`${severity}Low`, low, unit)
        put(`${severity}High`, high, unit)
        put('margin', margin === 0 ? null : margin, differenceUnit(unit))
      }
      break
    }
    case 'state':
      putQuantity(rule.of)
      for (const [value, severity] of Object.entries(rule.states)) fields[`state.${value}`] = severity
      fields['after'] = rule.after === null ? '' : String(rule.after)
      break
    case 'change':
      putQuantity(rule.of)
      fields['hold'] = writeSpan(rule.holdMs)
      break
    case 'pair':
      fields['measure'] = rule.first.measure
      fields['secondMeasure'] = rule.second.measure
      for (const which of ['first', 'second'] as const) {
        const { unit } = measureOf(rule[which].measure)
        fields[`${which}Direction`] = rule[which].direction
        put(`${which}At`, rule[which].at, unit)
        put(`${which}Back`, rule[which].back, unit)
      }
      break
    case 'count':
      fields['measure'] = rule.measure
      if (rule.member.kind === 'level') {
        fields['direction'] = rule.member.direction
        put('memberAt', rule.member.at, measureOf(rule.measure).unit)
      } else for (const value of rule.member.states) fields[`state.${value}`] = 'warning'
      for (const { severity, count } of rule.least)
        fields[severity === 'warning' ? 'leastWarning' : 'leastCritical'] = String(count)
      break
    case 'silent':
      fields['measure'] = rule.measure
      fields['afterSpan'] = writeSpan(rule.afterMs)
      break
    case 'text':
      Object.assign(fields, {
        pattern: rule.pattern,
        atMost: String(rule.atMost),
        count: String(rule.count),
        window: writeSpan(rule.windowMs),
      })
      break
    case 'noData':
      fields['intervals'] = String(rule.intervals)
      break
  }
  return fields
}
