import type { GearKind, MeasureKey, PartKind } from '../../catalogue/index.ts'
import {
  EVERYWHERE,
  type Line,
  ofLast,
  type Persistence,
  type Quantity,
  type Rule,
  type Scope,
  type Severity,
} from '../rule.ts'

export const MINUTE = 60_000

export const just = (measure: MeasureKey): Quantity => ({ measure, with: null })
export const of = (gearKind: GearKind | null, partKind: PartKind | null = null): Scope => ({
  gearKind,
  partKind,
  where: EVERYWHERE,
})

export interface Words {
  readonly key: string
  readonly name: string
  readonly why: string
}

/** Lines as numbers; `back` is how far a value must come back before it counts as back. */
export function level(
  words: Words & { readonly scope: Scope; readonly measure: MeasureKey },
  direction: 'above' | 'below',
  lines: {
    readonly warning: number | null
    readonly critical: number | null
    readonly back?: number
    readonly persistence: Persistence
  },
): Rule {
  const { measure, ...rest } = words
  const sign = direction === 'above' ? -1 : 1
  const line = (severity: Severity, at: number | null): Line[] =>
    at === null
      ? []
      : [
          {
            severity,
            at,
            back: lines.back === undefined ? null : Number((at + sign * lines.back).toPrecision(12)),
          },
        ]
  return {
    kind: 'level',
    ...rest,
    of: just(measure),
    direction,
    lines: [...line('warning', lines.warning), ...line('critical', lines.critical)],
    persistence: lines.persistence,
  }
}

/** How much something may grow within a span. */
export function rising(
  words: Words & { readonly scope: Scope; readonly measure: MeasureKey },
  lines: {
    readonly withinMs: number
    readonly warning: number | null
    readonly critical: number | null
    readonly persistence: Persistence
  },
): Rule {
  const { measure, ...rest } = words
  const line = (severity: Severity, at: number | null): Line[] =>
    at === null ? [] : [{ severity, at, back: null }]
  return {
    kind: 'rate',
    ...rest,
    of: just(measure),
    direction: 'rising',
    withinMs: lines.withinMs,
    lines: [...line('warning', lines.warning), ...line('critical', lines.critical)],
    persistence: lines.persistence,
  }
}

export function state(
  words: Words & { readonly scope: Scope; readonly measure: MeasureKey },
  states: Readonly<Record<number, Severity>>,
  persistence: Persistence = ofLast(1, 1),
  rest: { readonly after?: number } = {},
): Rule {
  const { measure, ...named } = words
  return {
    kind: 'state',
    ...named,
    of: just(measure),
    states,
    otherwise: null,
    after: rest.after ?? null,
    persistence,
  }
}
