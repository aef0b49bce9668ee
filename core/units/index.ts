export { instantOf, wallClock } from './zone.ts'
export { formatTick, timeTicks } from './ticks.ts'
export { quoted, writeAmount, writeSpan } from './write.ts'
export { AmountError, parseAmount, parseSpan } from './parse.ts'
export {
  inReadersScale,
  isTemperatureScale,
  readTemperaturesIn,
  TEMPERATURE_SCALES,
  temperatureScale,
  type TemperatureScale,
} from './scale.ts'
export { UNITS, type Unit, symbolOf, formatNumber, formatValue, formatBytes } from './format.ts'
export {
  formatElapsed,
  formatAgo,
  formatClock,
  formatDate,
  formatDay,
  formatInstant,
  formatMilliseconds,
  formatMoment,
  spanWords,
} from './time.ts'
