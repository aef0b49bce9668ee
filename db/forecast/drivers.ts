import { sql } from 'kysely'
import type { DrivenBy } from '#core/forecast'
import { isNeededFirst } from '#core/links'
import type { Db } from '#db/platform'

export interface UserRow {
  readonly id: number
  readonly name: string
  /** What is measured of it as a whole, else of each of its parts; of each by the first source that told of it. */
  readonly seriesIds: readonly number[]
  /** How many processors it has; `null` where nobody says. */
  readonly processors: number | null
}

/** Whose readings are read for one answer, at most. */
const MOST_USERS = 500
/** And so many parts of each. */
const MOST_PARTS = 32

/**
 * Who hangs on some gear by some links, one step each, and is measured by what counts.
 * @returns at most `MOST_USERS`, by name; and how many there are
 */
export async function listUsers(
  db: Db,
  gearIds: readonly number[],
  { links, kinds, measure }: Pick<DrivenBy, 'links' | 'kinds' | 'measure'>,
): Promise<{ readonly users: UserRow[]; readonly all: number }> {
  let ids = gearIds
  if (ids.length === 0) return { users: [], all: 0 }
  for (const kind of links) {
    const [whom, who] = isNeededFirst(kind)
      ? (['fromGearId', 'toGearId'] as const)
      : (['toGearId', 'fromGearId'] as const)
    const rows = await db
      .selectFrom('link')
      .select(`${who} as id`)
      .distinct()
      .where('kind', '=', kind)
      .where(whom, 'in', ids)
      .execute()
    ids = rows.map(({ id }) => id)
    if (ids.length === 0) return { users: [], all: 0 }
  }
  const { rows } = await sql<{
    id: number
    name: string
    processors: string | null
    whole: number | null
    parts: number[] | null
  }>`
    select gear.id, gear.name, gear.facts ->> 'processors' as processors,
      min(each.id) filter (where each.part_id is null) as whole,
      array_agg(each.id) filter (where each.part_id is not null) as parts
    from gear
    join (
      select min(series.id) as id, series.gear_id, series.part_id from series
      left join part on part.id = series.part_id
      where series.gear_id = any(${ids}::int[]) and measure = ${measure} and part.is_present is not false
      group by series.gear_id, series.part_id
    ) each on each.gear_id = gear.id
    where gear.kind = any(${[...kinds]}::text[]) and gear.merged_into is null
    group by gear.id order by gear.name, gear.id`.execute(db)
  return {
    all: rows.length,
    users: rows.slice(0, MOST_USERS).map(({ id, name, whole, parts, processors }) => ({
      id,
      name,
      seriesIds: whole === null ? parts!.slice(0, MOST_PARTS) : [whole],
      processors: countOf(processors),
    })),
  }
}

/** What a sender says of itself is a number only when it is one. */
const countOf = (text: string | null): number | null =>
  text !== null && /^\d{1,4}$/.test(text) && Number(text) > 0 ? Number(text) : null
