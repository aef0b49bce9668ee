import { stringify } from 'csv-stringify/browser/esm/sync'
import type { Column } from './dataTable'

/** What is shown, as CSV (RFC 4180). A cell that a spreadsheet would take for a formula gets an apostrophe in front. */
export const csvOf = <Row>(columns: readonly Column<Row>[], rows: readonly Row[]): string =>
  stringify(
    [
      columns.map(({ label }) => label),
      ...rows.map((row) => columns.map((column) => column.value(row) ?? '')),
    ],
    { escape_formulas: true, record_delimiter: 'windows' },
  )
