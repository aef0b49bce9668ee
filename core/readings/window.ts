/** Windows of time that screens offer, in ms. The key stands in addresses. */
export const WINDOWS = {
  '1h': { label: 'Last hour', ms: 3_600_000 },
  '6h': { label: 'Last 6 hours', ms: 6 * 3_600_000 },
  '24h': { label: 'Last 24 hours', ms: 86_400_000 },
  '7d': { label: 'Last 7 days', ms: 7 * 86_400_000 },
  '30d': { label: 'Last 30 days', ms: 30 * 86_400_000 },
  '1y': { label: 'Last year', ms: 365 * 86_400_000 },
} as const
export type WindowKey = keyof typeof WINDOWS
export const DEFAULT_WINDOW: WindowKey = '6h'

export interface TimeWindow {
  readonly key: WindowKey | 'own'
  readonly fromMs: number
  readonly toMs: number
}

const LONGEST_MS = 366 * 86_400_000

/**
 * The window that an address asks for: `w` a key, or `from` and `to` in ms since the epoch. What makes no sense (an
 * unknown key, an end before its beginning, more than a year) falls back to the default.
 */
export function windowOf(
  asked: { w: string | null; from: string | null; to: string | null },
  nowMs: number,
): TimeWindow {
  const from = Number(asked.from ?? Number.NaN)
  const to = Number(asked.to ?? Number.NaN)
  if (Number.isFinite(from) && Number.isFinite(to) && to > from && to - from <= LONGEST_MS) {
    return { key: 'own', fromMs: from, toMs: to }
  }
  const key = asked.w !== null && Object.hasOwn(WINDOWS, asked.w) ? (asked.w as WindowKey) : DEFAULT_WINDOW
  return { key, fromMs: nowMs - WINDOWS[key].ms, toMs: nowMs }
}
