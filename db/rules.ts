import type { Rule } from '#core/rules'
import type { Db } from './connect.ts'

/** Rules in force, shipped ones first: ties between equally specific rules go to the first. */
export async function listRules(db: Db): Promise<Rule[]> {
  const rows = await db.selectFrom('rule').select('body').orderBy('isDefault').orderBy('id').execute()
  return rows.map((row) => row.body)
}
