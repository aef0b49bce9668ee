import { measureOf } from '#core/catalogue'
import { UNITS, wallClock } from '#core/units'
import type { Present } from '../platform/present.ts'
import type { Sheet } from '../platform/workbook.ts'
import { loadPast, type PastView } from './past.ts'

const FILE_COLUMNS = 2000

/** What is looked back at as two tables: the statistics of each curve, and the means of each by time. */
export async function pastSheets(present: Present, url: URL): Promise<{ statistics: Sheet; times: Sheet }> {
  const asked = new URL(url)
  asked.searchParams.set('v', 'heat')
  const [view, { timeZone }] = await Promise.all([loadPast(present, asked, FILE_COLUMNS), present.site()])
  return { statistics: statisticsSheet(view), times: timesSheet(view, timeZone) }
}

const unitWords = ({ shows }: PastView['curves'][number]): string =>
  shows.isPlain
    ? ''
    : `${UNITS[measureOf(shows.measure).unit].symbol || measureOf(shows.measure).unit}${shows.suffix}`

const statisticsSheet = ({ curves }: PastView): Sheet => ({
  name: 'Statistics',
  head: [
    'Curve',
    'Measure',
    'Unit',
    'Last',
    'Least',
    'Mean',
    'Most',
    '95th percentile',
    '99th percentile',
    'Beyond the line (share)',
  ],
  rows: curves.map((curve) => {
    const { last, min, mean, max, p95, p99, beyond } = curve.statistics
    return [
      curve.name,
      measureOf(curve.shows.measure).label,
      unitWords(curve),
      ...[last, min, mean, max, p95, p99, beyond].map((value) => value ?? ''),
    ]
  }),
})

function timesSheet({ panels, curves, raster }: PastView, timeZone: string): Sheet {
  const means = new Map(
    panels.flatMap(({ heat }) => heat?.keys.map((key, index) => [key, heat.means[index]!] as const) ?? []),
  )
  return {
    name: 'By time',
    head: [`From (${timeZone})`, ...curves.map((curve) => `${curve.name} (${unitWords(curve)})`)],
    rows: Array.from({ length: raster.columns }, (_, column) => [
      new Date(wallClock(raster.fromMs + column * raster.stepMs, timeZone)),
      ...curves.map(({ key }) => {
        const mean = means.get(key)?.[column] ?? NaN
        return Number.isNaN(mean) ? '' : Number(mean.toPrecision(5))
      }),
    ]),
  }
}
