import type { GroupDefinition, TagMatch, TagRule } from '#core/gear'
import type { Db } from '../platform/connect.ts'

export interface GroupRow extends GroupDefinition {
  readonly id: number
  readonly name: string
  readonly note: string
  /** Whoever has this tag belongs to it, too. */
  readonly tag: string | null
  /** Those who are named. */
  readonly memberIds: readonly number[]
}

export async function listGroups(db: Db): Promise<GroupRow[]> {
  const [groups, members] = await Promise.all([
    db.selectFrom('gearGroup').selectAll().orderBy('name').execute(),
    db.selectFrom('gearGroupMember').selectAll().execute(),
  ])
  return groups.map((group) => ({
    ...group,
    memberIds: members.flatMap(({ groupId, gearId }) => (groupId === group.id ? [gearId] : [])),
  }))
}

export type NewGroup = Omit<GroupRow, 'id'>

export async function insertGroup(db: Db, { memberIds, ...group }: NewGroup): Promise<number> {
  const { id } = await db.insertInto('gearGroup').values(group).returning('id').executeTakeFirstOrThrow()
  await writeMembers(db, id, memberIds)
  return id
}

export async function updateGroup(db: Db, id: number, { memberIds, ...group }: NewGroup): Promise<void> {
  await db.updateTable('gearGroup').set(group).where('id', '=', id).execute()
  await db.deleteFrom('gearGroupMember').where('groupId', '=', id).execute()
  await writeMembers(db, id, memberIds)
}

async function writeMembers(db: Db, groupId: number, memberIds: readonly number[]): Promise<void> {
  if (memberIds.length === 0) return
  await db
    .insertInto('gearGroupMember')
    .values([...new Set(memberIds)].map((gearId) => ({ groupId, gearId })))
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
