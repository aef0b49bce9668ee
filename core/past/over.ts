import { formatReading, type MeasureKey, type SensorRole } from '../catalogue/index.ts'
import { formatElapsed, formatNumber } from '../units/index.ts'
import { measureWords } from './pick.ts'
import { isBeyondLine, type LineAcross } from './statistics.ts'

/** By what it is told whether something was beyond a line. */
export const OVER_BY = {
  p95: '95th percentile',
  mean: 'mean',
  share: 'share of time',
  longest: 'longest stretch',
} as const
export type OverBy = keyof typeof OVER_BY

export interface OverQuestion extends LineAcross {
  readonly measure: MeasureKey
  readonly role: SensorRole | null
  readonly by: OverBy
  /** With `share`: beyond the line for at least so much of the time, 0..1. */
  readonly share: number
  /** With `longest`: for at least so long without a break, ms. */
  readonly stretchMs: number
}

/** What one series was over the span; `null` where it was not heard. */
export interface OverRow {
  readonly min: number | null
  readonly mean: number | null
  readonly max: number | null
  readonly p95: number | null
  readonly p99: number | null
  /** The share of its readings beyond the line. */
  readonly beyond: number | null
  readonly longestMs: number | null
}

/** Questions that people ask again and again, at lines that they use. */
export const READY: readonly (Pick<OverQuestion, 'measure' | 'role' | 'at' | 'direction' | 'by'> & {
  readonly name: string
})[] = [
  {
    name: 'Processor',
    measure: 'system.cpu.utilization',
    role: null,
    at: 0.8,
    direction: 'above',
    by: 'p95',
  },
  {
    name: 'Processor idle',
    measure: 'system.cpu.utilization',
    role: null,
    at: 0.1,
    direction: 'below',
    by: 'p95',
  },
  {
    name: 'Memory',
    measure: 'system.memory.utilization',
    role: null,
    at: 0.9,
    direction: 'above',
    by: 'mean',
  },
  {
    name: 'Space',
    measure: 'system.filesystem.utilization',
    role: null,
    at: 0.85,
    direction: 'above',
    by: 'p95',
  },
  {
    name: 'Inodes',
    measure: 'system.filesystem.inodes.utilization',
    role: null,
    at: 0.8,
    direction: 'above',
    by: 'p95',
  },
  {
    name: 'Links',
    measure: 'hw.network.bandwidth.utilization',
    role: null,
    at: 0.6,
    direction: 'above',
    by: 'p95',
  },
  {
    name: 'Air that goes in',
    measure: 'hw.temperature',
    role: 'intake',
    at: 27,
    direction: 'above',
    by: 'share',
  },
]

const SHARE = 0.05
const STRETCH_MS = 3_600_000

export const questionOf = (ready: (typeof READY)[number]): OverQuestion => ({
  measure: ready.measure,
  role: ready.role,
  at: ready.at,
  direction: ready.direction,
  by: ready.by,
  share: SHARE,
  stretchMs: STRETCH_MS,
})

/** Whether a series was beyond the line, by what the question asks. */
export function isOver(question: OverQuestion, row: OverRow): boolean {
  switch (question.by) {
    case 'mean':
      return row.mean !== null && isBeyondLine(question, row.mean)
    case 'p95':
      return row.p95 !== null && isBeyondLine(question, row.p95)
    case 'share':
      return row.beyond !== null && row.beyond > 0 && row.beyond >= question.share
    case 'longest':
      return row.longestMs !== null && row.longestMs > 0 && row.longestMs >= question.stretchMs
  }
}

/** How far beyond it was, to be sorted by: the most first. */
export function farness({ by, direction }: OverQuestion, row: OverRow): number {
  const value =
    by === 'mean' ? row.mean : by === 'p95' ? row.p95 : by === 'share' ? row.beyond : row.longestMs
  if (value === null) return -Infinity
  return direction === 'below' && (by === 'mean' || by === 'p95') ? -value : value
}

/** Rows that stand together: what belongs to one gear directly after the first of it, in the order in which they came. */
export function togetherByGear<Row extends { readonly gearId: number }>(
  rows: readonly Row[],
): (Row & { readonly isFurther: boolean })[] {
  const byGear = new Map<number, Row[]>()
  for (const row of rows) {
    const known = byGear.get(row.gearId)
    if (known === undefined) byGear.set(row.gearId, [row])
    else known.push(row)
  }
  return [...byGear.values()].flatMap((own) => own.map((row, index) => ({ ...row, isFurther: index > 0 })))
}

/** The question in words: “95th percentile of processor use above 80.0 %”. */
export function questionWords({ measure, role, at, direction, by, share, stretchMs }: OverQuestion): string {
  const what = measureWords(measure, role).toLowerCase()
  const line = `${direction} ${formatReading(measure, at)}`
  if (by === 'share') return `${what} ${line} for at least ${formatNumber(share * 100, 0)} % of the time`
  if (by === 'longest') return `${what} ${line} for at least ${formatElapsed(stretchMs)} without a break`
  return `${OVER_BY[by]} of ${what} ${line}`
}

/** What was found, in a sentence. */
export function overSentence(question: OverQuestion, names: readonly string[], all: number): string {
  const asked = questionWords(question)
  if (all === 0) return `Nothing is measured that could answer: ${asked}.`
  const had = question.by === 'mean' || question.by === 'p95' ? 'had a' : 'had'
  if (names.length === 0) return `None of ${all} ${had} ${asked}.`
  const named = names.length <= 3 ? `: ${names.join(', ')}` : `, ${names[0]} the most`
  return `${names.length} of ${all} ${had} ${asked}${named}.`
}
