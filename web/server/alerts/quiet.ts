import { z } from 'zod'
import { isMeasureKey, measureOf } from '#core/catalogue'
import { isRepeats, type QuietScope, quietSpan, REPEATS } from '#core/alerts'
import { whereFromFields, type WhereFields, whereWords } from '#core/rules'
import { wallClock } from '#core/units'
import type { Db } from '#db/platform'
import { listQuietAlerts, listQuiets, type NewQuiet, type ListedAlert, findAlert } from '#db/alerts'
import { readSite } from '#db/platform'
import { latestReadings } from '#db/readings'
import { firstProblem } from '../platform/fields.ts'
import { Refused } from '../platform/refused.ts'
import { placeNames } from '../rules/rules.ts'

const MONTH_MS = 30 * 86_400_000

/** What is quiet now, what will be, and what was within a month. */
export async function loadQuiets(db: Db, nowMs: number) {
  const quiets = await listQuiets(db, nowMs, nowMs - MONTH_MS)
  const wheres = quiets.map(({ scope }) => scope.where)
  const [names, rows] = await Promise.all([placeNames(db, wheres), listQuietAlerts(db)])
  return quiets.map((quiet) => ({
    ...quiet,
    scopeWords: scopeInWords(quiet.scope, names),
    repeatWords:
      quiet.repeats === null
        ? null
        : isRepeats(quiet.repeats)
          ? REPEATS[quiet.repeats]
          : `by «${quiet.repeats}»`,
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

/**
 * A quiet out of its form: for a length from now, or from one time to another, which may repeat.
 * @throws Refused when something is missing, or cannot be
 */
export async function quietOf(
  db: Db,
  fields: Readonly<Record<string, string>>,
  who: string,
  nowMs: number,
): Promise<NewQuiet> {
  const parsed = form.safeParse(fields)
  if (!parsed.success) throw new Refused(firstProblem(parsed.error))
  const { whereKind, whereValue, measure, ruleKey, reason, repeats } = parsed.data
  const where = whereFromFields({ whereKind, whereValue })
  if (where === null) throw new Refused('Choose what is to be quiet.')
  const { timeZone } = await readSite(db)
  const span = quietSpan(parsed.data, nowMs, timeZone)
  if (span.kind === 'problem') throw new Refused(span.message)
  if (repeats !== '' && !isRepeats(repeats))
    throw new Refused(`«${repeats}» is no way for a quiet to come again. Choose one that the form offers.`)
  const scope = {
    where,
    measure: measure === '' ? null : measure,
    ruleKey: ruleKey === '' ? null : ruleKey,
  } as QuietScope
  const { fromMs, toMs } = span
  return { scope, reason, who, fromMs, toMs, repeats: repeats === '' ? null : repeats }
}

/** What the forms beside an alert ask: why, and for how long. */
export const quietWords = z.object({ reason: z.string().default(''), length: z.string().default('1 h') })
export const commentForm = z.object({
  text: z
    .string()
    .trim()
    .min(1, 'There is nothing to keep yet')
    .transform((text) => text.slice(0, 2000)),
})
export const acceptForm = z.object({
  reason: z.string().trim().min(3, 'Say why it is as it should be').max(400),
})

type About = Pick<ListedAlert, 'partId' | 'gearId'>

/** The least that covers an alert. */
export const narrowestOf = (alert: About): WhereFields =>
  alert.partId === null ? widestOf(alert) : { whereKind: 'part', whereValue: String(alert.partId) }

/** All of the gear that an alert is about. */
export const widestOf = ({ gearId }: About): WhereFields =>
  gearId === null
    ? { whereKind: 'everywhere', whereValue: '' }
    : { whereKind: 'gear', whereValue: String(gearId) }

/** The state that an alert of a state is about, as it is now; `null` of a level. */
export async function stateOfAlert(db: Db, id: number): Promise<number | null> {
  const alert = await findAlert(db, id)
  if (alert?.measure == null || alert.seriesId === null) return null
  if (!isMeasureKey(alert.measure) || measureOf(alert.measure).kind !== 'state') return null
  return (await latestReadings(db)).get(alert.seriesId)?.value ?? null
}

/** An instant as a form of date and time shows it, by the clocks of a zone. */
export const localTime = (atMs: number, timeZone: string): string =>
  new Date(wallClock(atMs, timeZone)).toISOString().slice(0, 16)
