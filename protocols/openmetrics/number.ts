const REAL = /^[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?$/
const INFINITE = /^([+-]?)inf(?:inity)?$/i

/** A number of OpenMetrics 1.0 (ABNF `number`); `null` when it is none. */
export function numberOf(text: string): number | null {
  if (REAL.test(text)) return Number(text)
  if (/^nan$/i.test(text)) return Number.NaN
  const infinity = INFINITE.exec(text)
  return infinity === null ? null : infinity[1] === '-' ? -Infinity : Infinity
}

/** An instant (ABNF `timestamp`: a real number of seconds; of the plain form whole ms) in ms; `null` when it is none. */
export function instantOf(text: string, unit: 'seconds' | 'milliseconds'): number | null {
  if (unit === 'milliseconds') return /^-?\d{1,16}$/.test(text) ? Number(text) : null
  if (!REAL.test(text)) return null
  const atMs = Math.round(Number(text) * 1000)
  return Number.isSafeInteger(atMs) ? atMs : null
}
