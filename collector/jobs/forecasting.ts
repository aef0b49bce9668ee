import { setImmediate as breathe } from 'node:timers/promises'
import { formatReading, measureOf, type MeasureKey } from '#core/catalogue'
import {
  amountIn,
  dateOf,
  DAY_MS,
  describe,
  type Finite,
  finiteOf,
  type Fitted,
  fitHistory,
  type Forecast,
  type ForecastInput,
  forecastAge,
  forecastAll,
  forecastOf,
  HOUR_MS,
  leadDaysOf,
  lineOf,
  type Mark,
  type Proof,
  type RunOutLine,
} from '#core/forecast'
import { type KeptRule, rulesInForce } from '#core/rules'
import {
  daysOfHistory,
  dropForecastsBut,
  listLeadTimes,
  listMade,
  listMarks,
  type NewForecast,
  writeForecasts,
  writeProofs,
} from '#db/forecast'
import { listDriveSeries, ratedBytesByPart, type Stretch, stretchesOfMoved, writePaces } from '#db/disks'
import type { Db } from '#db/platform'
import { batteryLives } from '#db/power'
import { aggregate } from '#db/readings'
import { listRules, listSubjects, type SubjectRow } from '#db/rules'
import { fillBatteryPasts } from './batteryPast.ts'
import { fillClusterPasts } from './clusterPast.ts'
import type { Bounds, Job } from './job.ts'
import { fillStripPasts } from './stripPast.ts'

const PAST_DAYS = 400
const HORIZON_DAYS = 730
/** A forecast is made anew after so long, and sooner where its line, its past or what people said of it is another. */
const FRESH_MS = 20 * HOUR_MS
const TOGETHER = 40
const EVERY_DAYS = 7

/** Something finite, with the series that it is made from. */
interface Thing {
  readonly subject: SubjectRow
  readonly finite: Finite
  readonly line: RunOutLine
  readonly others: readonly RunOutLine[]
  readonly leadDays: number
  readonly amountId: number | null
  readonly capacityId: number | null
  readonly loadId: number | null
  readonly marks: readonly Mark[]
  /** Where its readings are, when not all of them are those of its series: a drive that came from elsewhere. */
  readonly stretches: readonly Stretch[] | null
  /** Days of its past, to within a month. */
  readonly days: number
}

/** Forecasts what is not forecast yet, or no longer as it should be. @returns how many of how many */
export async function makeForecasts(db: Db, { now, over }: Pick<Bounds, 'now' | 'over'>) {
  const [things, made] = [await listThings(db, now()), await listMade(db)]
  await dropForecastsBut(
    db,
    things.map(({ subject }) => subject.id),
  )
  const due = things.filter((thing) => {
    const last = made.get(thing.subject.id)
    if (last === undefined) return true
    const isOther =
      last.line !== thing.line.at || last.marks !== keyOf(thing.marks) || last.leadDays !== thing.leadDays
    return isOther || thing.days > 1.25 * last.days + 5 || now() - last.madeMs > FRESH_MS
  })
  let rows: NewForecast[] = []
  let done = 0
  for (const thing of due) {
    if (over.aborted) break
    rows.push(await forecastThing(db, thing, { nowMs: now(), before: made.get(thing.subject.id) }))
    done += 1
    if (rows.length === TOGETHER || done === due.length) {
      await writeForecasts(db, rows)
      rows = []
    }
    await breathe()
  }
  if (rows.length > 0) await writeForecasts(db, rows)
  // How right they have been is looked up once all are there: a forecast without it is better than none.
  const proven = done < FEW ? await proveSome(db, things, { now, over }) : 0
  return { made: done, proven, things: things.length }
}

/** With fewer new forecasts than this in a pass there is time for proofs. */
const FEW = 50
const PROVING_MS = 40_000

/** Holds past forecasts against what came, of things whose run-out is near; as many as there is time for in a pass. */
async function proveSome(
  db: Db,
  things: readonly Thing[],
  { now, over }: Pick<Bounds, 'now' | 'over'>,
): Promise<number> {
  const made = await listMade(db)
  const nowMs = now()
  const until = performance.now() + PROVING_MS
  let proven = 0
  for (const thing of things) {
    const last = made.get(thing.subject.id)
    if (last === undefined || over.aborted || performance.now() > until) continue
    const isNear =
      last.verdict === 'over' ||
      (last.verdict === 'crosses' && (last.runOutAt?.getTime() ?? Infinity) - nowMs < NEAR_MS)
    const provenToMs = newestProofMs(nowMs)
    if (!isNear || last.provenToMs === provenToMs || thing.finite.ages !== undefined) continue
    const past = await pastOf(db, thing, nowMs)
    const known = last.measure === past.measure ? last.proofs : []
    await writeProofs(db, thing.subject.id, { proofs: proofsOf(past, known, nowMs), provenToMs })
    proven += 1
    await breathe()
  }
  return proven
}

async function listThings(db: Db, nowMs: number): Promise<Thing[]> {
  const [all, rules, marks, days, rated, lives, moved, leadTimes] = await Promise.all([
    listSubjects(db, {}),
    listRules(db),
    listMarks(db),
    daysOfHistory(db, Math.floor(nowMs / DAY_MS)),
    ratedBytesByPart(db),
    batteryLives(db),
    stretchesOfMoved(db, ['hw.drive.life_left', 'hw.drive.written']),
    listLeadTimes(db),
  ])
  const placeOf = ({ gearId, partId, measure }: Pick<SubjectRow, 'gearId' | 'partId' | 'measure'>): string =>
    `${gearId} ${partId ?? ''} ${measure}`
  // One thing that several sources tell of is forecast once, from whoever has told of it the longest.
  const longest = new Map<string, SubjectRow>()
  for (const subject of all) {
    const known = longest.get(placeOf(subject))
    if (known === undefined || (days.get(subject.id) ?? 0) > (days.get(known.id) ?? 0))
      longest.set(placeOf(subject), subject)
  }
  const subjects = [...longest.values()]
  const byPlace = new Map(subjects.map((subject) => [placeOf(subject), subject.id]))
  /** By what was written a drive is judged where it has no word for its life. */
  const ratedOf = (subject: SubjectRow): number | null => {
    if (subject.partId === null) return null
    if (subject.measure === 'ups.battery.age') return lives.get(subject.partId) ?? null
    const hasWord = byPlace.has(placeOf({ ...subject, measure: 'hw.drive.life_left' }))
    return hasWord ? null : (rated.get(subject.partId) ?? null)
  }
  const beside = (subject: SubjectRow, measure: MeasureKey | undefined): number | null =>
    measure === undefined ? null : (byPlace.get(placeOf({ ...subject, measure })) ?? null)
  return subjects.flatMap((subject) => {
    const finite = finiteOf(subject, ratedOf(subject))
    const lines = finite === null ? null : lineOf(finite, levelsOf(rules, subject))
    if (finite === null || lines === null) return []
    const loadId =
      finite.load === undefined
        ? null
        : (byPlace.get(placeOf({ ...subject, partId: null, measure: finite.load })) ??
          beside(subject, finite.load))
    return [
      {
        subject,
        finite,
        line: lines.main,
        others: lines.others,
        leadDays: leadDaysOf(leadTimes, {
          topic: finite.topic,
          gearId: subject.gearId,
          tags: subject.tags,
          shipped: finite.leadDays,
        }),
        amountId: beside(subject, finite.of?.amount),
        capacityId: beside(subject, finite.of?.capacity),
        loadId,
        marks: latestMarks(marks.get(subject.id) ?? []),
        stretches: moved.get(subject.id) ?? null,
        days: days.get(subject.id) ?? 0,
      },
    ]
  })
}

/** Of several people's words on one jump the last ones count. */
function latestMarks(marks: readonly Mark[]): Mark[] {
  return [...new Map(marks.map(({ atMs, as }) => [atMs, { atMs, as }])).values()]
}

/** Tells whether people have said anything else since. */
const keyOf = (marks: readonly Mark[]): string => marks.map(({ atMs, as }) => `${atMs} ${as}`).join(', ')

const levelsOf = (rules: readonly KeptRule[], subject: SubjectRow) =>
  rulesInForce(rules, subject).flatMap(({ kept: { rule } }) =>
    rule.kind === 'level' && rule.of.with === null ? [{ direction: rule.direction, lines: rule.lines }] : [],
  )

/** The unit in which a thing is forecast: the amount where it is known, else the share. */
interface Past {
  readonly input: ForecastInput
  readonly measure: MeasureKey
  /** From the unit of the series to that of the forecast. */
  readonly scale: number
}

interface Before {
  readonly measure: MeasureKey
  readonly proofs: readonly Proof[]
  readonly provenToMs: number | null
}

async function forecastThing(
  db: Db,
  thing: Thing,
  { nowMs, before }: { readonly nowMs: number; readonly before: Before | undefined },
): Promise<NewForecast> {
  const { subject, finite, line, others } = thing
  const past = await pastOf(db, thing, nowMs)
  const { input, measure, scale } = past
  const { told, otherMs, sentence, ifGrowth } = foretell(
    thing,
    past,
    others.map((other) => other.at * scale),
  )
  const orderByMs =
    told.p50Ms === null || told.verdict === 'too-little' ? null : told.p50Ms - thing.leadDays * DAY_MS
  return {
    seriesId: subject.id,
    madeMs: nowMs,
    topic: finite.topic,
    verdict: told.verdict,
    runOutMs: told.p50Ms,
    orderByMs,
    body: {
      kind: finite.kind,
      measure,
      line: { at: input.line, words: lineWords(line, subject.measure) },
      given: line.at,
      direction: finite.direction,
      leadDays: thing.leadDays,
      earlyMs: told.p10Ms,
      lateMs: told.p90Ms,
      sentence,
      seen: told.seen.slice(0, 40),
      ahead: thinned(told),
      others: others.map((other, index) => ({
        line: { at: other.at * scale, words: lineWords(other, subject.measure) },
        atMs: otherMs[index]!,
      })),
      whatIf: told.verdict === 'crosses' ? ifGrowth() : [],
      proofs: before?.measure === measure ? before.proofs : [],
      provenToMs: before?.measure === measure ? before.provenToMs : null,
      days: thing.days,
      marks: keyOf(thing.marks),
    },
  }
}

/** What comes of a past: by a fit, or by the calendar where it only grows older. */
function foretell({ finite }: Thing, { input, measure }: Past, others: readonly number[]) {
  if (finite.ages !== undefined) {
    const { told, otherMs } = forecastAge(input, others, finite.ages)
    return { told, otherMs, sentence: told.sentence, ifGrowth: () => [] }
  }
  const fitted = fitHistory(input)
  const { told, otherMs } = forecastAll(fitted, input.line, others)
  const unit = amountIn(measureOf(measure).unit)
  return {
    told,
    otherMs,
    sentence:
      told.verdict === 'too-little'
        ? told.sentence
        : describe(fitted, told.seen, told.verdict, input.line, unit),
    ifGrowth: () => whatIf(fitted, input.line),
  }
}

/** “critical 85 %”; of what is used up its own word. */
const lineWords = ({ at, words }: RunOutLine, measure: MeasureKey): string =>
  words === 'critical' || words === 'warning' ? `${words} ${formatReading(measure, at)}` : words

const whatIf = (fitted: Fitted, line: number) =>
  [0.5, 2].map((growth) => ({ growth, atMs: dateOf(fitted, line, growth) }))

const rounded = (value: number): number => Number(value.toPrecision(6))

function thinned({ days }: Forecast) {
  const weekly = (values: Float64Array): number[] =>
    Array.from(
      values.filter((_, day) => day % EVERY_DAYS === 0),
      rounded,
    )
  return { everyDays: EVERY_DAYS, p10: weekly(days.p10), p50: weekly(days.p50), p90: weekly(days.p90) }
}

/** The hours of the past of a thing, the worst of each. */
async function pastOf(db: Db, thing: Thing, nowMs: number): Promise<Past> {
  const { subject, finite, line, amountId, capacityId, loadId, marks, stretches } = thing
  const span = {
    fromMs: Math.floor(nowMs / HOUR_MS - PAST_DAYS * 24) * HOUR_MS,
    toMs: Math.ceil(nowMs / HOUR_MS) * HOUR_MS,
    bucketMs: HOUR_MS,
  }
  const hoursOf = async (id: number) => (await aggregate(db, id, span)).buckets
  const isAmount = amountId !== null && capacityId !== null
  const buckets =
    stretches === null
      ? await hoursOf(isAmount ? amountId : subject.id)
      : (
          await Promise.all(stretches.map(async (each) => ({ each, hours: await hoursOf(each.seriesId) })))
        ).flatMap(({ each, hours }) =>
          hours.filter(({ fromMs }) => fromMs >= each.fromMs && fromMs < each.toMs),
        )
  const along = async (id: number | null) =>
    id === null
      ? null
      : new Map((await hoursOf(id)).map(({ fromMs, mean, last }) => [fromMs, { mean, last }]))
  const [capacity, load] = [await along(isAmount ? capacityId : null), await along(loadId)]
  const column = (by: Map<number, { mean: number; last: number }> | null, key: 'mean' | 'last') =>
    by === null ? undefined : Float64Array.from(buckets, ({ fromMs }) => by.get(fromMs)?.[key] ?? NaN)
  const capacities = column(capacity, 'last')
  const scale = capacities === undefined ? 1 : (capacities.findLast((each) => each > 0) ?? 1)
  const loads = column(load, 'mean')
  return {
    measure: isAmount ? finite.of!.amount : subject.measure,
    scale,
    input: {
      kind: finite.kind,
      atMs: Float64Array.from(buckets, ({ fromMs }) => Math.min(nowMs, fromMs + HOUR_MS / 2)),
      values: Float64Array.from(buckets, ({ max, min }) => (finite.direction === 'up' ? max : min)),
      ...(capacities === undefined ? {} : { capacity: capacities }),
      ...(loads === undefined ? {} : { load: loads.map((each) => each * 100) }),
      line: line.at * scale,
      direction: finite.direction,
      ...(finite.isCounter === true ? { isCounter: true } : {}),
      nowMs,
      horizonDays: HORIZON_DAYS,
      seed: subject.id,
      marks,
    },
  }
}

const PROOFS = 8
const PROOF_EVERY_DAYS = 15
const PROOF_AHEAD_DAYS = 30
/** Of what runs out later nobody asks yet how right it has been. */
const NEAR_MS = 150 * DAY_MS

/** The newest day that past forecasts were for, with the week around it over. */
const newestProofMs = (nowMs: number): number =>
  Math.floor((nowMs - 4 * DAY_MS) / (PROOF_EVERY_DAYS * DAY_MS)) * PROOF_EVERY_DAYS * DAY_MS

/**
 * Forecasts for thirty days ahead as they would have been made, and what came: the middle of the week around that day.
 * @param known those that were made before: what was said of a day does not change any more
 */
function proofsOf({ input, measure }: Past, known: readonly Proof[], nowMs: number): Proof[] {
  // What came under another load says nothing of what was said for that of its day.
  if (input.load !== undefined) return []
  const { unit, decimals } = measureOf(measure)
  // What is told by whole steps can be a step off.
  const room = unit === 'byte' ? 0 : 10 ** -decimals * (unit === 'ratio' ? 0.01 : 1)
  const first = input.atMs[0] ?? input.nowMs
  const every = PROOF_EVERY_DAYS * DAY_MS
  const last = newestProofMs(nowMs)
  const proofs: Proof[] = []
  for (let index = 0; index < PROOFS; index += 1) {
    const forMs = last - index * every
    const fromMs = forMs - PROOF_AHEAD_DAYS * DAY_MS
    if (fromMs - first < 40 * DAY_MS) break
    const kept = known.find((proof) => proof.forMs === forMs)
    if (kept !== undefined) {
      proofs.unshift(kept)
      continue
    }
    const told = forecastOf(
      fitHistory({ ...input, nowMs: fromMs, horizonDays: PROOF_AHEAD_DAYS + 1, marks: [] }),
      input.line,
    )
    const came = middleOfWeek(input, forMs)
    if (told.verdict === 'too-little' || came === null) continue
    const [low, high] = [told.days.p10[PROOF_AHEAD_DAYS]!, told.days.p90[PROOF_AHEAD_DAYS]!]
    proofs.unshift({ forMs, low: rounded(low - room), high: rounded(high + room), came: rounded(came) })
  }
  return proofs
}

function middleOfWeek({ atMs, values, direction }: ForecastInput, aroundMs: number): number | null {
  const worst = new Map<number, number>()
  const pick = direction === 'up' ? Math.max : Math.min
  atMs.forEach((at, index) => {
    const day = Math.round((at - aroundMs) / DAY_MS)
    if (Math.abs(day) <= 3) worst.set(day, pick(worst.get(day) ?? values[index]!, values[index]!))
  })
  const days = [...worst.values()].sort((a, b) => a - b)
  return days.length < 3 ? null : days[Math.floor(days.length / 2)]!
}

const PACE_DAYS = 30

/** How much is written to each drive a day, over the last weeks; a total that begins anew is counted from there. */
export async function measurePaces(db: Db, { now, over }: Pick<Bounds, 'now' | 'over'>) {
  const series = await listDriveSeries(db, { measures: ['hw.drive.written'] })
  const toMs = Math.ceil(now() / HOUR_MS) * HOUR_MS
  const paces = new Map<number, { partId: number; writtenDaily: number; days: number }>()
  for (const { id, partId } of series) {
    if (over.aborted) break
    const span = { fromMs: toMs - PACE_DAYS * DAY_MS, toMs, bucketMs: DAY_MS }
    const { buckets } = await aggregate(db, id, span)
    const [first, last] = [buckets[0], buckets.at(-1)]
    const days = first === undefined || last === undefined ? 0 : (last.fromMs - first.fromMs) / DAY_MS
    if (days < 1 || days <= (paces.get(partId)?.days ?? 0)) continue
    let written = 0
    buckets.forEach(({ last: value }, index) => {
      const before = buckets[index - 1]?.last
      if (before !== undefined) written += value >= before ? value - before : value
    })
    paces.set(partId, { partId, writtenDaily: written / days, days })
    await breathe()
  }
  await writePaces(db, [...paces.values()])
  return { drives: paces.size }
}

/** What looks ahead. */
export const FORECASTING: readonly Job[] = [
  {
    name: 'forecast',
    calendar: { at: '*/5 * * * *', fill: '1h' },
    words: 'what runs out is forecast',
    run: async ({ db, ...bounds }) => ({
      clusterDays: await fillClusterPasts(db, bounds),
      batteryDays: await fillBatteryPasts(db, bounds),
      stripDays: await fillStripPasts(db, bounds),
      ...(await makeForecasts(db, bounds)),
    }),
  },
  {
    name: 'drive-paces',
    calendar: { at: '*/10 * * * *', fill: '1h' },
    words: 'how much is written to each drive is measured',
    run: ({ db, ...bounds }) => measurePaces(db, bounds),
  },
]
