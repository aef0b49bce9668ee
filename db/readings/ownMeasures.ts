import { sql } from 'kysely'
import type { OwnMeasure } from '#core/catalogue'
import type { Db } from '../platform/connect.ts'

/** What uses a measure, in names. */
export interface MeasureUse {
  readonly rules: readonly string[]
  readonly mappings: readonly string[]
  readonly series: number
}

/** Wherever a measure is named in what is kept: `measure`, and the second one of a rule about two. */
const MEASURE_OF = sql.lit('$.** ? (@ == $key)')

export async function listOwnMeasures(db: Db): Promise<OwnMeasure[]> {
  const rows = await db.selectFrom('ownMeasure').select(['key', 'body']).orderBy('key').execute()
  return rows.map(({ key, body }) => ({ ...body, key }))
}

/** Adds a measure, or changes what is known of it. Its key stays. */
export async function saveOwnMeasure(db: Db, { key, ...measure }: OwnMeasure, who: string): Promise<void> {
  const body = JSON.stringify(measure)
  await db
    .insertInto('ownMeasure')
    .values({ key, body, madeBy: who })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ body }))
    .execute()
}

export const deleteOwnMeasure = (db: Db, key: string): Promise<unknown> =>
  db.deleteFrom('ownMeasure').where('key', '=', key).execute()

/** Of each own measure that something uses, what does. */
export async function usesOfMeasures(db: Db): Promise<Map<string, MeasureUse>> {
  const { rows } = await sql<{ key: string; rules: string[]; mappings: string[]; series: number }>`
    select own_measure.key,
      array(select rule.body->>'name' from rule where jsonb_path_exists(rule.body, ${MEASURE_OF}, vars) order by 1) as rules,
      array(select mapping.name from mapping where jsonb_path_exists(mapping.body, ${MEASURE_OF}, vars)
        union select source.name from source where jsonb_path_exists(source.settings, ${MEASURE_OF}, vars)
        order by 1) as mappings,
      (select count(*)::int from series where series.measure = own_measure.key) as series
    from own_measure, jsonb_build_object('key', own_measure.key) as vars`.execute(db)
  return new Map(rows.map(({ key, ...use }) => [key, use]))
}
