import type { MeasureKey } from '#core/catalogue'
import type { Curve } from '#core/readings'
import type { Db } from '#db/platform'
import { listItemSeries } from '#db/sources'
import { sealPast } from '#db/readings'
import { simulatedSite } from '../model/site.ts'
import type { StandinPorts } from '../site/index.ts'
import type { ValueAt } from './curves.ts'
import { type Reader, readersOf } from './readers.ts'

const DAY_MS = 86_400_000
const PERIOD_DAYS = 30
const FINE_MS = 5 * 60_000
const COARSE_MS = 60 * 60_000
/** So many days are laid down with a reading every five minutes, the older ones with one an hour. */
export const FINE_DAYS = 45
export const PAST_DAYS = 365
/** What is there when the application answers for the first time. */
export const FIRST_DAYS = 2

/** Days of one period that are laid down together. */
export interface Stretch {
  readonly fromDay: number
  readonly days: number
}

/**
 * The days before a demo began, newest first: each stretch lies in one period of thirty days.
 * @param bornMs when it began; the last stretch of all ends with the day of it
 * @param days how many days before that there are
 */
export function stretches(bornMs: number, days: number): Stretch[] {
  const today = Math.floor(bornMs / DAY_MS)
  const found: Stretch[] = []
  let before = today + 1
  const firstOfAll = today - days
  for (const least of [today - FIRST_DAYS + 1, today - FINE_DAYS, firstOfAll]) {
    while (before > Math.max(least, firstOfAll)) {
      const period = Math.floor((before - 1) / PERIOD_DAYS) * PERIOD_DAYS
      const fromDay = Math.max(period, least, firstOfAll)
      found.push({ fromDay, days: before - fromDay })
      before = fromDay
    }
  }
  return found
}

/** The moments of a stretch: each five minutes of the last weeks, each hour before, and nothing after the demo began. */
export function momentsIn({ fromDay, days }: Stretch, bornMs: number): Float64Array {
  const fineFromMs = (Math.floor(bornMs / DAY_MS) - FINE_DAYS) * DAY_MS
  const moments: number[] = []
  const endMs = Math.min((fromDay + days) * DAY_MS, bornMs - 1)
  for (let at = fromDay * DAY_MS; at < endMs; at += at < fineFromMs ? COARSE_MS : FINE_MS) moments.push(at)
  return Float64Array.from(moments)
}

/** The curve of one series over some moments; moments without a value are left out. */
export function curveAt(value: ValueAt, moments: Float64Array): Curve {
  const [times, values] = [new Float64Array(moments.length), new Float64Array(moments.length)]
  let count = 0
  for (const at of moments) {
    const reading = value(at)
    if (reading === null) continue
    times[count] = at
    values[count] = reading
    count += 1
  }
  return { times: times.subarray(0, count), values: values.subarray(0, count) }
}

/** Of what runs out: forecasts need its past first. */
const FINITE: ReadonlySet<MeasureKey> = new Set<MeasureKey>([
  'system.filesystem.utilization',
  'system.filesystem.usage',
  'system.filesystem.limit',
  'system.filesystem.inodes.utilization',
  'hw.pool.promise.usage',
  'hw.pool.promise.utilization',
  'system.memory.utilization',
  'hw.drive.life_left',
  'hw.drive.written',
  'ups.battery.minutes_left',
  'ups.output.load',
  'hw.fuel',
])

export interface PastOptions {
  /** When the demo began. */
  readonly bornMs: number
  readonly ports: StandinPorts
  /** Sources by the names of their readers. */
  readonly sources: ReadonlyMap<string, number>
  /** Only these readers, where not all are wanted. */
  readonly only?: readonly string[]
  /** Called after each source; may wait. */
  readonly after?: () => Promise<void>
  /** Asked before each source. */
  readonly isStopping?: () => boolean
}

/**
 * Lays the past down through the store's own sealing, the values straight from the models. The same beginning gives the
 * same bytes.
 */
export class Past {
  readonly #readers: readonly Reader[]

  constructor(
    private readonly db: Db,
    private readonly options: PastOptions,
  ) {
    this.#readers = readersOf(simulatedSite(options.bornMs), options.ports).filter(
      ({ name }) => options.sources.has(name) && (options.only?.includes(name) ?? true),
    )
  }

  /**
   * Lays down one stretch of all sources: all of it, what is finite, or the rest.
   * @returns false when it stopped on the way; what was laid down so far is laid down again next time, and is the same
   */
  async lay(stretch: Stretch, which: 'all' | 'finite' | 'rest' = 'all'): Promise<boolean> {
    const moments = momentsIn(stretch, this.options.bornMs)
    for (const reader of this.#readers) {
      if (this.options.isStopping?.() === true) return false
      const sourceId = this.options.sources.get(reader.name)!
      const curves = await this.#curves(reader, sourceId, { moments, which })
      if (curves.size > 0) await sealPast(this.db, { sourceId, ...stretch }, curves)
      await this.options.after?.()
    }
    return true
  }

  async #curves(
    reader: Reader,
    sourceId: number,
    { moments, which }: { readonly moments: Float64Array; readonly which: 'all' | 'finite' | 'rest' },
  ): Promise<Map<number, Curve>> {
    const listed = (await listItemSeries(this.db, sourceId)).filter(
      ({ measure }) => which === 'all' || FINITE.has(measure) === (which === 'finite'),
    )
    if (listed.length === 0) return new Map()
    const now = new Map(
      (await reader.read(this.options.bornMs)).readings.map(({ gear, part, measure, value }) => [
        JSON.stringify([gear, part, measure]),
        value,
      ]),
    )
    const curves = new Map<number, Curve>()
    for (const series of listed) {
      // What does not move is as it is now.
      const still = now.get(JSON.stringify([series.gear, series.part, series.measure])) ?? null
      const curve = curveAt(reader.curveOf(series) ?? (() => still), moments)
      if (curve.times.length > 0) curves.set(series.id, curve)
    }
    return curves
  }
}
