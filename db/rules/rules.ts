import type { KeptRule, Rule } from '#core/rules'
import { type Db, within } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { recordChange } from '../platform/record.ts'

export interface RuleRow extends KeptRule {
  readonly createdBy: string | null
}

/** All rules, in the order in which ties between them are settled. */
export async function listRules(db: Db): Promise<RuleRow[]> {
  const rows = await db.selectFrom('rule').selectAll().orderBy('isDefault').orderBy('id').execute()
  return rows.map(({ id, body, isDefault, isOn, createdBy }) => ({
    id,
    rule: body,
    isDefault,
    isOn,
    createdBy,
  }))
}

export async function findRule(db: Db, id: number): Promise<RuleRow | null> {
  return (await listRules(db)).find((each) => each.id === id) ?? null
}

/** Keeps a new rule of one's own; its key is made from its number. */
export async function insertRule(db: Db, rule: Rule, who: string): Promise<number> {
  return within(db, async (trx) => {
    const { id } = await trx
      .insertInto('rule')
      .values({
        key: `own-new-${crypto.randomUUID()}`,
        body: JSON.stringify(rule),
        isDefault: false,
        createdBy: who,
      })
      .returning('id')
      .executeTakeFirstOrThrow()
    const key = `own-${id}`
    await trx
      .updateTable('rule')
      .set({ key, body: JSON.stringify({ ...rule, key }) })
      .where('id', '=', id)
      .execute()
    await recordChange(trx, who, `added the rule “${rule.name}”`)
    await announce(trx, { topic: 'rules' })
    return id
  })
}

/** @returns false when it is gone, or shipped: those are overridden, not changed */
export async function updateRule(db: Db, id: number, rule: Rule, who: string): Promise<boolean> {
  return within(db, async (trx) => {
    const row = await trx
      .selectFrom('rule')
      .select('key')
      .where('id', '=', id)
      .where('isDefault', '=', false)
      .executeTakeFirst()
    if (row === undefined) return false
    await trx
      .updateTable('rule')
      .set({ body: JSON.stringify({ ...rule, key: row.key }) })
      .where('id', '=', id)
      .execute()
    await recordChange(trx, who, `changed the rule “${rule.name}”`)
    await announce(trx, { topic: 'rules' })
    return true
  })
}

/** An own rule goes; what it took the place of is in force again. A shipped one can be off, and never goes. */
export async function deleteRule(db: Db, id: number, who: string): Promise<boolean> {
  return within(db, async (trx) => {
    const gone = await trx
      .deleteFrom('rule')
      .where('id', '=', id)
      .where('isDefault', '=', false)
      .returning('body')
      .executeTakeFirst()
    if (gone === undefined) return false
    await recordChange(trx, who, `deleted the rule “${gone.body.name}”`)
    await announce(trx, { topic: 'rules' })
    return true
  })
}

export async function switchRule(db: Db, id: number, isOn: boolean, who: string): Promise<boolean> {
  return within(db, async (trx) => {
    const row = await trx
      .updateTable('rule')
      .set({ isOn })
      .where('id', '=', id)
      .returning('body')
      .executeTakeFirst()
    if (row === undefined) return false
    await recordChange(trx, who, `switched the rule “${row.body.name}” ${isOn ? 'on' : 'off'}`)
    await announce(trx, { topic: 'rules' })
    return true
  })
}
