export { UNITS, type Unit, formatNumber, formatValue, formatBytes } from './format.ts'
export { formatElapsed, formatAgo, formatClock, formatMoment } from './time.ts'
