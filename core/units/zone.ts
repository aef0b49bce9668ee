const fields = new Map<string, Intl.DateTimeFormat>()

function formatOf(timeZone: string): Intl.DateTimeFormat {
  const known = fields.get(timeZone)
  if (known !== undefined) return known
  const made = new Intl.DateTimeFormat('en-GB', {
    timeZone,
    hourCycle: 'h23',
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  })
  fields.set(timeZone, made)
  return made
}

/** What clocks in a zone show at an instant, as if it were UTC; ms. */
export function wallClock(atMs: number, timeZone: string): number {
  const parts = Object.fromEntries(
    formatOf(timeZone)
      .formatToParts(atMs)
      .map(({ type, value }) => [type, Number(value)]),
  )
  const { year = 0, month = 1, day = 1, hour = 0, minute = 0, second = 0 } = parts
  return Date.UTC(year, month - 1, day, hour, minute, second) + (((atMs % 1000) + 1000) % 1000)
}

/**
 * The instant at which clocks in a zone show a time. Of a time that comes twice it is the first; of one that is left
 * out when clocks go forward, as much later as they go forward.
 */
export function instantOf(wallMs: number, timeZone: string): number {
  const offsetAt = (atMs: number): number => wallClock(atMs, timeZone) - atMs
  const candidates = [offsetAt(wallMs - 86_400_000), offsetAt(wallMs + 86_400_000)].map(
    (offset) => wallMs - offset,
  )
  const exact = candidates.filter((atMs) => wallClock(atMs, timeZone) === wallMs)
  return exact.length > 0 ? Math.min(...exact) : Math.max(...candidates)
}
