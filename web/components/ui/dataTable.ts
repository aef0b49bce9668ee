/** One column of a table: what it is called, how wide it is, and what it says of a row. */
export interface Column<Row> {
  readonly key: string
  readonly label: string
  /** Classes of its width, as a flex item: `w-24`, or `min-w-28 flex-1`. */
  readonly width: string
  /** What is sorted and exported; `null` where nothing is known, which stands last in either order. */
  readonly value: (row: Row) => string | number | null
  /** What it is sorted by, where that is not the value itself. */
  readonly order?: (row: Row) => number | null
  /** What is shown, where it is not the value itself. */
  readonly text?: (row: Row) => string
  readonly looks?: string
  readonly tip?: (row: Row) => string
  readonly isNumber?: boolean
  /** Not shown until somebody chooses it. */
  readonly isExtra?: boolean
}

/** How rows are sorted: the key of a column, `-` before it from the last to the first; empty as they came. */
export type Sort = string

const words = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })

/** Rows in the order of a column; those of equal value as they came, and those without one last in either order. */
export function sortRows<Row>(
  rows: readonly Row[],
  columns: readonly Column<Row>[],
  sort: Sort,
): readonly Row[] {
  const column = columns.find(({ key }) => key === sort.replace(/^-/, ''))
  if (column === undefined) return rows
  const sign = sort.startsWith('-') ? -1 : 1
  return rows
    .map((row) => ({ row, value: (column.order ?? column.value)(row) }))
    .sort((a, b) => {
      if (a.value === null || b.value === null) return Number(a.value === null) - Number(b.value === null)
      return sign * compareCells(a.value, b.value)
    })
    .map(({ row }) => row)
}

/** The names of gear are sorted with their numbers as numbers. */
function compareCells(a: string | number, b: string | number): number {
  return typeof a === 'number' && typeof b === 'number' ? a - b : words.compare(String(a), String(b))
}

/** The next of three: from the first to the last, from the last to the first, as they came. Numbers the other way. */
export function nextSort<Row>(sort: Sort, { key, isNumber = false }: Column<Row>): Sort {
  const order = isNumber ? [`-${key}`, key, ''] : [key, `-${key}`, '']
  return order[order.indexOf(sort) + 1] ?? order[0]!
}
