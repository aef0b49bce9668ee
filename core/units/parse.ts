import { symbolOf, type Unit } from './format.ts'
import { fromCelsius, toCelsius } from './scale.ts'

/** Says what is wrong with an amount that was typed, in a sentence. */
export class AmountError extends Error {}

interface Reading {
  readonly unit: Unit
  readonly scale: number
  /** Added before scaling, for a temperature that is not a difference. */
  readonly offset?: number
}

const BINARY = ['ki', 'mi', 'gi', 'ti', 'pi'] as const
const DECIMAL = ['k', 'm', 'g', 't', 'p'] as const

const bytes = (suffix: string, unit: Unit): [string, Reading][] => [
  ...[`b${suffix}`, `by${suffix}`, `bytes${suffix}`].map((name): [string, Reading] => [
    name,
    { unit, scale: 1 },
  ]),
  ...BINARY.map((prefix, power): [string, Reading] => [
    `${prefix}b${suffix}`,
    { unit, scale: 1024 ** (power + 1) },
  ]),
  ...DECIMAL.map((prefix, power): [string, Reading] => [
    `${prefix}b${suffix}`,
    { unit, scale: 1000 ** (power + 1) },
  ]),
]

/** How units are written, in lower case and without spaces. Bytes are by IEC 80000-13, bits a second by powers of 1000. */
const WRITTEN: ReadonlyMap<string, readonly Reading[]> = (() => {
  const all: [string, Reading][] = [
    ['%', { unit: 'ratio', scale: 0.01 }],
    ['percent', { unit: 'ratio', scale: 0.01 }],
    ['°c', { unit: 'celsius', scale: 1 }],
    ['c', { unit: 'celsius', scale: 1 }],
    ['°f', { unit: 'celsius', scale: 5 / 9, offset: -32 }],
    ['f', { unit: 'celsius', scale: 5 / 9, offset: -32 }],
    ['k', { unit: 'celsius', scale: 1, offset: -273.15 }],
    ['rpm', { unit: 'rpm', scale: 1 }],
    ['/min', { unit: 'rpm', scale: 1 }],
    ['hz', { unit: 'hertz', scale: 1 }],
    ['khz', { unit: 'hertz', scale: 1000 }],
    ['kwh', { unit: 'kilowattHour', scale: 1 }],
    ['wh', { unit: 'kilowattHour', scale: 0.001 }],
    ['m³/h', { unit: 'cubicMetrePerHour', scale: 1 }],
    ['m3/h', { unit: 'cubicMetrePerHour', scale: 1 }],
    ['l/s', { unit: 'cubicMetrePerHour', scale: 3.6 }],
    ['va', { unit: 'voltAmpere', scale: 1 }],
    ['kva', { unit: 'voltAmpere', scale: 1000 }],
    ['bar', { unit: 'bar', scale: 1 }],
    ['mbar', { unit: 'bar', scale: 0.001 }],
    ['kpa', { unit: 'bar', scale: 0.01 }],
    ['pa', { unit: 'pascal', scale: 1 }],
    ['kpa', { unit: 'pascal', scale: 1000 }],
    ['l/min', { unit: 'litrePerMinute', scale: 1 }],
    ['m³/h', { unit: 'litrePerMinute', scale: 1000 / 60 }],
    ['m3/h', { unit: 'litrePerMinute', scale: 1000 / 60 }],
    ['dbm', { unit: 'decibelMilliwatt', scale: 1 }],
    ['/s', { unit: 'perSecond', scale: 1 }],
    ['/min', { unit: 'perSecond', scale: 1 / 60 }],
    ['/h', { unit: 'perSecond', scale: 1 / 3600 }],
    ...bytes('', 'byte'),
    ...bytes('/s', 'bytePerSecond'),
    ['bit/s', { unit: 'bytePerSecond', scale: 1 / 8 }],
    ...DECIMAL.map((prefix, power): [string, Reading] => [
      `${prefix}bit/s`,
      { unit: 'bytePerSecond', scale: 1000 ** (power + 1) / 8 },
    ]),
  ]
  for (const [symbol, unit] of [
    ['w', 'watt'],
    ['v', 'volt'],
    ['a', 'ampere'],
  ] as const) {
    all.push([symbol, { unit, scale: 1 }], [`k${symbol}`, { unit, scale: 1000 }])
    // A thousandth of a watt and a million of them are written alike but for the case.
    if (symbol !== 'w') all.push([`m${symbol}`, { unit, scale: 0.001 }])
  }
  const spans: readonly (readonly [readonly string[], number])[] = [
    [['ms'], 1],
    [['s', 'sec', 'seconds'], 1000],
    [['min', 'minutes', 'minute'], 60_000],
    [['h', 'hours', 'hour'], 3_600_000],
    [['d', 'days', 'day'], 86_400_000],
    [['weeks', 'week'], 604_800_000],
  ]
  const times = { millisecond: 1, second: 1000, minute: 60_000, hour: 3_600_000, day: 86_400_000 } as const
  for (const [names, ms] of spans)
    for (const name of names)
      for (const [unit, base] of Object.entries(times))
        all.push([name, { unit: unit as Unit, scale: ms / base }])
  const map = new Map<string, Reading[]>()
  for (const [name, reading] of all) map.set(name, [...(map.get(name) ?? []), reading])
  return map
})()

/**
 * An amount as people type it, in the unit of a measure: `86 °F` is 30 for a measure in °C, `78 %` is 0.78 of a ratio.
 * A number without a unit is in the unit that is shown (percent of a ratio, bits of what a link carries, °F for who reads them).
 * @param isDifference of a temperature: 9 °F are 5 K then, and a number without a unit is in K
 * @throws AmountError which says what was received
 */
export function parseAmount(text: string, unit: Unit, { isDifference = false } = {}): number {
  const given = text.trim()
  const match = /^([-+−]?\d[\d\s\u00a0\u202f']*(?:[.,]\d+)?)\s*(.*)$/u.exec(given)
  if (match === null)
    throw new AmountError(`“${given}” is no number. Write a number and a unit, as in “${exampleOf(unit)}”.`)
  const value = Number(
    match[1]!
      .replaceAll(/[\s\u00a0\u202f']/gu, '')
      .replace('−', '-')
      .replace(',', '.'),
  )
  const written = match[2]!.trim().toLowerCase().replaceAll(/\s/gu, '')
  if (!Number.isFinite(value)) throw new AmountError(`“${given}” is no number.`)
  if (written === '' && unit === 'celsius' && !isDifference) return tidy(toCelsius(value))
  if (written === '') return tidy(value * (SHOWN_SCALE[unit] ?? 1))
  const reading = WRITTEN.get(written)?.find((each) => each.unit === unit)
  if (reading === undefined)
    throw new AmountError(
      `“${match[2]!.trim()}” is no unit for this${symbolOf(unit) === '' ? '' : `: it is measured in ${symbolOf(unit)}`}. Write it as in “${exampleOf(unit)}”.`,
    )
  return tidy((value + (isDifference ? 0 : (reading.offset ?? 0))) * reading.scale)
}

/** What a number without a unit is in, as it is shown: percent, bits. */
const SHOWN_SCALE: Readonly<Partial<Record<Unit, number>>> = { ratio: 0.01, bytePerSecond: 1 / 8 }

const tidy = (value: number): number => Number(value.toPrecision(15))

function exampleOf(unit: Unit): string {
  switch (unit) {
    case 'ratio':
      return '80 %'
    case 'byte':
      return '2 TiB'
    case 'bytePerSecond':
      return '160 Mbit/s'
    case 'count':
    case 'state':
      return '3'
    case 'celsius':
      return `${fromCelsius(30)} ${symbolOf(unit)}`
    default:
      return `30 ${symbolOf(unit)}`
  }
}

const SPANS: Readonly<Record<string, number>> = {
  s: 1000,
  min: 60_000,
  h: 3_600_000,
  d: 86_400_000,
}

/** A length of time as people type it, `12 min`, `2 h`, `90 s`; a bare number is minutes. @throws AmountError */
export function parseSpan(text: string): number {
  const match = /^(\d+(?:[.,]\d+)?)\s*(s|min|h|d|seconds?|minutes?|hours?|days?)?$/u.exec(
    text.trim().toLowerCase(),
  )
  if (match === null)
    throw new AmountError(`“${text.trim()}” is no length of time. Write it as in “12 min”, “90 s” or “2 h”.`)
  const word = match[2] ?? 'min'
  const unit = word.startsWith('min') ? 'min' : word[0]!
  return Math.round(Number(match[1]!.replace(',', '.')) * SPANS[unit]!)
}
