import type { Curve } from '#core/readings'
import {
  companionOf,
  countAsLevel,
  countedCurve,
  type CountRule,
  gapsOf,
  type KeptRule,
  mergedTimes,
  type NoDataRule,
  lineOf,
  LineSearch,
  type RehearsalRequest,
  type RehearsalResult,
  rehearseSeries,
  ruleCovers,
  rulesInForce,
  rulesInForceFor,
  type SeriesRule,
  type SilentRule,
  type Stretch,
  summarise,
} from '#core/rules'
import { type Db, readSite } from '#db/platform'
import { percentiles, readSpans } from '#db/readings'
import { listRules, findBeside, listSubjects, type SubjectRow } from '#db/rules'
import { listSources } from '#db/sources'

const MINUTE_MS = 60_000
const DAY_MS = 86_400_000
const WEEK_MS = 7 * DAY_MS
/** Series that are fetched together. */
const TOGETHER = 25
const MOST_SUBJECTS = 200
const MOST_STRETCHES = 500
const POINTS = 128

export class Cancelled extends Error {}

/**
 * Runs a rule over what is stored of every series on which it would be in force.
 * @param tell is told how far it is, 0..1; says false once it is to stop
 * @throws Cancelled
 */
export async function rehearse(
  db: Db,
  { rule, insteadOf, days, wished }: RehearsalRequest,
  nowMs: number,
  tell: (done: number) => Promise<boolean>,
): Promise<RehearsalResult> {
  const startedMs = performance.now()
  const [kept, all, site] = await Promise.all([listRules(db), listSubjects(db, {}), readSite(db)])
  const candidate: KeptRule = {
    id: insteadOf ?? Number.MAX_SAFE_INTEGER,
    rule,
    isDefault: false,
    isOn: true,
  }
  const rules = [...kept.filter(({ id }) => id !== insteadOf), candidate]
  const fromMs = nowMs - days * DAY_MS
  const given = { db, all, rules, candidate, fromMs, nowMs, tell }
  const ran =
    rule.kind === 'count'
      ? await overCounts(rule, given)
      : rule.kind === 'silent' || rule.kind === 'noData'
        ? await overGaps(rule, given)
        : await overSeries(rule, given)
  const { found, covered, readings, firstMs, search } = ran
  const weeks = Math.max(nowMs - (firstMs ?? fromMs), DAY_MS) / WEEK_MS
  return {
    ...summarise(
      found.flatMap((each) => each.stretches),
      nowMs,
      hourIn(site.timeZone),
    ),
    fromMs,
    toMs: nowMs,
    series: covered.length,
    readings,
    firstMs,
    ...byNumber(found, nowMs),
    lines: linesOf(rule, search, wished === null ? null : Math.floor(wished * weeks)),
    tookMs: Math.round(performance.now() - startedMs),
  }
}

/** The hour of the day of an instant, 0..23. */
function hourIn(timeZone: string): (atMs: number) => number {
  const hour = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', hourCycle: 'h23', timeZone })
  return (atMs) => Number(hour.format(atMs))
}

/** What would have raised, the most first, and when, the newest first. */
function byNumber(
  found: Ran['found'],
  nowMs: number,
): Pick<RehearsalResult, 'silent' | 'subjects' | 'stretches'> {
  const raised = found.filter((each) => each.stretches.length > 0)
  const subjects = raised.map(({ subject, stretches }) => ({
    seriesId: subject.id,
    gearId: subject.gearId,
    name: subject.partName === null ? subject.gearName : `${subject.partName} in ${subject.gearName}`,
    alerts: stretches.length,
    critical: stretches.filter(({ severity }) => severity === 'critical').length,
    longestMs: Math.max(...stretches.map(({ fromMs, toMs }) => (toMs ?? nowMs) - fromMs)),
    heldMs: stretches.reduce((sum, { fromMs, toMs }) => sum + (toMs ?? nowMs) - fromMs, 0),
  }))
  const stretches = raised.flatMap(({ subject, stretches: own }) =>
    own.map((each) => ({ ...each, seriesId: subject.id })),
  )
  return {
    silent: found.length - raised.length,
    subjects: subjects
      .sort((a, b) => b.alerts - a.alerts || b.longestMs - a.longestMs)
      .slice(0, MOST_SUBJECTS),
    stretches: stretches.sort((a, b) => b.fromMs - a.fromMs).slice(0, MOST_STRETCHES),
  }
}

/** @param most how many alerts are wished at most; `null` when nobody has said */
function linesOf(
  rule: RehearsalRequest['rule'],
  search: LineSearch | null,
  most: number | null,
): RehearsalResult['lines'] {
  if (search === null || rule.kind !== 'level') return null
  return {
    severity: lineOf(rule, 'warning') === null ? 'critical' : 'warning',
    counts: search.counts().filter((_, index, counts) => index % Math.ceil(counts.length / POINTS) === 0),
    proposed: most === null ? null : search.propose(most),
  }
}

interface Given {
  readonly db: Db
  readonly all: readonly SubjectRow[]
  readonly rules: readonly KeptRule[]
  readonly candidate: KeptRule
  readonly fromMs: number
  readonly nowMs: number
  readonly tell: (done: number) => Promise<boolean>
}

interface Ran {
  readonly found: readonly { readonly subject: SubjectRow; readonly stretches: readonly Stretch[] }[]
  readonly covered: readonly SubjectRow[]
  readonly readings: number
  readonly firstMs: number | null
  readonly search: LineSearch | null
}

const coveredBy = ({ all, rules, candidate }: Given): SubjectRow[] =>
  all.filter((subject) => rulesInForce(rules, subject).some((each) => each.kept === candidate))

/** Fetches series some at a time, the next while these are worked on. @throws Cancelled */
async function eachSpan(
  { db, fromMs, nowMs, tell }: Given,
  groups: readonly (readonly number[])[],
  take: (index: number, curves: Awaited<ReturnType<typeof readSpans>>) => void,
): Promise<void> {
  const fetch = (index: number) => {
    const coming = readSpans(db, [...new Set(groups[index] ?? [])], fromMs, nowMs)
    coming.catch(() => undefined)
    return coming
  }
  let coming = fetch(0)
  for (let index = 0; index < groups.length; index += 1) {
    const curves = await coming
    coming = fetch(index + 1)
    take(index, curves)
    if (!(await tell((index + 1) / groups.length))) throw new Cancelled()
  }
}

const together = <Item>(items: readonly Item[]): Item[][] =>
  Array.from({ length: Math.ceil(items.length / TOGETHER) }, (_, index) =>
    items.slice(index * TOGETHER, (index + 1) * TOGETHER),
  )

const earlier = (firstMs: number | null, curve: Curve): number | null => {
  const first = curve.times[0]
  return first === undefined ? firstMs : Math.min(first, firstMs ?? Infinity)
}

async function overSeries(rule: SeriesRule, given: Given): Promise<Ran> {
  const covered = coveredBy(given)
  const companion = companionOf(rule)
  const besideOf = new Map(
    companion === null
      ? []
      : covered.map((subject) => [subject.id, findBeside(given.all, subject, companion)]),
  )
  const search = await lineSearch(given.db, rule, covered, given.fromMs, given.nowMs)
  const found: { subject: SubjectRow; stretches: readonly Stretch[] }[] = []
  let readings = 0
  let firstMs: number | null = null
  const groups = together(covered)
  const ids = groups.map((group) => group.flatMap(({ id }) => [id, besideOf.get(id) ?? id]))
  await eachSpan(given, ids, (index, curves) => {
    for (const subject of groups[index]!) {
      const curve = curves.get(subject.id)!
      const beside = besideOf.get(subject.id)
      found.push({
        subject,
        stretches: rehearseSeries(rule, curve, beside == null ? undefined : curves.get(beside)),
      })
      search?.add(curve)
      readings += curve.times.length
      firstMs = earlier(firstMs, curve)
    }
  })
  return { found, covered, readings, firstMs, search }
}

/** For how long a member of a count stands for itself after its last reading. */
const FRESH_MS = 10 * 60_000

/** All members are looked at together, and what they raise stands under the first of them. */
async function overCounts(rule: CountRule, given: Given): Promise<Ran> {
  const covered = given.all.filter((subject) => ruleCovers(rule, subject))
  const curves: Curve[] = []
  const groups = together(covered)
  await eachSpan(
    given,
    groups.map((group) => group.map(({ id }) => id)),
    (index, spans) => curves.push(...groups[index]!.map(({ id }) => spans.get(id)!)),
  )
  const { fromMs, nowMs: toMs } = given
  const firstMs = curves.reduce(earlier, null)
  const counted = countedCurve(
    rule,
    curves.map((curve) => ({ curve, freshMs: FRESH_MS })),
    { fromMs: Math.max(fromMs, firstMs ?? toMs), toMs, stepMs: MINUTE_MS },
  )
  const stretches = rehearseSeries(countAsLevel(rule), counted)
  return {
    found: covered
      .slice(0, 1)
      .map((first) => ({ subject: { ...first, gearName: rule.name, partName: null }, stretches })),
    covered,
    readings: curves.reduce((sum, { times }) => sum + times.length, 0),
    firstMs,
    search: null,
  }
}

/** So many series of a source show when it was heard. */
const WITNESSES = 4

/** Series that are missing while their source is heard; or sources that are not heard, each under its first series. */
async function overGaps(rule: SilentRule | NoDataRule, given: Given): Promise<Ran> {
  const covered = coveredByGaps(rule, given)
  const witnesses = witnessesOf(given.all)
  const sourceOf = new Map((await listSources(given.db)).map((source) => [source.id, source]))
  const found: { subject: SubjectRow; stretches: readonly Stretch[] }[] = []
  let readings = 0
  let firstMs: number | null = null
  const groups = together(covered)
  await eachSpan(
    given,
    groups.map((group) => group.flatMap(({ id, sourceId }) => [id, ...witnesses(sourceId)])),
    (index, curves) => {
      for (const subject of groups[index]!) {
        const own = curves.get(subject.id)!
        const heard = mergedTimes([own, ...witnesses(subject.sourceId).flatMap((id) => curves.get(id) ?? [])])
        found.push(gapsAt(rule, subject, sourceOf.get(subject.sourceId), { own, heard, toMs: given.nowMs }))
        readings += own.times.length
        firstMs = earlier(firstMs, own)
      }
    },
  )
  return { found, covered, readings, firstMs, search: null }
}

function coveredByGaps(rule: SilentRule | NoDataRule, given: Given): SubjectRow[] {
  if (rule.kind === 'silent') return coveredBy(given)
  const { all, rules, candidate } = given
  return firstOfEach(
    all.filter((subject) => rulesInForceFor(rules, subject).some((each) => each.kept === candidate)),
  )
}

/** The series by which it is seen when a source was heard. */
function witnessesOf(all: readonly SubjectRow[]): (sourceId: number) => number[] {
  const bySource = new Map<number, number[]>()
  for (const { sourceId, id } of all) {
    const known = bySource.get(sourceId) ?? []
    if (known.length < WITNESSES) bySource.set(sourceId, [...known, id])
  }
  return (sourceId) => bySource.get(sourceId) ?? []
}

function gapsAt(
  rule: SilentRule | NoDataRule,
  subject: SubjectRow,
  source: { readonly name: string; readonly intervalSeconds: number } | undefined,
  { own, heard, toMs }: { readonly own: Curve; readonly heard: Float64Array; readonly toMs: number },
): Ran['found'][number] {
  const { severity } = rule
  if (rule.kind === 'silent')
    return { subject, stretches: gapsOf(own.times, heard, { afterMs: rule.afterMs, toMs, severity }) }
  const afterMs = rule.intervals * (source?.intervalSeconds ?? 60) * 1000
  return {
    subject: { ...subject, gearName: source?.name ?? subject.gearName, partName: null },
    stretches: gapsOf(heard, null, { afterMs, toMs, severity }),
  }
}

function firstOfEach(subjects: readonly SubjectRow[]): SubjectRow[] {
  const first = new Map<number, SubjectRow>()
  for (const subject of subjects) if (!first.has(subject.sourceId)) first.set(subject.sourceId, subject)
  return [...first.values()]
}

/** Between which values a line is looked for: nearly all of what is stored. */
async function lineSearch(
  db: Db,
  rule: RehearsalRequest['rule'],
  covered: readonly SubjectRow[],
  fromMs: number,
  toMs: number,
): Promise<LineSearch | null> {
  if (rule.kind !== 'level' || rule.of.with !== null || covered.length === 0) return null
  const { bySeries } = await percentiles(
    db,
    covered.map(({ id }) => id),
    { fromMs, toMs, ratios: [0, 1], exact: false },
  )
  const ends = [...bySeries.values()].flatMap((each) => each.filter((value) => value !== null))
  const lines = rule.lines.map(({ at }) => at)
  if (ends.length === 0) return null
  const [low, high] = [Math.min(...ends, ...lines), Math.max(...ends, ...lines)]
  // Summaries know the ends to 2 %.
  const room = Math.max((high - low) * 0.02, Math.max(Math.abs(low), Math.abs(high)) * 0.03, 1e-6)
  return new LineSearch(rule, low - room, high + room)
}
