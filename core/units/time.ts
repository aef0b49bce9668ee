const SECOND = 1000
const MINUTE = 60 * SECOND
const HOUR = 60 * MINUTE
const DAY = 24 * HOUR

/** A length of time in its largest fitting unit, as in «6 min», «3 h 20 min», «2 d 4 h». Negative counts as none. */
export function formatElapsed(elapsedMs: number): string {
  const ms = Math.max(0, elapsedMs)
  if (ms < MINUTE) return `${Math.floor(ms / SECOND)}\u00a0s`
  if (ms < HOUR) return `${Math.floor(ms / MINUTE)}\u00a0min`
  if (ms < DAY) return twoUnits(Math.floor(ms / HOUR), 'h', Math.floor((ms % HOUR) / MINUTE), 'min')
  return twoUnits(Math.floor(ms / DAY), 'd', Math.floor((ms % DAY) / HOUR), 'h')
}

function twoUnits(large: number, largeUnit: string, small: number, smallUnit: string): string {
  const head = `${large}\u00a0${largeUnit}`
  return small === 0 ? head : `${head} ${small}\u00a0${smallUnit}`
}

/** A short time as it was measured: `38 ms`, `2.4 s`. */
export const formatMilliseconds = (ms: number): string =>
  ms < 1000 ? `${Math.round(ms)}\u00a0ms` : `${(ms / 1000).toFixed(1)}\u00a0s`

/** How long ago something was, or «never». */
export function formatAgo(atMs: number | null, nowMs: number): string {
  return atMs === null ? 'never' : `${formatElapsed(nowMs - atMs)} ago`
}

/** Hours and minutes in the site's time zone, `02:09`. */
export function formatClock(atMs: number, timeZone: string): string {
  return new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', timeZone }).format(atMs)
}

/** `02:09` on the same day, `23 Nov 02:09` on another. */
export function formatMoment(atMs: number, nowMs: number, timeZone: string): string {
  const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone })
  const clock = formatClock(atMs, timeZone)
  return day.format(atMs) === day.format(nowMs) && Math.abs(nowMs - atMs) < DAY
    ? clock
    : `${day.format(atMs)} ${clock}`
}

/** `4 Mar 2026` in the site's time zone. */
export function formatDate(atMs: number, timeZone: string): string {
  return new Intl.DateTimeFormat('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone,
  }).format(atMs)
}
