import { parseAmount } from './parse.ts'
import { symbolOf, type Unit, UNITS } from './format.ts'
import { fromCelsius } from './scale.ts'

const MULTIPLES: Readonly<Partial<Record<Unit, readonly (readonly [string, number])[]>>> = {
  byte: [
    ['PiB', 1024 ** 5],
    ['TiB', 1024 ** 4],
    ['GiB', 1024 ** 3],
    ['MiB', 1024 ** 2],
    ['KiB', 1024],
    ['TB', 1e12],
    ['GB', 1e9],
    ['MB', 1e6],
    ['kB', 1e3],
    ['B', 1],
  ],
  bytePerSecond: [
    ['Gbit/s', 1e9 / 8],
    ['Mbit/s', 1e6 / 8],
    ['kbit/s', 1e3 / 8],
    ['bit/s', 1 / 8],
  ],
  ratio: [['%', 0.01]],
}

/** An amount as it would be typed, `78 %`, `160 Mbit/s`: `parseAmount` gives the same number back. */
export function writeAmount(value: number, unit: Unit): string {
  if (unit === 'celsius') return writeTemperature(value)
  const { symbol } = UNITS[unit]
  const candidates = (MULTIPLES[unit] ?? [[symbol, 1] as const]).flatMap(([name, scale]) => {
    const scaled = Number((value / scale).toPrecision(12))
    const text = name === '' ? String(scaled) : `${scaled} ${name}`
    return /e/.test(String(scaled)) || parseAmount(text, unit) !== value ? [] : [text]
  })
  candidates.sort((a, b) => a.length - b.length)
  return candidates[0] ?? String(value)
}

/** With as many digits as it takes in the scale of who reads; in °C where that does not give the same number back. */
function writeTemperature(celsius: number): string {
  const text = `${Number(fromCelsius(celsius).toPrecision(12))} ${symbolOf('celsius')}`
  const isSame = !text.includes('e') && parseAmount(text, 'celsius') === celsius
  return isSame ? text : `${celsius} °C`
}

/** A length of time as it would be typed: `90 s`, `12 min`, `2 h`. */
export function writeSpan(ms: number): string {
  for (const [name, scale] of [
    ['d', 86_400_000],
    ['h', 3_600_000],
    ['min', 60_000],
  ] as const)
    if (ms >= scale && ms % scale === 0) return `${ms / scale} ${name}`
  return `${ms / 1000} s`
}

/** Names in quotation marks with commas between. */
export const quoted = (names: readonly string[]): string => names.map((name) => `“${name}”`).join(', ')
