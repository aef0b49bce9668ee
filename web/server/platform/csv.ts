import { stringify } from 'csv-stringify/sync'
import type { Sheet } from './workbook.ts'

/** A time as ISO 8601 has it, to the minute. */
const asText = (cell: string | number | Date): string | number =>
  cell instanceof Date ? cell.toISOString().slice(0, 16).replace('T', ' ') : cell

/** CSV (RFC 4180). A cell that a spreadsheet would take for a formula gets an apostrophe in front. */
export const asCsv = ({ head, rows }: Sheet): string =>
  stringify([[...head], ...rows.map((row) => row.map(asText))], {
    escape_formulas: true,
    record_delimiter: 'windows',
  })
