import { formatElapsed, formatNumber } from '../units/index.ts'
import type { RehearsalResult } from './rehearse.ts'
import { listNames } from './sentences.ts'

const WEEK_MS = 7 * 86_400_000
/** What holds for so much of the stored time holds without a break. */
const ALWAYS = 0.95

const plural = (count: number, one: string): string =>
  `${formatNumber(count, 0)} ${one}${count === 1 ? '' : 's'}`

type Told = Pick<
  RehearsalResult,
  | 'alerts'
  | 'critical'
  | 'firstMs'
  | 'fromMs'
  | 'heldMs'
  | 'longestMs'
  | 'medianMs'
  | 'series'
  | 'subjects'
  | 'toMs'
>

/** Weeks that a rehearsal covers, a day at least. */
export const rehearsedWeeks = ({ toMs, fromMs, firstMs }: Told): number =>
  Math.max(1 / 7, (toMs - (firstMs ?? fromMs)) / WEEK_MS)

/** Those on which a rule holds without a break: it tells once, and then for ever. */
export const alwaysBeyond = ({ subjects, toMs, fromMs, firstMs }: Told): string[] => {
  const storedMs = toMs - (firstMs ?? fromMs)
  return storedMs <= 0
    ? []
    : subjects.flatMap(({ name, heldMs }) => (heldMs >= ALWAYS * storedMs ? [name] : []))
}

/** What a rule would have done: how often, how much of the time, and on what it would never have been over. */
export function rehearsalSentence(result: Told): string {
  const { alerts, critical, series, longestMs, medianMs, heldMs, firstMs, toMs } = result
  if (series === 0) return 'It would be in force on nothing: no series is in its scope.'
  const storedMs = firstMs === null ? 0 : toMs - firstMs
  const reach = `over ${formatElapsed(storedMs)} of ${formatNumber(series, 0)} series`
  if (alerts === 0) return `It would have raised nothing ${reach}.`
  const grave = critical === 0 ? '' : `, ${formatNumber(critical, 0)} of them critical`
  const aWeek = alerts / rehearsedWeeks(result)
  const length =
    alerts === 1
      ? `It lasts ${formatElapsed(longestMs)}.`
      : `Half of them last ${formatElapsed(medianMs)} or less, the longest ${formatElapsed(longestMs)}.`
  const always = alwaysBeyond(result)
  const share = storedMs === 0 ? 0 : heldMs / (storedMs * series)
  const held = share >= 0.005 ? ` Its line is crossed ${formatNumber(share * 100, 0)} % of the time.` : ''
  const broken =
    always.length === 0
      ? ''
      : ` On ${listNames(always)} it holds without a break: told once, and open ever after. Move the line, or accept ${always.length === 1 ? 'that one' : 'those'}.`
  return `It would have raised ${plural(alerts, 'alert')}${grave}, ${reach}: about ${formatNumber(aWeek, aWeek < 10 ? 1 : 0)} a week. ${length}${held}${broken}`
}
