import { fromCelsius, TEMPERATURE_SCALES, temperatureScale } from './scale.ts'

/** Units in which readings are stored. A ratio is 0..1 and is shown as percent. */
export const UNITS = {
  ratio: { symbol: '%', ucum: '1' },
  celsius: { symbol: '°C', ucum: 'Cel' },
  rpm: { symbol: 'rpm', ucum: '{rpm}' },
  watt: { symbol: 'W', ucum: 'W' },
  volt: { symbol: 'V', ucum: 'V' },
  ampere: { symbol: 'A', ucum: 'A' },
  hertz: { symbol: 'Hz', ucum: 'Hz' },
  second: { symbol: 's', ucum: 's' },
  minute: { symbol: 'min', ucum: 'min' },
  hour: { symbol: 'h', ucum: 'h' },
  millisecond: { symbol: 'ms', ucum: 'ms' },
  day: { symbol: 'days', ucum: 'd' },
  kilowattHour: { symbol: 'kWh', ucum: 'kW.h' },
  voltAmpere: { symbol: 'VA', ucum: 'V.A' },
  one: { symbol: '', ucum: '1' },
  bar: { symbol: 'bar', ucum: 'bar' },
  pascal: { symbol: 'Pa', ucum: 'Pa' },
  litrePerMinute: { symbol: 'l/min', ucum: 'L/min' },
  cubicMetrePerHour: { symbol: 'm³/h', ucum: 'm3/h' },
  bytePerSecond: { symbol: 'bit/s', ucum: 'By/s' },
  perSecond: { symbol: '/s', ucum: '/s' },
  byte: { symbol: 'B', ucum: 'By' },
  decibelMilliwatt: { symbol: 'dBm', ucum: 'dB[mW]' },
  count: { symbol: '', ucum: '{count}' },
  state: { symbol: '', ucum: '' },
} as const

export type Unit = keyof typeof UNITS

/** What a unit is called by whoever reads now. */
export const symbolOf = (unit: Unit, scale = temperatureScale()): string =>
  unit === 'celsius' ? TEMPERATURE_SCALES[scale] : UNITS[unit].symbol

/** Thin groups of three, a point for decimals: `5 380`, `41.2`. Never `-0`. */
export function formatNumber(value: number, decimals: number): string {
  const fixed = value.toFixed(decimals)
  const clean = Number(fixed) === 0 ? (0).toFixed(decimals) : fixed
  const [whole = '', fraction] = clean.split('.')
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, '\u202f')
  return fraction === undefined ? grouped : `${grouped}.${fraction}`
}

const BINARY = ['B', 'KiB', 'MiB', 'GiB', 'TiB', 'PiB', 'EiB'] as const

/** Bytes in the multiple of 1024 (IEC 80000-13) that leaves one to four digits before the point. */
export function formatBytes(bytes: number): string {
  let step = 0
  let scaled = Math.abs(bytes)
  while (scaled >= 1024 && step < BINARY.length - 1) {
    scaled /= 1024
    step += 1
  }
  const decimals = step === 0 || scaled >= 100 ? 0 : 1
  return `${bytes < 0 ? '-' : ''}${formatNumber(scaled, decimals)}\u00a0${BINARY[step]}`
}

const DECIMAL = ['bit/s', 'kbit/s', 'Mbit/s', 'Gbit/s', 'Tbit/s'] as const

/** What a link carries, kept in bytes a second and read in bits: links are sold and filled by powers of 1000 of those. */
function formatBits(bytes: number): string {
  let step = 0
  let scaled = Math.abs(bytes) * 8
  while (scaled >= 1000 && step < DECIMAL.length - 1) {
    scaled /= 1000
    step += 1
  }
  const decimals = step === 0 || scaled >= 100 ? 0 : 1
  return `${bytes < 0 ? '-' : ''}${formatNumber(scaled, decimals)}\u00a0${DECIMAL[step]}`
}

/**
 * A reading as people read it: `41.2 °C`, `78.3 %`, `1.8 TiB`; temperatures in the scale of who reads.
 * A ratio is multiplied by 100. States are worded by the measure, not here.
 */
export function formatValue(value: number, unit: Unit, decimals: number, scale = temperatureScale()): string {
  if (unit === 'byte') return formatBytes(value)
  if (unit === 'bytePerSecond') return formatBits(value)
  const scaled = unit === 'ratio' ? value * 100 : unit === 'celsius' ? fromCelsius(value, scale) : value
  const shown = formatNumber(scaled, decimals)
  const symbol = symbolOf(unit, scale)
  return symbol === '' ? shown : `${shown}\u00a0${symbol}`
}
