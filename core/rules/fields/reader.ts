import { isMeasureKey, type MeasureKey, measureOf } from '../../catalogue/index.ts'
import { AmountError, parseAmount, parseSpan, type Unit } from '../../units/index.ts'
import { BRIDGE_MS, type Half, type Line, type Persistence, type Quantity, type Severity } from '../rule.ts'

/** A rule as it stands in a form: everything is text, and what does not matter for its kind is ignored. */
export type RuleFields = Readonly<Record<string, string>>

/** The order in which a form has its lines. */
export const FORM_SEVERITIES = ['warning', 'critical'] as const satisfies readonly Severity[]

/** The unit in which lines are given; a ratio of two measures is a bare number. */
export const unitOf = (of: Quantity): Unit =>
  of.with?.how === 'ratio' ? 'count' : measureOf(of.measure).unit

/** Reads the fields of a form; what cannot be read is a problem of its field, and something harmless stands for it. */
export class FieldReader {
  /** By field, what is wrong with it in a sentence. */
  readonly problems: Record<string, string> = {}

  constructor(readonly fields: RuleFields) {}

  text(name: string): string {
    return (this.fields[name] ?? '').trim()
  }

  amount(name: string, unit: Unit, isDifference = false): number | null {
    const text = this.text(name)
    return text === '' ? null : this.#attempt(name, () => parseAmount(text, unit, { isDifference }), null)
  }

  needed(name: string, unit: Unit, what: string): number {
    if (this.text(name) === '') this.problems[name] = `Give ${what}.`
    return this.amount(name, unit) ?? 0
  }

  /** In ms. */
  span(name: string, what: string): number {
    const text = this.text(name)
    if (text !== '') return this.#attempt(name, () => parseSpan(text), 1000)
    this.problems[name] = `Give ${what}, as in “12 min”.`
    return 1000
  }

  whole(name: string, what: string): number {
    const value = Number(this.text(name))
    if (/^\d{1,6}$/.test(this.text(name)) && value > 0) return value
    this.problems[name] = `${what} is a whole number above 0.`
    return 1
  }

  measure(name = 'measure'): MeasureKey {
    const key = this.text(name)
    if (isMeasureKey(key)) return key
    this.problems[name] = 'Choose what is measured.'
    return 'hw.temperature'
  }

  severity(): Severity {
    return this.text('severity') === 'critical' ? 'critical' : 'warning'
  }

  direction(name = 'direction'): 'above' | 'below' {
    return this.text(name) === 'below' ? 'below' : 'above'
  }

  quantity(): Quantity {
    const how = this.text('how')
    return {
      measure: this.measure(),
      with: how === 'difference' || how === 'ratio' ? { how, measure: this.measure('otherMeasure') } : null,
    }
  }

  lines(of: Quantity, isDifference: boolean): Line[] {
    return FORM_SEVERITIES.flatMap((severity) => {
      const at = this.amount(severity, unitOf(of), isDifference)
      return at === null
        ? []
        : [{ severity, at, back: this.amount(`${severity}Back`, unitOf(of), isDifference) }]
    })
  }

  persistence(): Persistence {
    if (this.text('persistence') !== 'duration')
      return { kind: 'count', k: this.whole('k', 'The count'), n: this.whole('n', 'The number of readings') }
    const bridgeMs = this.text('bridge') === '' ? BRIDGE_MS : this.span('bridge', 'the longest gap')
    return { kind: 'duration', ms: this.span('duration', 'how long it must last'), bridgeMs }
  }

  half(which: 'first' | 'second'): Half {
    const measure = this.measure(which === 'first' ? 'measure' : 'secondMeasure')
    const { unit } = measureOf(measure)
    return {
      measure,
      direction: this.direction(`${which}Direction`),
      at: this.needed(`${which}At`, unit, 'a line'),
      back: this.amount(`${which}Back`, unit),
    }
  }

  #attempt<T>(name: string, parse: () => T, otherwise: T): T {
    try {
      return parse()
    } catch (error) {
      if (!(error instanceof AmountError)) throw error
      this.problems[name] = error.message
      return otherwise
    }
  }
}
