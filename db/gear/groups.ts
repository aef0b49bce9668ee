import type { GroupDefinition, TagMatch, TagRule } from '#core/gear'
import type { ServiceHours } from '#core/past'
import { sql } from 'kysely'
import type { Db } from '../platform/connect.ts'

export interface GroupRow extends GroupDefinition {
  readonly id: number
  readonly name: string
  readonly note: string
  /** Whoever has this tag belongs to it, too. */
  readonly tag: string | null
  /** Those who are named. */
  readonly memberIds: readonly number[]
  /** Groups that belong to it. */
  readonly groupIds: readonly number[]
  /** Whether people are promised that it works. */
  readonly isService: boolean
  /** How it is called among people who do not read hardware; empty: by its name. */
  readonly plain: string
  readonly owner: string
  /** What is promised, 0..1, if anything is. */
  readonly level: number | null
  /** When it is promised; `null` is around the clock. */
  readonly hours: ServiceHours | null
}

export async function listGroups(db: Db): Promise<GroupRow[]> {
  return db
    .selectFrom('gearGroup')
    .selectAll()
    .select([
      sql<number[]>`array(select gear_id from gear_group_member where group_id = gear_group.id)`.as(
        'memberIds',
      ),
      sql<number[]>`array(
        select member_id from gear_group_group where group_id = gear_group.id order by member_id)`.as(
        'groupIds',
      ),
    ])
    .orderBy('name')
    .execute()
}

export type NewGroup = Omit<GroupRow, 'id' | Service> & Partial<Pick<GroupRow, Service>>
type Service = 'groupIds' | 'isService' | 'plain' | 'owner' | 'level' | 'hours'

/** Until the end of a transaction nobody else changes which group contains which: two changes could close a circle together. */
export async function holdGroups(trx: Db): Promise<void> {
  await sql`lock table gear_group_group in share row exclusive mode`.execute(trx)
}

export async function insertGroup(
  db: Db,
  { memberIds, groupIds = [], hours = null, ...group }: NewGroup,
): Promise<number> {
  const { id } = await db
    .insertInto('gearGroup')
    .values({ ...group, hours: hours === null ? null : JSON.stringify(hours) })
    .returning('id')
    .executeTakeFirstOrThrow()
  await writeMembers(db, id, memberIds, groupIds)
  return id
}

export async function updateGroup(
  db: Db,
  id: number,
  { memberIds, groupIds = [], hours = null, ...group }: NewGroup,
): Promise<void> {
  await db
    .updateTable('gearGroup')
    .set({ ...group, hours: hours === null ? null : JSON.stringify(hours) })
    .where('id', '=', id)
    .execute()
  await db.deleteFrom('gearGroupMember').where('groupId', '=', id).execute()
  await db.deleteFrom('gearGroupGroup').where('groupId', '=', id).execute()
  await writeMembers(db, id, memberIds, groupIds)
}

async function writeMembers(
  db: Db,
  groupId: number,
  memberIds: readonly number[],
  groupIds: readonly number[],
): Promise<void> {
  if (memberIds.length > 0)
    await db
      .insertInto('gearGroupMember')
      .values([...new Set(memberIds)].map((gearId) => ({ groupId, gearId })))
      .execute()
  if (groupIds.length > 0)
    await db
      .insertInto('gearGroupGroup')
      .values([...new Set(groupIds)].map((memberId) => ({ groupId, memberId })))
      .execute()
}

export async function deleteGroup(db: Db, id: number): Promise<void> {
  await db.deleteFrom('gearGroup').where('id', '=', id).execute()
}

export interface TagRuleRow extends TagRule {
  readonly id: number
}

export async function listTagRules(db: Db): Promise<TagRuleRow[]> {
  const rows = await db.selectFrom('tagRule').selectAll().orderBy('tag').orderBy('id').execute()
  return rows.map(({ id, tag, body }) => ({ id, tag, match: body }))
}

export async function insertTagRule(db: Db, tag: string, match: TagMatch): Promise<void> {
  await db
    .insertInto('tagRule')
    .values({ tag, body: JSON.stringify(match) })
    .execute()
}

export async function deleteTagRule(db: Db, id: number): Promise<void> {
  await db.deleteFrom('tagRule').where('id', '=', id).execute()
}
