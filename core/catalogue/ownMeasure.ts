import { formatNumber, type Unit, UNITS } from '../units/index.ts'
import { type Measure, MEASURE_GROUPS, type MeasureGroup, MEASURES } from './catalogue.ts'

/** A measure that a site has added to those that ship. */
export interface OwnMeasure extends Measure {
  readonly key: string
}

/** As a form has it. */
export interface OwnMeasureFields {
  readonly key: string
  readonly label: string
  readonly unit: string
  readonly kind: string
  readonly group: string
  readonly decimals: string
  /** `0=closed, 1=open` of a state. */
  readonly states: string
  /** What is outside is no reading: a probe that is cut off says -127 °C. In the unit of the measure. */
  readonly low: string
  readonly high: string
}

export type OwnMeasureVerdict =
  | { readonly kind: 'measure'; readonly measure: OwnMeasure }
  | { readonly kind: 'problems'; readonly problems: Readonly<Record<string, string>> }

export const OWN_KINDS = ['gauge', 'counter', 'state'] as const
const MOST_STATES = 32

/**
 * Reads a measure from its form, with all that is wrong by the name of the field. The key is a name as the OpenTelemetry
 * semantic conventions form them: words in small letters with points between.
 * @param taken keys of other measures of the site
 */
export function ownMeasureFrom(fields: OwnMeasureFields, taken: ReadonlySet<string>): OwnMeasureVerdict {
  const problems: Record<string, string> = {}
  const key = fields.key.trim()
  const label = fields.label.trim()
  if (!/^[a-z][a-z0-9_]*(\.[a-z0-9_]+)+$/.test(key) || key.length > 64)
    problems['key'] =
      `“${key}” is no key: small letters, digits and underscores, with points between, as in hw.pump.flow.`
  else if (Object.hasOwn(MEASURES, key))
    problems['key'] = `${key} ships with the application, as ${MEASURES[key as keyof typeof MEASURES].label}.`
  else if (taken.has(key)) problems['key'] = `${key} is there already.`
  if (label === '' || label.length > 40) problems['label'] = 'Enter a name of at most 40 characters.'
  const isState = fields.kind === 'state'
  if (!OWN_KINDS.some((kind) => kind === fields.kind)) problems['kind'] = 'Choose gauge, counter or state.'
  const unit = isState ? 'state' : fields.unit
  if (!Object.hasOwn(UNITS, unit) || (unit === 'state') !== isState)
    problems['unit'] = `“${fields.unit}” is no unit that is known here. Choose one of the list.`
  if (!MEASURE_GROUPS.some((group) => group === fields.group)) problems['group'] = 'Choose a group.'
  const decimals = isState ? 0 : Number(fields.decimals)
  if (!Number.isInteger(decimals) || decimals < 0 || decimals > 6)
    problems['decimals'] = 'Decimals are a whole number from 0 to 6.'
  const states = isState ? statesIn(fields.states) : null
  if (typeof states === 'string') problems['states'] = states
  const low = boundIn('low', fields.low, problems)
  const high = boundIn('high', fields.high, problems)
  if (low !== null && high !== null && low >= high)
    problems['high'] = `The highest must be above the lowest, ${formatNumber(low, decimals)}.`
  if (Object.keys(problems).length > 0) return { kind: 'problems', problems }
  return {
    kind: 'measure',
    measure: {
      key,
      label,
      unit: unit as Unit,
      kind: fields.kind as Measure['kind'],
      decimals,
      group: fields.group as MeasureGroup,
      ...(states === null || typeof states === 'string' ? {} : { states }),
      ...(isState || (low === null && high === null) ? {} : { range: { low, high } }),
    },
  }
}

function boundIn(name: string, given: string, problems: Record<string, string>): number | null {
  const text = given.trim().replace(',', '.')
  if (text === '') return null
  const value = Number(text)
  if (Number.isFinite(value)) return value
  problems[name] = `“${given.trim()}” is no number.`
  return null
}

/** @returns the words by their numbers, or what is wrong with them */
function statesIn(text: string): Record<number, string> | string {
  const pairs = text
    .split(/[,;\n]+/)
    .map((pair) => pair.trim())
    .filter(Boolean)
  if (pairs.length < 2) return 'A state has two words at least, as in 0=closed, 1=open.'
  if (pairs.length > MOST_STATES) return `A state has at most ${MOST_STATES} words.`
  const states: Record<number, string> = {}
  for (const pair of pairs) {
    const match = /^(-?\d{1,6})\s*=\s*(\S.{0,29})$/.exec(pair)
    if (match === null) return `“${pair}” is no state: write number = word, as in 0=closed.`
    const [number, word] = [Number(match[1]), match[2]!.trim()]
    if (states[number] !== undefined) return `${number} is given twice: ${states[number]} and ${word}.`
    if (Object.values(states).includes(word)) return `“${word}” is given twice.`
    states[number] = word
  }
  return states
}

/** Whether a value can be one of a measure; what is not is no reading. */
export const isSane = ({ range }: Measure, value: number): boolean =>
  range === undefined || ((range.low ?? -Infinity) <= value && value <= (range.high ?? Infinity))
