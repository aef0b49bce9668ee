import { instantOf, numberOf } from './number.ts'

/** One sample line of the OpenMetrics text format. */
export interface Sample {
  readonly name: string
  readonly labels: Readonly<Record<string, string>>
  readonly value: number
  /** ms since the epoch; `null` when the line has no timestamp. */
  readonly atMs: number | null
}

const escape = (text: string): string =>
  text.replaceAll('\\', '\\\\').replaceAll('"', '\\"').replaceAll('\n', '\\n')
const unescape = (text: string): string =>
  text.replaceAll(/\\(.)/g, (_, sign: string) => (sign === 'n' ? '\n' : sign))

/** Name and labels, up to the value. The same for every sample of a series. */
export function sampleHead(name: string, labels: Readonly<Record<string, string>>): string {
  const words = Object.entries(labels).map(([key, value]) => `${key}="${escape(value)}"`)
  return words.length === 0 ? name : `${name}{${words.join(',')}}`
}

/** A value as OpenMetrics writes it: `NaN`, `+Inf`, `-Inf`, else the shortest decimal that reads back the same. */
export function sampleValue(value: number): string {
  if (Number.isNaN(value)) return 'NaN'
  if (value === Infinity) return '+Inf'
  if (value === -Infinity) return '-Inf'
  return Object.is(value, -0) ? '-0' : String(value)
}

/** Seconds since the epoch with as many decimals as the instant has. */
export const sampleTime = (atMs: number): string => String(atMs / 1000)

const NAME = /^[a-zA-Z_:][a-zA-Z0-9_:]*/
const LABEL = /^([a-zA-Z_][a-zA-Z0-9_]*)="((?:[^"\\\n]|\\.)*)"(,|(?=\}))/
const REST = /^ (\S+)(?: (\S+))?(?: # .*)?$/

/**
 * Reads one line of OpenMetrics text (OpenMetrics 1.0, “Text Format”). Exemplars are passed over.
 * @returns `null` for a line without a sample: a comment, metadata, an empty line
 * @throws SyntaxError with what is wrong
 */
export function parseSample(line: string): Sample | null {
  if (line === '' || line.startsWith('#')) return null
  const name = NAME.exec(line)?.[0]
  if (name === undefined) throw new SyntaxError('it does not begin with the name of a metric')
  let rest = line.slice(name.length)
  const labels: Record<string, string> = {}
  if (rest.startsWith('{')) {
    rest = rest.slice(1)
    while (!rest.startsWith('}')) {
      const label = LABEL.exec(rest)
      if (label === null) throw new SyntaxError('its labels are not of the form name="value"')
      labels[label[1]!] = unescape(label[2]!)
      rest = rest.slice(label[0].length)
    }
    rest = rest.slice(1)
  }
  const [, value, time] = REST.exec(rest) ?? []
  if (value === undefined) throw new SyntaxError('it has no value after the name and labels')
  return { name, labels, value: valueOf(value), atMs: time === undefined ? null : timeOf(time) }
}

function valueOf(text: string): number {
  const value = numberOf(text)
  if (value === null) throw new SyntaxError(`“${text.slice(0, 40)}” is not a number`)
  return value
}

function timeOf(text: string): number {
  const atMs = instantOf(text, 'seconds')
  if (atMs === null) throw new SyntaxError(`“${text.slice(0, 40)}” is not a time in seconds`)
  return atMs
}
