import { pino } from 'pino'

/** One JSON line an event. Secrets have no business in what is logged; should one slip in by these names, it is cut out. */
export const log = pino({
  level: process.env['RACK_LOG'] ?? 'info',
  redact: [
    '*.password',
    '*.secret',
    '*.token',
    '*.community',
    '*.authPassword',
    '*.privPassword',
    '*.authorization',
  ],
})
