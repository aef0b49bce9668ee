import { instantOf, wallClock } from '../units/index.ts'

/** Somebody stands in for whose turn it is: `[fromMs, toMs)`. */
export interface Swap {
  readonly personId: number
  readonly fromMs: number
  readonly toMs: number
}

/** Who of a team is on duty: people in turns, each of the same number of days, and who stands in for whom. */
export interface DutyCalendar {
  /** In the order of their turns. */
  readonly personIds: readonly number[]
  readonly turnDays: number
  /** The site's midnight of the day on which the first has the first turn, as in `2026-11-23`. */
  readonly firstDay: string
  /** Minutes after midnight at which one hands over to the next, in the site's clocks. */
  readonly handOverMinute: number
  /** The later one wins. */
  readonly swaps: readonly Swap[]
}

export interface Turn {
  readonly personId: number
  readonly fromMs: number
  readonly toMs: number
  readonly isSwap: boolean
}

const MINUTE_MS = 60_000
const DAY_MS = 86_400_000

/** Turns are counted in days of the wall's clocks, so one that a change of clocks falls into is an hour longer or shorter. */
function turnAt(calendar: DutyCalendar, index: number, timeZone: string): Turn {
  const { personIds, turnDays, firstDay, handOverMinute } = calendar
  const first = Date.parse(`${firstDay}T00:00:00Z`) + handOverMinute * MINUTE_MS
  const count = personIds.length
  return {
    personId: personIds[((index % count) + count) % count]!,
    fromMs: instantOf(first + index * turnDays * DAY_MS, timeZone),
    toMs: instantOf(first + (index + 1) * turnDays * DAY_MS, timeZone),
    isSwap: false,
  }
}

const indexAt = ({ firstDay, handOverMinute, turnDays }: DutyCalendar, atMs: number, timeZone: string) =>
  Math.floor(
    (wallClock(atMs, timeZone) - Date.parse(`${firstDay}T00:00:00Z`) - handOverMinute * MINUTE_MS) /
      (turnDays * DAY_MS),
  )

/** Who is on duty at an instant; `null` where nobody has a turn. */
export function onDuty(calendar: DutyCalendar, atMs: number, timeZone: string): number | null {
  return turnsBetween(calendar, atMs, atMs + 1, timeZone)[0]?.personId ?? null
}

/** All turns that touch `[fromMs, toMs)`, in order, cut where somebody stands in. They do not overlap and leave no gap. */
export function turnsBetween(calendar: DutyCalendar, fromMs: number, toMs: number, timeZone: string): Turn[] {
  if (calendar.personIds.length === 0 || toMs <= fromMs) return []
  let turns: Turn[] = []
  // An index may be off by one where clocks change.
  for (let index = indexAt(calendar, fromMs, timeZone) - 1; ; index += 1) {
    const turn = turnAt(calendar, index, timeZone)
    if (turn.fromMs >= toMs) break
    if (turn.toMs > fromMs) turns.push(turn)
  }
  for (const swap of calendar.swaps) {
    if (swap.toMs <= fromMs || swap.fromMs >= toMs) continue
    turns = turns.flatMap((turn) => [
      ...(turn.fromMs < swap.fromMs ? [{ ...turn, toMs: Math.min(turn.toMs, swap.fromMs) }] : []),
      ...(turn.toMs > swap.toMs ? [{ ...turn, fromMs: Math.max(turn.fromMs, swap.toMs) }] : []),
    ])
    turns.push({ ...swap, isSwap: true })
  }
  return turns.sort((a, b) => a.fromMs - b.fromMs)
}
