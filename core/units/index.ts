export { UNITS, type Unit, formatNumber, formatValue, formatBytes } from './format.ts'
export {
  formatElapsed,
  formatAgo,
  formatClock,
  formatDate,
  formatMilliseconds,
  formatMoment,
} from './time.ts'
