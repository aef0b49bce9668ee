/** A row of the inventory, as it is filtered: everything in words. */
export interface Inventoried {
  readonly kind: string
  readonly place: string
  readonly warrantyEnds: string | null
  /** Fields of one's own: name and value. */
  readonly own?: readonly (readonly [name: string, value: string])[]
}

const searched = new WeakMap<Inventoried, string>()

/** All of a row that is searched, in small letters; made when somebody searches. */
function searchedIn(row: Inventoried): string {
  const known = searched.get(row)
  if (known !== undefined) return known
  const values = [...Object.values(row), ...(row.own ?? []).map(([, value]) => value)]
  const words = values
    .filter((value) => typeof value === 'string')
    .join('\n')
    .toLowerCase()
  searched.set(row, words)
  return words
}

export const WARRANTIES = ['ended', 'soon', 'later', 'unknown'] as const
export type Warranty = (typeof WARRANTIES)[number]

const DAY_MS = 86_400_000
/** Within so many days a warranty ends soon: time to renew it, or to order. */
export const SOON_DAYS = 90

/** @param ends a day as `2027-03-31`; the warranty holds through that day, UTC */
export function warrantyOf(ends: string | null, nowMs: number): Warranty {
  if (ends === null) return 'unknown'
  const leftDays = (Date.parse(`${ends}T00:00:00Z`) + DAY_MS - nowMs) / DAY_MS
  return leftDays <= 0 ? 'ended' : leftDays <= SOON_DAYS ? 'soon' : 'later'
}

export interface InventoryFilter {
  readonly words: string
  readonly kind: string
  readonly warranty: string
  readonly place: string
}

/** From an address; what is not there does not filter. */
export const inventoryFilterOf = (params: { get(name: string): string | null }): InventoryFilter => ({
  words: (params.get('q') ?? '').trim().toLowerCase(),
  kind: params.get('kind') ?? '',
  warranty: params.get('warranty') ?? '',
  place: params.get('place') ?? '',
})

/** Rows that fit: every word of the filter is somewhere in the row. */
export function fitsInventory(row: Inventoried, filter: InventoryFilter, nowMs: number): boolean {
  if (filter.kind !== '' && row.kind !== filter.kind) return false
  if (filter.place === 'stock' && row.place !== '') return false
  if (filter.place === 'placed' && row.place === '') return false
  if (filter.warranty !== '' && warrantyOf(row.warrantyEnds, nowMs) !== filter.warranty) return false
  if (filter.words === '') return true
  const words = searchedIn(row)
  return filter.words.split(/\s+/).every((word) => words.includes(word))
}
