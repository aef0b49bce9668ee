import { measureOf } from '../../catalogue/index.ts'
import { type Unit, writeAmount, writeSpan } from '../../units/index.ts'
import { BRIDGE_MS, lineOf, type Persistence, type Quantity, type Rule, type RuleKind } from '../rule.ts'
import { FORM_SEVERITIES, unitOf } from './reader.ts'
import { fieldsOfWhere } from './where.ts'

type Fields = Record<string, string>

const written = (value: number | null, unit: Unit): string => (value === null ? '' : writeAmount(value, unit))

/** A difference of temperatures is written without °C: it would be taken for a temperature. */
const differenceUnit = (unit: Unit): Unit => (unit === 'celsius' ? 'count' : unit)

const quantityFields = ({ measure, with: other }: Quantity): Fields => ({
  measure,
  how: other?.how ?? '',
  otherMeasure: other?.measure ?? '',
})

function lineFields(rule: Extract<Rule, { kind: 'level' | 'rate' }>): Fields {
  const isDifference = rule.kind === 'rate' || rule.of.with?.how === 'difference'
  const unit = isDifference ? differenceUnit(unitOf(rule.of)) : unitOf(rule.of)
  const fields = quantityFields(rule.of)
  for (const severity of FORM_SEVERITIES) {
    const line = lineOf(rule, severity)
    fields[severity] = written(line?.at ?? null, unit)
    fields[`${severity}Back`] = written(line?.back ?? null, unit)
  }
  return fields
}

function persistenceFields(persistence: Persistence): Fields {
  if (persistence.kind === 'count')
    return { persistence: 'count', k: `${persistence.k}`, n: `${persistence.n}` }
  const { ms, bridgeMs } = persistence
  return {
    persistence: 'duration',
    duration: writeSpan(ms),
    bridge: bridgeMs === BRIDGE_MS ? '' : writeSpan(bridgeMs),
  }
}

const stateFields = (states: Readonly<Record<string, string>>): Fields =>
  Object.fromEntries(Object.entries(states).map(([value, severity]) => [`state.${value}`, severity]))

type Writer<Kind extends RuleKind> = (rule: Extract<Rule, { kind: Kind }>) => Fields

/** What only a rule of a kind has. */
const WRITERS: { readonly [Kind in RuleKind]: Writer<Kind> } = {
  level: (rule) => ({ ...lineFields(rule), direction: rule.direction }),
  rate: (rule) => ({
    ...lineFields(rule),
    rateDirection: rule.direction,
    within: writeSpan(rule.withinMs),
  }),
  band: ({ of, bands }) => {
    const unit = unitOf(of)
    const fields = quantityFields(of)
    for (const { severity, low, high, margin } of bands) {
      fields[`${severity}Low`] = written(low, unit)
      fields[`${severity}High`] = written(high, unit)
      fields['margin'] = written(margin === 0 ? null : margin, differenceUnit(unit))
    }
    return fields
  },
  state: ({ of, states, after }) => ({
    ...quantityFields(of),
    ...stateFields(states),
    after: after === null ? '' : String(after),
  }),
  change: ({ of, holdMs }) => ({ ...quantityFields(of), hold: writeSpan(holdMs) }),
  pair: (rule) => {
    const fields: Fields = { measure: rule.first.measure, secondMeasure: rule.second.measure }
    for (const which of ['first', 'second'] as const) {
      const { measure, direction, at, back } = rule[which]
      const { unit } = measureOf(measure)
      fields[`${which}Direction`] = direction
      fields[`${which}At`] = written(at, unit)
      fields[`${which}Back`] = written(back, unit)
    }
    return fields
  },
  count: ({ measure, member, least }) => ({
    measure,
    ...(member.kind === 'level'
      ? { direction: member.direction, memberAt: written(member.at, measureOf(measure).unit) }
      : stateFields(Object.fromEntries(member.states.map((value) => [value, 'warning'])))),
    ...Object.fromEntries(
      least.map(({ severity, count }) => [
        severity === 'warning' ? 'leastWarning' : 'leastCritical',
        String(count),
      ]),
    ),
  }),
  silent: ({ measure, afterMs }) => ({ measure, afterSpan: writeSpan(afterMs) }),
  ahead: ({ measure, lines }) => ({
    measure,
    ...Object.fromEntries(lines.map(({ severity, days }) => [`${severity}Days`, String(days)])),
  }),
  text: ({ pattern, atMost, count, windowMs }) => ({
    pattern,
    atMost: String(atMost),
    count: String(count),
    window: writeSpan(windowMs),
  }),
  noData: ({ intervals }) => ({ intervals: String(intervals) }),
}

/** The same rule in a form. */
export function fieldsOfRule(rule: Rule): Fields {
  const { kind, name, why, scope } = rule
  const write = WRITERS[kind] as (rule: Rule) => Fields
  return {
    kind,
    name,
    why,
    gearKind: scope.gearKind ?? '',
    partKind: scope.partKind ?? '',
    role: scope.role ?? '',
    ...fieldsOfWhere(scope.where),
    ...('persistence' in rule ? persistenceFields(rule.persistence) : {}),
    ...('severity' in rule ? { severity: rule.severity } : {}),
    ...write(rule),
  }
}
