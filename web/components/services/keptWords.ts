import { type Availability, type Budget, shareWords } from '#core/past'
import { formatElapsed } from '#core/units'

/** How a service did in the last 30 days, against what is promised of it. */
export function keptWords(
  { of, level, budget }: { readonly of: Availability; readonly level: number; readonly budget: Budget },
  isPromised: boolean,
): string {
  if (of.share === null) return 'In 30 days nothing was heard.'
  // What was not heard is no part of it.
  const heardMs = of.upMs + of.downMs
  const isWhole = of.blindMs < 0.01 * of.promisedMs
  const share = shareWords(of.share)
  const kept = isWhole ? `${share} of 30 days` : `${share} of the ${formatElapsed(heardMs)} that were heard`
  if (!isPromised) return `${kept}; nothing is promised.`
  return `${kept}; ${shareWords(level)} is promised: ${leftWords(budget)}.`
}

function leftWords({ leftMs, allowedMs, usedMs }: Budget): string {
  if (leftMs < 0) return `${formatElapsed(-leftMs)} more than may be missed`
  const allowed = formatElapsed(allowedMs)
  return usedMs === 0
    ? `all of ${allowed} may still be missed`
    : `${formatElapsed(leftMs)} of ${allowed} may still be missed`
}
