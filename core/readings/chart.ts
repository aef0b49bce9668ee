import type { Gap } from './drawing.ts'

/**
 * Spans in which nothing of several curves was heard: what all of them miss. A curve that another source brings, or that
 * is asked less often, has gaps of its own.
 * @param all of each curve its gaps, in order and apart
 */
export function commonGaps(all: readonly (readonly Gap[])[]): Gap[] {
  const [first, ...rest] = all
  if (first === undefined) return []
  return rest.reduce<Gap[]>((common, gaps) => meeting(common, gaps), [...first])
}

function meeting(some: readonly Gap[], others: readonly Gap[]): Gap[] {
  const found: Gap[] = []
  let at = 0
  for (const gap of some) {
    while (at < others.length && others[at]!.toMs <= gap.fromMs) at += 1
    for (let other = at; other < others.length && others[other]!.fromMs < gap.toMs; other += 1) {
      const fromMs = Math.max(gap.fromMs, others[other]!.fromMs)
      const toMs = Math.min(gap.toMs, others[other]!.toMs)
      if (toMs > fromMs) found.push({ fromMs, toMs })
    }
  }
  return found
}
