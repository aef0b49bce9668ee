import { AmountError, instantOf, parseSpan } from '../units/index.ts'

/** When something is to be quiet, as a form has it: for a length from now, or from one time to another. */
export interface QuietTimeFields {
  /** “1 h”; empty or “open” is until somebody ends it. */
  readonly length: string
  /** By the clocks of the site, as 2026-11-30T22:00; empty is from now, or without an end. */
  readonly from: string
  readonly until: string
  /** Not empty when it comes again: each time needs an end then. */
  readonly repeats: string
}

export type QuietSpan =
  | { readonly kind: 'span'; readonly fromMs: number; readonly toMs: number | null }
  | { readonly kind: 'problem'; readonly message: string }

const problem = (message: string): QuietSpan => ({ kind: 'problem', message })

/** @param timeZone in which the clocks of the form go */
export function quietSpan(fields: QuietTimeFields, nowMs: number, timeZone: string): QuietSpan {
  const span =
    fields.from !== '' || fields.until !== '' ? clocked(fields, nowMs, timeZone) : lasting(fields, nowMs)
  return span.kind === 'span' && span.toMs === null && fields.repeats !== ''
    ? problem('What repeats needs an end of each time.')
    : span
}

function clocked({ from, until, repeats }: QuietTimeFields, nowMs: number, timeZone: string): QuietSpan {
  const clock = (text: string): number | null =>
    /^\d{4}-\d\d-\d\dT\d\d:\d\d/.test(text) ? instantOf(Date.parse(`${text.slice(0, 16)}Z`), timeZone) : null
  const [fromMs, toMs] = [from === '' ? nowMs : clock(from), until === '' ? null : clock(until)]
  if (fromMs === null || (until !== '' && toMs === null))
    return problem('Times are written as 2026-11-30 22:00.')
  if (toMs !== null && toMs <= fromMs) return problem('It must end after it begins.')
  if (toMs !== null && toMs <= nowMs && repeats === '') return problem('That time is over already.')
  return { kind: 'span', fromMs, toMs }
}

function lasting({ length }: QuietTimeFields, nowMs: number): QuietSpan {
  if (length === '' || length === 'open') return { kind: 'span', fromMs: nowMs, toMs: null }
  try {
    return { kind: 'span', fromMs: nowMs, toMs: nowMs + parseSpan(length) }
  } catch (error) {
    if (!(error instanceof AmountError)) throw error
    return problem(error.message)
  }
}
