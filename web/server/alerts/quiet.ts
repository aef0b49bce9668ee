import { z } from 'zod'
import { measureOf } from '#core/catalogue'
import type { QuietScope } from '#core/alerts'
import type { Where } from '#core/rules'
import { AmountError, instantOf, parseSpan, wallClock } from '#core/units'
import type { Db } from '#db/platform'
import { listQuietAlerts, listQuiets, type NewQuiet, problemOfRepeating, repeatingWords } from '#db/alerts'
import { readSite } from '#db/platform'
import { placeNames, whereWords } from '../rules/rules.ts'

const MONTH_MS = 30 * 86_400_000

/** What is quiet now, what will be, and what was within a month. */
export async function loadQuiets(db: Db, nowMs: number) {
  const quiets = await listQuiets(db, nowMs, nowMs - MONTH_MS)
  const partIds = quiets.flatMap(({ scope: { where } }) => (where.kind === 'part' ? [where.id] : []))
  const [names, rows] = await Promise.all([placeNames(db, undefined, partIds), listQuietAlerts(db)])
  return quiets.map((quiet) => ({
    ...quiet,
    scopeWords: scopeInWords(quiet.scope, names),
    repeatWords: quiet.repeats === null ? null : repeatingWords(quiet.repeats),
    alerts: rows.flatMap(({ quietId, id, title }) => (quietId === quiet.id ? [{ id, title }] : [])),
  }))
}

function scopeInWords({ where, measure }: QuietScope, names: Parameters<typeof whereWords>[1]): string {
  const what = where.kind === 'everywhere' ? 'everything' : whereWords(where, names).replace(/^of /, '')
  return measure === null ? what : `${measureOf(measure).label.toLowerCase()} of ${what}`
}

const form = z.object({
  whereKind: z.string(),
  whereValue: z.string().trim().default(''),
  measure: z.string().default(''),
  ruleKey: z.string().default(''),
  reason: z.string().trim().min(3, 'Say why, so that others know.').max(400),
  length: z.string().trim().default(''),
  from: z.string().trim().default(''),
  until: z.string().trim().default(''),
  repeats: z.string().trim().max(200).default(''),
})

export type ParsedQuiet =
  | { readonly kind: 'quiet'; readonly quiet: NewQuiet }
  | { readonly kind: 'refused'; readonly message: string }

/** A quiet out of its form: for a length from now, or from one time to another, which may repeat. */
export async function parseQuiet(
  db: Db,
  fields: Record<string, string>,
  who: string,
  nowMs: number,
): Promise<ParsedQuiet> {
  const parsed = form.safeParse(fields)
  const refused = (message: string): ParsedQuiet => ({ kind: 'refused', message })
  if (!parsed.success) return refused(parsed.error.issues[0]?.message ?? 'Something is missing.')
  const { whereKind, whereValue, measure, ruleKey, reason, length, from, until, repeats } = parsed.data
  const where = whereOf(whereKind, whereValue)
  if (where === null) return refused('Choose what is to be quiet.')
  const scope = {
    where,
    measure: measure === '' ? null : measure,
    ruleKey: ruleKey === '' ? null : ruleKey,
  } as QuietScope
  const { timeZone } = await readSite(db)
  const clock = (text: string): number | null =>
    /^\d{4}-\d\d-\d\dT\d\d:\d\d/.test(text) ? instantOf(Date.parse(`${text.slice(0, 16)}Z`), timeZone) : null
  let fromMs = nowMs
  let toMs: number | null = null
  if (from !== '' || until !== '') {
    const [start, end] = [from === '' ? nowMs : clock(from), until === '' ? null : clock(until)]
    if (start === null || (until !== '' && end === null))
      return refused('Times are written as 2026-11-30 22:00.')
    if (end !== null && end <= start) return refused('It must end after it begins.')
    if (end !== null && end <= nowMs && repeats === '') return refused('That time is over already.')
    ;[fromMs, toMs] = [start, end]
  } else if (length !== '' && length !== 'open') {
    try {
      toMs = nowMs + parseSpan(length)
    } catch (error) {
      if (!(error instanceof AmountError)) throw error
      return refused(error.message)
    }
  }
  if (repeats !== '') {
    const problem = problemOfRepeating(repeats)
    if (problem !== null) return refused(problem)
    if (toMs === null) return refused('What repeats needs an end of each time.')
  }
  return {
    kind: 'quiet',
    quiet: { scope, reason, who, fromMs, toMs, repeats: repeats === '' ? null : repeats },
  }
}

function whereOf(kind: string, value: string): Where | null {
  if (kind === 'everywhere') return { kind }
  if (value === '') return null
  switch (kind) {
    case 'tag':
      return { kind, tag: value }
    case 'cluster':
      return { kind, name: value }
    case 'room':
    case 'rack':
    case 'group':
    case 'gear':
    case 'part':
      return /^\d+$/.test(value) ? { kind, id: Number(value) } : null
    default:
      return null
  }
}

/** An instant as a form of date and time shows it, by the clocks of a zone. */
export const localTime = (atMs: number, timeZone: string): string =>
  new Date(wallClock(atMs, timeZone)).toISOString().slice(0, 16)
