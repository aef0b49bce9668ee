import { stringify } from 'csv-stringify/sync'
import { measureOf } from '#core/catalogue'
import { UNITS } from '#core/units'
import type { Db } from '#db/platform'
import { listNamedSeries, type NamedSeries, readSlices } from '#db/readings'
import { sampleHead, sampleTime, sampleValue } from '#protocols/openmetrics'

export const EXPORT_FORMATS = {
  csv: { type: 'text/csv; charset=utf-8', ending: 'csv' },
  openmetrics: { type: 'application/openmetrics-text; version=1.0.0; charset=utf-8', ending: 'txt' },
} as const
export type ExportFormat = keyof typeof EXPORT_FORMATS

export const CSV_COLUMNS = ['time', 'gear', 'part', 'measure', 'unit', 'value'] as const

/** The metric that stands for a measure: OpenMetrics knows no dots in names. */
export const metricName = (measure: string): string => measure.replaceAll('.', '_')

/** All readings of some series over a span as text, piece by piece: any amount, in constant memory. */
export async function* exported(
  db: Db,
  asked: { seriesIds: readonly number[] | null; fromMs: number; toMs: number; format: ExportFormat },
): AsyncGenerator<string> {
  const all = await listNamedSeries(db, asked.seriesIds ?? undefined)
  const isCsv = asked.format === 'csv'
  if (isCsv) yield CSV_COLUMNS.join(',') + '\n'
  let family = ''
  for (const series of all) {
    if (!isCsv && series.measure !== family) {
      family = series.measure
      yield `# TYPE ${metricName(family)} gauge\n# HELP ${metricName(family)} ${measureOf(series.measure).label}\n`
    }
    const line = isCsv ? csvLine(series) : metricLine(series)
    for await (const { times, values } of readSlices(db, series.id, asked.fromMs, asked.toMs)) {
      for (let start = 0; start < times.length; start += 2000) {
        let text = ''
        const end = Math.min(times.length, start + 2000)
        for (let index = start; index < end; index += 1) text += line(times[index]!, values[index]!)
        yield text
      }
    }
  }
  if (!isCsv) yield '# EOF\n'
}

type Line = (atMs: number, value: number) => string

/** What is the same in every line of a series is written once. Formulas in names are escaped for spreadsheets. */
function csvLine({ gear, part, measure }: NamedSeries): Line {
  const { unit } = measureOf(measure)
  const middle = stringify([[gear, part ?? '', measure, UNITS[unit].ucum]], {
    escape_formulas: true,
    record_delimiter: '',
  })
  return (atMs, value) => `${new Date(atMs).toISOString()},${middle},${value}\n`
}

function metricLine({ gear, part, measure }: NamedSeries): Line {
  const head = sampleHead(metricName(measure), { gear, ...(part === null ? {} : { part }) })
  return (atMs, value) => `${head} ${sampleValue(value)} ${sampleTime(atMs)}\n`
}

/** A stream that is pulled: a reader that is slow, or leaves, holds up or ends the reading of the store. */
export function streamOf(pieces: AsyncGenerator<string>): ReadableStream<Uint8Array> {
  const text = new TextEncoder()
  return new ReadableStream({
    async pull(controller) {
      const { value, done } = await pieces.next()
      if (done) controller.close()
      else controller.enqueue(text.encode(value))
    },
    async cancel() {
      await pieces.return(undefined)
    },
  })
}
