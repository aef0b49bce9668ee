import type { TimeWindow } from '#core/readings'
import type { RecordFilter } from '#db/accounts'

const KINDS = ['change', 'sign-in', 'refusal'] as const
const OUTCOMES = ['done', 'refused'] as const
const MOST_WORDS = 8

/** From an address: `q` words, `kind`, `outcome`; what is not there does not filter. */
export function recordFilterOf(params: URLSearchParams, { fromMs, toMs }: TimeWindow): RecordFilter {
  return {
    words: (params.get('q') ?? '').split(/\s+/).filter(Boolean).slice(0, MOST_WORDS),
    kind: KINDS.find((kind) => kind === params.get('kind')) ?? null,
    outcome: OUTCOMES.find((outcome) => outcome === params.get('outcome')) ?? null,
    fromMs,
    toMs,
  }
}
