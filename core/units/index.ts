export { UNITS, type Unit, formatNumber, formatValue, formatBytes } from './format.ts'
export { formatElapsed, formatAgo, formatClock, formatDate, formatMoment } from './time.ts'
