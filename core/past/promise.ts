import { formatElapsed, formatNumber } from '../units/index.ts'
import type { Availability, ServiceHours } from './availability.ts'

const WORKDAY = [[8 * 60, 17 * 60]] as const
const LONG_DAY = [[6 * 60, 22 * 60]] as const

/** When something may be promised, to choose from. */
export const SERVICE_HOURS: Readonly<
  Record<string, { readonly label: string; readonly hours: ServiceHours | null }>
> = {
  always: { label: 'around the clock', hours: null },
  office: {
    label: 'Monday to Friday 08:00–17:00',
    hours: { days: [WORKDAY, WORKDAY, WORKDAY, WORKDAY, WORKDAY, [], []], except: [] },
  },
  long: {
    label: 'every day 06:00–22:00',
    hours: { days: Array.from({ length: 7 }, () => LONG_DAY), except: [] },
  },
}

/** A share to three decimals where they say something; what is not quite all is never rounded up to it. */
export function shareWords(share: number): string {
  const percent = share === 1 ? 100 : Math.min(Math.floor(share * 100_000 + 1e-6) / 1000, 99.999)
  const decimals = [0, 1, 2].find((count) => Number(percent.toFixed(count)) === percent) ?? 3
  return `${formatNumber(percent, decimals)} %`
}

interface Told {
  readonly name: string
  readonly of: Availability
  /** What is promised of it, where that is its own. */
  readonly level?: number
}

/** How the promise was kept, in a sentence. */
export function availabilitySentence(all: readonly Told[], level: number): string {
  if (all.length === 0) return 'Nothing here tells whether it works.'
  const levelOf = (told: Told): number => told.level ?? level
  const promised = all.every((told) => levelOf(told) === level) ? shareWords(level) : 'what is promised'
  const beyond = (told: Told): number => (1 - told.of.share!) / (1 - levelOf(told))
  const known = all.filter(({ of }) => of.share !== null)
  const missed = known
    .filter((told) => told.of.share! < levelOf(told))
    .sort((a, b) => beyond(b) - beyond(a) || a.of.share! - b.of.share!)
  // Outside its hours a service promises nothing, and need not be heard.
  const unknown = all.filter(({ of }) => of.share === null && of.promisedMs > 0).length
  const rest = unknown === 0 ? '' : ` Of ${unknown} nothing was heard.`
  if (missed.length === 0) return `All ${known.length} kept ${promised}.${rest}`
  const [worst] = missed
  const named = `${worst!.name} with ${shareWords(worst!.of.share!)}, down for ${formatElapsed(worst!.of.downMs)}`
  return `${missed.length} of ${known.length} missed ${promised}: ${missed.length === 1 ? '' : 'most of all '}${named}.${rest}`
}
