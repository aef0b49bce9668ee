import { type TimeWindow, windowOf } from '#core/readings'

/** The window of time that an address asks for. */
export const windowIn = (url: URL, nowMs: number): TimeWindow =>
  windowOf(
    { w: url.searchParams.get('w'), from: url.searchParams.get('from'), to: url.searchParams.get('to') },
    nowMs,
  )
