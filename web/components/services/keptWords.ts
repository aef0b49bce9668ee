import { type Availability, type Budget, shareWords } from '#core/past'
import { formatElapsed } from '#core/units'

/** How a service did in the last 30 days, against what is promised of it. */
export function keptWords(
  { of, level, budget }: { readonly of: Availability; readonly level: number; readonly budget: Budget },
  isPromised: boolean,
): string {
  if (of.share === null) return 'In 30 days nothing was heard of it.'
  const kept = `${shareWords(of.share)} of 30 days`
  if (!isPromised) return `${kept}; nothing is promised.`
  const left =
    budget.leftMs < 0
      ? `${formatElapsed(-budget.leftMs)} more than may be missed`
      : `${formatElapsed(budget.leftMs)} of ${formatElapsed(budget.allowedMs)} may still be missed`
  return `${kept}; ${shareWords(level)} is promised: ${left}.`
}
