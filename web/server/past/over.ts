import { isMeasureKey, isSensorRole, measureOf } from '#core/catalogue'
import {
  farness,
  togetherByGear,
  isOver,
  isPicked,
  longestBeyond,
  OVER_BY,
  type OverBy,
  type OverQuestion,
  type OverRow,
  overSentence,
  pickOf,
  type Pick,
  PICK_SCOPES,
  questionOf,
  READY,
} from '#core/past'
import { HOUR_MS, rasterOf } from '#core/readings'
import { AmountError, parseAmount, parseSpan } from '#core/units'
import type { Db } from '#db/platform'
import { percentiles, rasters } from '#db/readings'
import { listSubjects, type SubjectRow } from '#db/rules'
import type { Present } from '../platform/present.ts'
import { windowIn } from '../readings/window.ts'
import { nameOf } from './combined.ts'

/** So many series are looked through at once. */
const MOST_SERIES = 6000
/** Up to so many series, every reading is looked at. */
const EXACT_SERIES = 100
const TINY = 60

export interface OverFound extends OverRow {
  readonly seriesId: number
  readonly gearId: number
  readonly gear: string
  readonly part: string | null
  readonly name: string
  /** Means of equal parts of the span; `null` where it was not heard. */
  readonly tiny: readonly (number | null)[]
}

/** The question of an address; what of it cannot be read is a problem, and the usual stands for it. */
export function questionIn(url: URL): { question: OverQuestion; problems: string[] } {
  const asked = url.searchParams
  const problems: string[] = []
  const measure = asked.get('m') ?? ''
  const ready =
    READY.find((each) => each.measure === measure && (each.role ?? '') === (asked.get('role') ?? '')) ??
    READY[0]!
  const usual = questionOf(ready)
  if (measure !== '' && !isMeasureKey(measure))
    problems.push(`“${measure.slice(0, 60)}” is no measure; ${measureOf(usual.measure).label} is shown.`)
  const known = isMeasureKey(measure) ? measure : usual.measure
  const role = asked.get('role') ?? ''
  const read = <T>(name: string, make: (text: string) => T, otherwise: T): T => {
    const text = asked.get(name) ?? ''
    if (text === '') return otherwise
    try {
      return make(text)
    } catch (error) {
      if (!(error instanceof AmountError)) throw error
      problems.push(error.message)
      return otherwise
    }
  }
  const by = asked.get('by') ?? ''
  return {
    problems,
    question: {
      measure: known,
      role: isSensorRole(role) ? role : null,
      at: read(
        'at',
        (text) => parseAmount(text, measureOf(known).unit),
        known === usual.measure ? usual.at : 0,
      ),
      direction:
        asked.get('dir') === 'below' ? 'below' : asked.get('dir') === 'above' ? 'above' : usual.direction,
      by: Object.hasOwn(OVER_BY, by) ? (by as OverBy) : usual.by,
      share: read('share', (text) => Math.min(1, Math.max(0, parseAmount(text, 'ratio'))), usual.share),
      stretchMs: read('stretch', (text) => parseSpan(text), usual.stretchMs),
    },
  }
}

function placeIn(url: URL, { measure, role }: OverQuestion): Pick {
  const scope = url.searchParams.get('whereKind') ?? 'everywhere'
  const value = url.searchParams.get('whereValue') ?? ''
  const known = PICK_SCOPES.find((each) => each === scope) ?? 'everywhere'
  return { ...pickOf(measure, value === '' ? 'everywhere' : known, value), role }
}

export async function loadOver(present: Present, url: URL) {
  const { question, problems } = questionIn(url)
  const window = windowIn(url, present.nowMs)
  const scopes = await present.scopes()
  const pick = placeIn(url, question)
  const all = (await listSubjects(present.db, { measures: [question.measure] }, scopes)).filter((subject) =>
    isPicked(pick, subject),
  )
  const subjects = all.slice(0, MOST_SERIES)
  if (all.length > subjects.length)
    problems.push(
      `${all.length} series are asked for; the first ${MOST_SERIES} are looked at. Name a room, a cluster or a tag.`,
    )
  const over = (await foundOf(present, subjects, question, window)).sort(
    (a, b) => farness(question, b) - farness(question, a),
  )
  return {
    window,
    question,
    rows: togetherByGear(over),
    of: subjects.length,
    exact: subjects.length <= EXACT_SERIES,
    problems,
    sentence: overSentence(
      question,
      over.map(({ name }) => name),
      subjects.length,
    ),
  }
}

interface Spread {
  readonly p95: number | null
  readonly p99: number | null
  readonly beyond: number | null
}
type Course = Omit<OverFound, 'seriesId' | 'gearId' | 'gear' | 'part' | 'name' | 'p95' | 'p99' | 'beyond'>

const UNSPREAD: Spread = { p95: null, p99: null, beyond: null }
const UNHEARD: Course = { min: null, mean: null, max: null, longestMs: null, tiny: [] }

/**
 * What is over the line, and what it was over the span: means and ends from hours, percentiles from sketches, or from every
 * reading of a few. What the question is told by is read of all, the rest only of what was found.
 */
async function foundOf(
  { db }: Present,
  subjects: readonly SubjectRow[],
  question: OverQuestion,
  window: { readonly fromMs: number; readonly toMs: number },
): Promise<OverFound[]> {
  const exact = subjects.length <= EXACT_SERIES
  const idsOf = (some: readonly SubjectRow[]): number[] => some.map(({ id }) => id)
  const spreads = (some: readonly SubjectRow[]) => spreadsOf(db, idsOf(some), { ...window, question, exact })
  const courses = (some: readonly SubjectRow[]) => coursesOf(db, idsOf(some), { ...window, question })
  const isTold = (spread: Spread, course: Course): boolean => isOver(question, { ...spread, ...course })
  const bySpread = question.by === 'p95' || question.by === 'share'
  const [firstSpreads, firstCourses] = bySpread
    ? [await spreads(subjects), null]
    : [null, await courses(subjects)]
  const over = subjects.filter(({ id }) =>
    isTold(firstSpreads?.get(id) ?? UNSPREAD, firstCourses?.get(id) ?? UNHEARD),
  )
  const [spread, course] = [firstSpreads ?? (await spreads(over)), firstCourses ?? (await courses(over))]
  return over.map((subject) => ({
    seriesId: subject.id,
    gearId: subject.gearId,
    gear: subject.gearName,
    part: subject.partName,
    name: nameOf(subject),
    ...(spread.get(subject.id) ?? UNSPREAD),
    ...(course.get(subject.id) ?? UNHEARD),
  }))
}

interface Asked {
  readonly fromMs: number
  readonly toMs: number
  readonly question: OverQuestion
}

async function spreadsOf(
  db: Db,
  ids: readonly number[],
  { question: { at, direction }, exact, ...window }: Asked & { readonly exact: boolean },
): Promise<Map<number, Spread>> {
  const { bySeries, beyond } = await percentiles(db, ids, {
    ...window,
    ratios: [0.95, 0.99],
    exact,
    line: { at, direction },
  })
  return new Map(
    ids.map((id) => {
      const [p95 = null, p99 = null] = bySeries.get(id) ?? []
      return [id, { p95, p99, beyond: beyond.get(id) ?? null }]
    }),
  )
}

async function coursesOf(
  db: Db,
  ids: readonly number[],
  { question, ...window }: Asked,
): Promise<Map<number, Course>> {
  const span = window.toMs - window.fromMs
  const raster = rasterOf(window, Math.ceil(span / HOUR_MS) + 2, span > 48 * HOUR_MS ? HOUR_MS : 0)
  const { rows, summaries } = await rasters(db, ids, raster)
  return new Map(
    ids.flatMap((id): [number, Course][] => {
      const [summary, row] = [summaries.get(id), rows.get(id)]
      if (summary === undefined || row === undefined) return []
      const { min, mean, max } = summary
      return [
        [
          id,
          {
            min,
            mean,
            max,
            longestMs: longestBeyond(row.mean, raster.stepMs, question),
            tiny: tinyOf(row.mean),
          },
        ],
      ]
    }),
  )
}

/** So many parts of a course, the mean of each. */
function tinyOf(values: Float64Array): (number | null)[] {
  const parts = Math.min(TINY, values.length)
  return Array.from({ length: parts }, (_, part) => {
    let [count, sum] = [0, 0]
    const end = Math.floor(((part + 1) * values.length) / parts)
    for (let index = Math.floor((part * values.length) / parts); index < end; index += 1) {
      if (Number.isNaN(values[index]!)) continue
      count += 1
      sum += values[index]!
    }
    return count === 0 ? null : Number((sum / count).toPrecision(4))
  })
}
