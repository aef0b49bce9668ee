import { CsvError, parse } from 'csv-parse'
import { createInterface } from 'node:readline'
import { Readable } from 'node:stream'
import type { ReadableStream as NodeStream } from 'node:stream/web'
import { z } from 'zod'
import type { Curve } from '#core/readings'
import type { Db } from '#db/platform'
import { listNamedSeries, mergeReadings, type NamedSeries } from '#db/readings'
import { parseSample } from '#protocols/openmetrics'
import type { Imported } from '$lib/client/importing'
import { metricName } from './exporting.ts'

const MOST_BUFFERED = 200_000
const MOST_LISTED = 20
const AHEAD_MS = 3_600_000
const LONGEST_LINE = 64 * 1024

interface Found {
  readonly line: number
  readonly key: string
  readonly name: string
  readonly atMs: number
  readonly value: number
}
interface Bad {
  readonly line: number
  readonly why: string
}

/**
 * Takes readings in from CSV or OpenMetrics text, told apart by the first line. Good lines are kept, bad ones are listed.
 * @param body read piece by piece; memory does not grow with its size
 */
export async function importReadings(
  db: Db,
  body: ReadableStream<Uint8Array>,
  nowMs: number,
): Promise<Imported> {
  const known = new Map(
    (await listNamedSeries(db)).map((series) => [
      keyOf(series.gear, series.part, metricName(series.measure)),
      series,
    ]),
  )
  const buffers = new Map<number, { series: NamedSeries; times: number[]; values: number[] }>()
  const unknown = new Map<string, number>()
  const bad: Bad[] = []
  let [taken, badLines, buffered] = [0, 0, 0]

  const flush = async (): Promise<void> => {
    for (const { series, times, values } of buffers.values()) {
      await mergeReadings(db, series, ascending(times, values))
      taken += times.length
    }
    buffers.clear()
    buffered = 0
  }
  for await (const found of lines(body)) {
    const why =
      'why' in found
        ? found.why
        : found.atMs > nowMs + AHEAD_MS
          ? 'its time lies ahead of the clock here'
          : null
    if (why !== null || 'why' in found) {
      badLines += 1
      if (bad.length < MOST_LISTED) bad.push({ line: found.line, why: why ?? '' })
      continue
    }
    const series = known.get(found.key)
    if (series === undefined) {
      if (unknown.size < MOST_LISTED || unknown.has(found.name))
        unknown.set(found.name, (unknown.get(found.name) ?? 0) + 1)
      continue
    }
    let buffer = buffers.get(series.id)
    if (buffer === undefined) buffers.set(series.id, (buffer = { series, times: [], values: [] }))
    buffer.times.push(found.atMs)
    buffer.values.push(found.value)
    buffered += 1
    if (buffered >= MOST_BUFFERED) await flush()
  }
  await flush()
  return { taken, unknown: [...unknown].map(([name, readings]) => ({ name, readings })), bad, badLines }
}

const keyOf = (gear: string, part: string | null, metric: string): string =>
  JSON.stringify([gear, part ?? '', metric])
const nameOf = (gear: string, part: string | null, measure: string): string =>
  `${measure} of ${part ? `${part} in ` : ''}${gear}`

/** In order of time, each instant once; of two values for one instant the later line counts. */
function ascending(times: readonly number[], values: readonly number[]): Curve {
  const byTime = new Map(times.map((atMs, index) => [atMs, values[index]!]))
  const sorted = [...byTime].sort(([a], [b]) => a - b)
  return {
    times: Float64Array.from(sorted, ([atMs]) => atMs),
    values: Float64Array.from(sorted, ([, value]) => value),
  }
}

async function* lines(body: ReadableStream<Uint8Array>): AsyncGenerator<Found | Bad> {
  const input = Readable.fromWeb(body as unknown as NodeStream<Uint8Array>)
  const first: Buffer | null = await new Promise((resolve, reject) => {
    input.once('error', reject)
    input.once('readable', () => resolve(input.read() as Buffer | null))
    input.once('end', () => resolve(null))
  })
  if (first === null) return
  input.unshift(first)
  if (/^\uFEFF?time,/i.test(first.toString('utf8', 0, 64))) yield* csvLines(input)
  else yield* metricLines(input)
}

const csvRecord = z.object({
  time: z.string(),
  gear: z.string().min(1, 'it names no gear'),
  part: z.string().default(''),
  measure: z.string().min(1, 'it names no measure'),
  value: z.string(),
})

/** What makes the rest of a file unreadable, by the code of the parser. */
const BROKEN: Readonly<Record<string, string>> = {
  CSV_QUOTE_NOT_CLOSED: 'a quotation mark is not closed',
  CSV_INVALID_CLOSING_QUOTE: 'something stands behind the closing quotation mark of a cell',
  INVALID_OPENING_QUOTE: 'a quotation mark stands inside a cell that does not begin with one',
  CSV_MAX_RECORD_SIZE: `a line has more than ${LONGEST_LINE / 1024} KiB`,
}

/** Records up to the first that is no CSV: nobody knows where the next begins. */
async function* csvRecords(input: Readable): AsyncGenerator<{ line: number; record: unknown } | Bad> {
  // Not read off the parser as a stream: with its error it would throw away what it has read right before.
  let found: { line: number; record: unknown }[] = []
  let lastLine = 1
  const parser = parse({
    columns: (names: string[]) => names.map((name) => name.trim().toLowerCase()),
    bom: true,
    relax_column_count: true,
    skip_empty_lines: true,
    max_record_size: LONGEST_LINE,
    on_record: (record: unknown, { lines: line }) => {
      found.push({ line, record })
      lastLine = line
    },
  })
  parser.on('error', () => undefined)
  const read = (piece: Buffer | null): Promise<Error | null> =>
    new Promise((resolve) => {
      const done = (error?: Error | null): void => resolve(error ?? null)
      if (piece === null) parser.end(done)
      else parser.write(piece, done)
    })
  let broken: Error | null = null
  const taken = function* () {
    yield* found
    found = []
    if (broken !== null) yield brokenAt(broken, lastLine)
  }
  for await (const piece of input as AsyncIterable<Buffer>) {
    // Who sends the file hears of it when all of it is sent.
    if (broken !== null) continue
    broken = await read(piece)
    yield* taken()
  }
  if (broken !== null) return
  broken = await read(null)
  yield* taken()
}

function brokenAt(error: Error, lastLine: number): Bad {
  if (!(error instanceof CsvError)) throw error
  const what = BROKEN[error.code] ?? 'this is no CSV'
  // What is not closed is noticed at the end of the file.
  const line = error.code === 'CSV_QUOTE_NOT_CLOSED' ? lastLine + 1 : Number(error['lines'] ?? lastLine + 1)
  return { line, why: `${what}; this line and all after it were left out` }
}

async function* csvLines(input: Readable): AsyncGenerator<Found | Bad> {
  for await (const read of csvRecords(input)) {
    if ('why' in read) {
      yield read
      continue
    }
    const { line, record } = read
    const parsed = csvRecord.safeParse(record)
    if (!parsed.success) {
      yield { line, why: parsed.error.issues[0]!.message }
      continue
    }
    const { time, gear, part, measure, value } = parsed.data
    const atMs = Date.parse(time)
    const number = value.trim() === '' ? Number.NaN : Number(value)
    if (!/^\d{4}-\d\d-\d\dT/.test(time) || Number.isNaN(atMs))
      yield { line, why: `“${time.slice(0, 40)}” is not a time like 2026-03-04T05:06:07Z` }
    else if (Number.isNaN(number) && value !== 'NaN')
      yield { line, why: `“${value.slice(0, 40)}” is not a number` }
    else
      yield {
        line,
        key: keyOf(plain(gear), plain(part), metricName(measure)),
        name: nameOf(plain(gear), plain(part), measure),
        atMs,
        value: number,
      }
  }
}

/** The export puts an apostrophe before what a spreadsheet would take for a formula. */
const plain = (text: string): string => text.replace(/^'(?=[=+\-@\t\r])/, '')

async function* metricLines(input: Readable): AsyncGenerator<Found | Bad> {
  let line = 0
  for await (const text of createInterface({ input, crlfDelay: Infinity })) {
    line += 1
    try {
      const sample = parseSample(text)
      if (sample === null) continue
      const { gear, part = '' } = sample.labels
      if (sample.atMs === null) yield { line, why: 'it has no time' }
      else if (gear === undefined) yield { line, why: 'it has no label gear' }
      else
        yield {
          line,
          key: keyOf(gear, part, sample.name),
          name: nameOf(gear, part, sample.name),
          atMs: sample.atMs,
          value: sample.value,
        }
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error
      yield { line, why: error.message }
    }
  }
}
