import { z } from 'zod'
import { isMeasureKey, measureOf } from '#core/catalogue'
import { mayDo, type Role } from '#core/accounts'
import { isRepeats, type QuietScope, quietSpan, type QuietTime, REPEATS, sparedWords } from '#core/alerts'
import { whereFromFields, type WhereFields, whereWords } from '#core/rules'
import { wallClock } from '#core/units'
import type { Db } from '#db/platform'
import {
  coversOf,
  findAlert,
  type ListedAlert,
  listQuietable,
  listQuietAlerts,
  listQuiets,
  type NewQuiet,
  quietReach,
  type QuietRow,
} from '#db/alerts'
import { readSite } from '#db/platform'
import { latestReadings } from '#db/readings'
import { firstProblem } from '../platform/fields.ts'
import type { Present } from '../platform/present.ts'
import { Refused } from '../platform/refused.ts'
import type { SignedIn } from '../platform/signedIn.ts'
import { placeNames } from '../rules/rules.ts'

const MONTH_MS = 30 * 86_400_000

/** What is quiet now, what will be, and what was within a month. */
export async function loadQuiets(db: Db, nowMs: number) {
  const quiets = await listQuiets(db, nowMs, { endedSinceMs: nowMs - MONTH_MS })
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
          : `by “${quiet.repeats}”`,
    alerts: rows.flatMap(({ quietId, id, title }) => (quietId === quiet.id ? [{ id, title }] : [])),
  }))
}

function scopeInWords(
  { where, measure, isOff }: QuietScope,
  names: Parameters<typeof whereWords>[1],
): string {
  const what = where.kind === 'everywhere' ? 'everything' : whereWords(where, names).replace(/^(of|in) /, '')
  if (isOff === true) return `${what}, expected off`
  return measure === null ? what : `${measureOf(measure).label.toLowerCase()} of ${what}`
}

/** What stands under a place in the form, so that nobody silences what they did not mean. */
export interface QuietPreview {
  /** How much gear falls silent, and the first of it. */
  readonly silent: number
  readonly names: readonly string[]
  /** What would stay loud, or was named to fall silent all the same. */
  readonly shared: readonly {
    readonly gearId: number
    readonly words: string
    readonly isNamed: boolean
  }[]
  /** What is open there now and would be told to nobody any more. */
  readonly open: readonly {
    readonly id: number
    readonly title: string
    readonly severity: 'critical' | 'warning'
  }[]
  readonly openCount: number
  readonly criticalCount: number
  readonly isEverything: boolean
}

const MOST_NAMES = 12
const MOST_OPEN = 6

/** What would fall silent by a scope, what would not, and what is open there; `null` while none is chosen. */
export async function previewQuiet(present: Present, params: URLSearchParams): Promise<QuietPreview | null> {
  const { db, nowMs } = present
  if (!params.has('whereKind')) return null
  const where = whereFromFields({
    whereKind: params.get('whereKind') ?? '',
    whereValue: params.get('whereValue') ?? '',
  })
  if (where === null) return null
  const measure = params.get('measure') ?? ''
  const scope: QuietScope = {
    where,
    measure: isMeasureKey(measure) ? measure : null,
    ruleKey: null,
    named: namedIn(params.getAll('named')),
    ...(params.get('isOff') === 'yes' ? { isOff: true as const, measure: null } : {}),
  }
  const scopes = await present.scopes()
  const [reach, quietable] = await Promise.all([quietReach(db, scopes), listQuietable(db)])
  const { silent, spared, named } = reach(scope)
  const asKept = { ...NO_QUIET, scope, createdAtMs: nowMs, first: { fromMs: nowMs, toMs: null } }
  const covers = await coversOf(db, [asKept], quietable)
  const open = quietable.filter(({ id, quietId }) => quietId === null && covers.has(id))
  const criticalFirst = open.toSorted((a, b) => a.severity.localeCompare(b.severity))
  return {
    silent: silent.size,
    names: [...silent].slice(0, MOST_NAMES).flatMap((id) => scopes.get(id)?.gearName ?? []),
    shared: [
      ...spared.map((each) => ({ gearId: each.gearId, words: sparedWords(each), isNamed: false })),
      ...named.map((each) => ({ gearId: each.gearId, words: sparedWords(each), isNamed: true })),
    ],
    open: criticalFirst.slice(0, MOST_OPEN).map(({ id, title, severity }) => ({ id, title, severity })),
    openCount: open.length,
    criticalCount: open.filter(({ severity }) => severity === 'critical').length,
    isEverything: where.kind === 'everywhere',
  }
}

/** A quiet that holds and is not kept. */
const NO_QUIET: Omit<QuietRow, 'scope' | 'createdAtMs' | 'first'> = {
  id: 0,
  what: 'quiet',
  reason: '',
  who: '',
  repeats: null,
  accepted: null,
  time: null,
  isBroken: false,
  holds: true,
  isAnnounced: false,
  endedAtMs: null,
  endedBy: null,
  endedWhy: null,
}

const MOST_NAMED = 200
export const namedIn = (values: readonly unknown[]): number[] =>
  values
    .map(Number)
    .filter((id) => Number.isInteger(id) && id > 0 && id < 1e9)
    .slice(0, MOST_NAMED)

/**
 * Which quiets hold over a gear or over something of it, and what is accepted there, in words.
 * @param quietIds of its open alerts that are quiet
 */
export async function quietsOver(
  present: Present,
  gearId: number,
  { partIds, quietIds }: { readonly partIds: readonly number[]; readonly quietIds: readonly number[] },
) {
  const { db } = present
  const holding = (await present.quiets()).filter(({ holds }) => holds)
  if (holding.length === 0) return []
  // Who falls silent with a place is known from all gear; of what was accepted, and of parts, that is not asked.
  const isOver = new Map<number, boolean | null>(
    holding.map(({ id, what, scope }) => [
      id,
      quietIds.includes(id) ||
        (what !== 'quiet' ? false : scope.where.kind === 'part' ? partIds.includes(scope.where.id) : null),
    ]),
  )
  const reach = [...isOver.values()].includes(null) ? await quietReach(db, await present.scopes()) : null
  const over = holding.filter(({ id, scope }) => isOver.get(id) ?? reach?.(scope).silent.has(gearId))
  const names = await placeNames(
    db,
    over.map(({ scope }) => scope.where),
  )
  return over.map(({ id, what, scope, reason, who, time }) => ({
    id,
    what: scope.isOff === true ? ('off' as const) : what,
    scopeWords: scopeInWords(scope, names),
    reason,
    who,
    untilMs: time?.toMs ?? null,
  }))
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
  sure: z.string().default(''),
  isOff: z.string().default(''),
})

/** *Everything* is quiet for so long at most: somebody who forgets it has not turned the alarm off for good. */
const EVERYTHING_MS = 4 * 3_600_000

/**
 * A quiet out of its form: for a length from now, or from one time to another, which may repeat.
 * @throws Refused when something is missing, or cannot be
 */
export async function quietOf(
  db: Db,
  fields: Readonly<Record<string, string>>,
  { name: who, role }: Pick<SignedIn, 'name' | 'role'>,
  nowMs: number,
  named: readonly number[] = [],
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
    throw new Refused(`“${repeats}” is no way for a quiet to come again. Choose one that the form offers.`)
  const scope = {
    where,
    measure: measure === '' ? null : measure,
    ruleKey: ruleKey === '' ? null : ruleKey,
    ...(named.length === 0 ? {} : { named }),
    ...(parsed.data.isOff === 'yes' ? { isOff: true, measure: null } : {}),
  } as QuietScope
  const { fromMs, toMs } = span
  if (where.kind === 'everywhere' && ruleKey === '') {
    const problem = everythingProblem(role, { fromMs, toMs }, repeats, parsed.data.sure)
    if (problem !== null) throw new Refused(problem)
  }
  return { scope, reason, who, fromMs, toMs, repeats: repeats === '' ? null : repeats }
}

/** Why everything is not quieted so; `null` when it may be. */
function everythingProblem(
  role: Role,
  { fromMs, toMs }: QuietTime,
  repeats: string,
  sure: string,
): string | null {
  if (!mayDo(role, 'administer'))
    return 'Everything at once is quieted by an administrator only. Choose a room, a rack or gear.'
  if (repeats !== '')
    return 'Everything at once cannot be quiet again and again. Choose a room, a rack or gear.'
  if (toMs === null || toMs - fromMs > EVERYTHING_MS)
    return 'Everything at once is quiet for four hours at most. Say until when.'
  return sure === 'yes'
    ? null
    : 'Nobody would be told of anything in that time. Tick that you mean it, and quiet it again.'
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
