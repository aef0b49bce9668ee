import type { AlertRow } from './rows.ts'

/** Several rows that differ in their gear alone. */
export interface AlikeRows {
  readonly title: string
  readonly state: AlertRow['state']
  /** Since the first of them. */
  readonly sinceMs: number
  readonly rows: readonly AlertRow[]
}

export type WatchEntry =
  { readonly kind: 'one'; readonly row: AlertRow } | { readonly kind: 'alike'; readonly alike: AlikeRows }

/** From so many on they stand together. What somebody is called for stands alone for longer: each may have its own cause. */
export const ALIKE_FROM: Readonly<Record<AlertRow['state'], number>> = {
  critical: 6,
  warning: 3,
  noData: 4,
  quiet: 3,
}

/** What explains others, is taken, or comes and goes is looked at by itself. */
const isPlain = ({ followOns, takenBy, flaps }: AlertRow): boolean =>
  followOns.length === 0 && takenBy === null && flaps === 0

/** Rows in their order; those of one rule and one kind of part stand together where the first of them stood. */
export function gatherAlike(rows: readonly AlertRow[]): WatchEntry[] {
  const keyOf = (row: AlertRow): string => (isPlain(row) ? `${row.state} ${row.kind}` : `row ${row.id}`)
  const groups = new Map<string, AlertRow[]>()
  for (const row of rows) groups.set(keyOf(row), [...(groups.get(keyOf(row)) ?? []), row])
  return [...groups.values()].flatMap((group): WatchEntry[] => {
    const { state } = group[0]!
    if (group.length < ALIKE_FROM[state]) return group.map((row) => ({ kind: 'one', row }))
    const sinceMs = Math.min(...group.map((row) => row.sinceMs))
    const title = `${group[0]!.title}, and ${group.length - 1} alike`
    return [{ kind: 'alike', alike: { title, state, sinceMs, rows: group } }]
  })
}
