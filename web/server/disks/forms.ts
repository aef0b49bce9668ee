import { parse } from 'csv-parse/sync'
import { z } from 'zod'
import { enduranceIn, type RatingLine } from '#core/disks'
import { Refused } from '../platform/refused.ts'

/** What a maker promises of one model. */
export const ratingForm = z.object({
  model: z.string().trim().min(1, 'Say of which model.').max(100, 'A model has at most 100 characters.'),
  endurance: z.string().transform((text, context) => {
    const bytes = enduranceIn(text)
    if (typeof bytes === 'number') return bytes
    context.addIssue({ code: 'custom', message: bytes })
    return z.NEVER
  }),
  origin: z
    .string()
    .trim()
    .min(1, 'Say where it was read, as in “data sheet of March 2025”.')
    .max(200, 'At most 200 characters.'),
})

export const modelField = z.object({ model: z.string().min(1).max(100) })

const MOST_LINES = 2_000
const MOST_CHARACTERS = 500_000

/** Lines of ratings as CSV (RFC 4180), the first with the names of the columns. @throws Refused with what is wrong */
export function ratingLines(text: string): (RatingLine & { line: number })[] {
  if (text.trim() === '') throw new Refused('Paste lines, or choose a file.')
  if (text.length > MOST_CHARACTERS)
    throw new Refused('This is too much at once: at most 500,000 characters.')
  let rows: { record: Record<string, string>; info: { lines: number } }[]
  try {
    rows = parse(text, {
      bom: true,
      columns: (head: string[]) => head.map((name) => name.trim().toLowerCase()),
      delimiter: [',', ';', '\t'],
      info: true,
      relax_column_count: true,
      skip_empty_lines: true,
    })
  } catch (error) {
    throw new Refused(
      `This cannot be read as CSV: ${error instanceof Error ? error.message : String(error)}.`,
    )
  }
  if (rows.length > MOST_LINES)
    throw new Refused(`These are ${rows.length} lines; at most ${MOST_LINES} at once.`)
  const missing = ['model', 'endurance', 'source'].filter((name) => !(name in (rows[0]?.record ?? {})))
  if (missing.length > 0)
    throw new Refused(
      `The first line must name the columns model, endurance and source; ${missing.join(' and ')} ${missing.length === 1 ? 'is' : 'are'} missing.`,
    )
  return rows.map(({ record, info }) => ({
    line: info.lines,
    model: record['model'] ?? '',
    endurance: record['endurance'] ?? '',
    source: record['source'] ?? '',
  }))
}
