const SECOND = 1000
const MINUTE = 60 * SECOND
const HOUR = 60 * MINUTE
const DAY = 24 * HOUR

/** A length of time in its largest fitting unit, as in “6 min”, “3 h 20 min”, “2 d 4 h”. Negative counts as none. */
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

/** How long ago something was, or “never”. */
export function formatAgo(atMs: number | null, nowMs: number): string {
  return atMs === null ? 'never' : `${formatElapsed(nowMs - atMs)} ago`
}

const FORMS = {
  clock: { hour: '2-digit', minute: '2-digit' },
  day: { day: 'numeric', month: 'short' },
  date: { day: 'numeric', month: 'short', year: 'numeric' },
  instant: { dateStyle: 'medium', timeStyle: 'medium' },
} as const satisfies Record<string, Intl.DateTimeFormatOptions>

const made = new Map<string, Intl.DateTimeFormat>()

/** A formatter takes a hundred times as long to make as to use; a page formats hundreds of times. */
function formatter(form: keyof typeof FORMS, timeZone: string): Intl.DateTimeFormat {
  const key = `${form} ${timeZone}`
  const known = made.get(key) ?? new Intl.DateTimeFormat('en-GB', { ...FORMS[form], timeZone })
  made.set(key, known)
  return known
}

/** Hours and minutes in the site's time zone, `02:09`. */
export const formatClock = (atMs: number, timeZone: string): string =>
  formatter('clock', timeZone).format(atMs)

/** `02:09` on the same day, `23 Nov 02:09` on another. */
export function formatMoment(atMs: number, nowMs: number, timeZone: string): string {
  const day = formatter('day', timeZone)
  const clock = formatClock(atMs, timeZone)
  return Math.abs(nowMs - atMs) < DAY && day.format(atMs) === day.format(nowMs)
    ? clock
    : `${day.format(atMs)} ${clock}`
}

/** `4 Mar` in the site's time zone. */
export const formatDay = (atMs: number, timeZone: string): string => formatter('day', timeZone).format(atMs)

/** To the second: `4 Mar 2026, 02:09:07` in the site's time zone. */
export const formatInstant = (atMs: number, timeZone: string): string =>
  formatter('instant', timeZone).format(atMs)

/** `4 Mar 2026` in the site's time zone. */
export const formatDate = (atMs: number, timeZone: string): string => formatter('date', timeZone).format(atMs)

/** From when to when: long spans by their days, short ones to the minute. */
export function spanWords(
  { fromMs, toMs }: { readonly fromMs: number; readonly toMs: number },
  nowMs: number,
  timeZone: string,
): string {
  return toMs - fromMs > 10 * DAY
    ? `${formatDate(fromMs, timeZone)} – ${formatDate(toMs, timeZone)}`
    : `${formatMoment(fromMs, nowMs, timeZone)} – ${formatMoment(toMs, nowMs, timeZone)}`
}
