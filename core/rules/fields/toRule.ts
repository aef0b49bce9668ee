import { isGearKind, isPartKind, isSensorRole, measureOf } from '../../catalogue/index.ts'
import type { CountRule, Rule, RuleKind, Scope, Severity } from '../rule.ts'
import { FieldReader, FORM_SEVERITIES, type RuleFields, unitOf } from './reader.ts'
import { whereFromFields } from './where.ts'

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
  ahead: 'days left until it runs out',
  text: 'what devices say',
  noData: 'a source not heard',
}

type Named = Pick<Rule, 'key' | 'name' | 'why' | 'scope'>
type Maker = (read: FieldReader, named: Named) => Rule

/** A rule of each kind out of its fields. */
const MAKERS: Readonly<Record<RuleKind, Maker>> = {
  level: (read, named) => {
    const of = read.quantity()
    return {
      kind: 'level',
      ...named,
      of,
      direction: read.direction(),
      lines: read.lines(of, of.with?.how === 'difference'),
      persistence: read.persistence(),
    }
  },
  band: (read, named) => {
    const of = read.quantity()
    const unit = unitOf(of)
    const bands = FORM_SEVERITIES.flatMap((severity) => {
      if (read.text(`${severity}Low`) === '' && read.text(`${severity}High`) === '') return []
      const low = read.needed(`${severity}Low`, unit, 'the lower end')
      const high = read.needed(`${severity}High`, unit, 'the upper end')
      return [{ severity, low, high, margin: read.amount('margin', unit, true) ?? 0 }]
    })
    return { kind: 'band', ...named, of, bands, persistence: read.persistence() }
  },
  rate: (read, named) => {
    const of = read.quantity()
    return {
      kind: 'rate',
      ...named,
      of,
      direction: read.text('rateDirection') === 'falling' ? 'falling' : 'rising',
      withinMs: read.span('within', 'the span'),
      lines: read.lines(of, true),
      persistence: read.persistence(),
    }
  },
  state: (read, named) => {
    const measure = read.measure()
    const states: Record<number, Severity> = {}
    for (const value of Object.keys(measureOf(measure).states ?? {})) {
      const chosen = read.text(`state.${value}`)
      if (chosen === 'warning' || chosen === 'critical') states[Number(value)] = chosen
    }
    if (Object.keys(states).length === 0) read.problems['states'] = 'Choose at least one state.'
    const after = read.text('after')
    return {
      kind: 'state',
      ...named,
      of: { measure, with: null },
      states,
      otherwise: null,
      after: after === '' ? null : Number(after),
      persistence: read.persistence(),
    }
  },
  change: (read, named) => ({
    kind: 'change',
    ...named,
    of: { measure: read.measure(), with: null },
    severity: read.severity(),
    holdMs: read.span('hold', 'how long it is shown'),
  }),
  pair: (read, named) => ({
    kind: 'pair',
    ...named,
    first: read.half('first'),
    second: read.half('second'),
    severity: read.severity(),
    persistence: read.persistence(),
  }),
  count: (read, named) => {
    const measure = read.measure()
    const least = FORM_SEVERITIES.flatMap((severity) => {
      const name = severity === 'warning' ? 'leastWarning' : 'leastCritical'
      return read.text(name) === '' ? [] : [{ severity, count: read.whole(name, 'How many') }]
    })
    if (least.length === 0) read.problems['leastWarning'] = 'Say how many of them.'
    const member = memberOf(read, measure)
    return { kind: 'count', ...named, measure, member, least, persistence: read.persistence() }
  },
  silent: (read, named) => ({
    kind: 'silent',
    ...named,
    measure: read.measure(),
    afterMs: read.span('afterSpan', 'for how long'),
    severity: read.severity(),
  }),
  ahead: (read, named) => {
    const lines = FORM_SEVERITIES.flatMap((severity) => {
      const name = `${severity}Days`
      return read.text(name) === '' ? [] : [{ severity, days: read.whole(name, 'The number of days') }]
    })
    return { kind: 'ahead', ...named, measure: read.measure(), lines }
  },
  text: (read, named) => {
    if (read.text('pattern') === '') read.problems['pattern'] = 'Say what a line must look like.'
    return {
      kind: 'text',
      ...named,
      pattern: read.text('pattern'),
      atMost: Math.min(7, Math.max(0, Number(read.text('atMost') || '7'))),
      count: read.whole('count', 'How many lines'),
      windowMs: read.span('window', 'the window'),
      severity: read.severity(),
    }
  },
  noData: (read, named) => ({
    kind: 'noData',
    ...named,
    intervals: read.whole('intervals', 'How many intervals'),
    severity: read.severity(),
  }),
}

function memberOf(read: FieldReader, measure: CountRule['measure']): CountRule['member'] {
  const { unit, states } = measureOf(measure)
  if (unit !== 'state')
    return { kind: 'level', direction: read.direction(), at: read.needed('memberAt', unit, 'a line') }
  const chosen = Object.keys(states ?? {}).filter((value) => read.text(`state.${value}`) !== '')
  if (chosen.length === 0) read.problems['states'] = 'Choose at least one state.'
  return { kind: 'state', states: chosen.map(Number) }
}

function scopeFrom(read: FieldReader): Scope {
  const [gearKind, partKind] = [read.fields['gearKind'] ?? '', read.fields['partKind'] ?? '']
  const role = read.text('role')
  const where = whereFromFields({
    whereKind: read.fields['whereKind'] ?? '',
    whereValue: read.text('whereValue'),
  })
  if (where === null) read.problems['whereValue'] = 'Choose which.'
  return {
    gearKind: isGearKind(gearKind) ? gearKind : null,
    partKind: isPartKind(partKind) ? partKind : null,
    ...(isSensorRole(role) ? { role } : {}),
    where: where ?? { kind: 'everywhere' },
  }
}

/** A rule out of the fields of its form; what is no kind of rule is taken as a level. */
export function ruleFromFields(fields: RuleFields): Filled {
  const read = new FieldReader(fields)
  const named = { key: 'new', name: read.text('name'), why: read.text('why'), scope: scopeFrom(read) }
  const kind = read.text('kind')
  const rule = MAKERS[Object.hasOwn(MAKERS, kind) ? (kind as RuleKind) : 'level'](read, named)
  if (named.name.length < 2) read.problems['name'] = 'Give the rule a name.'
  const { problems } = read
  return Object.keys(problems).length === 0 ? { kind: 'rule', rule } : { kind: 'problems', problems }
}
