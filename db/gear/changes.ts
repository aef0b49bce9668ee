import type { GearChange, GearChangeKind } from '#core/gear'
import type { Db } from '../platform/connect.ts'

/** Writes down what of a gear has changed. `who` is empty where a device told of it. */
export async function recordGearChanges(
  db: Db,
  gearId: number,
  changes: readonly (GearChange & { readonly partId?: number | null })[],
  who: string | null = null,
  at: Date | null = null,
): Promise<void> {
  if (changes.length === 0) return
  await db
    .insertInto('gearChange')
    .values(
      changes.map(({ what, subject, was, became, partId = null }) => ({
        gearId,
        partId,
        what,
        subject,
        was,
        became,
        who,
        ...(at === null ? {} : { at }),
      })),
    )
    .execute()
}

export interface GearChangeRow extends GearChange {
  readonly id: number
  readonly atMs: number
  readonly gearId: number
  readonly gear: string
  readonly what: GearChangeKind
  readonly who: string | null
}

/** What has changed, newest first: of one gear, or of all. */
export async function listGearChanges(
  db: Db,
  { gearId, limit }: { readonly gearId?: number; readonly limit: number },
): Promise<GearChangeRow[]> {
  const query = db
    .selectFrom('gearChange')
    .innerJoin('gear', 'gear.id', 'gearChange.gearId')
    .select([
      'gearChange.id',
      'gearChange.at',
      'gearChange.gearId',
      'gear.name as gear',
      'gearChange.what',
      'gearChange.subject',
      'gearChange.was',
      'gearChange.became',
      'gearChange.who',
    ])
    .orderBy('gearChange.at', 'desc')
    .orderBy('gearChange.id', 'desc')
    .limit(limit)
  const rows = await (gearId === undefined ? query : query.where('gearChange.gearId', '=', gearId)).execute()
  return rows.map(({ at, ...row }) => ({ ...row, atMs: at.getTime() }))
}

/** Forgets all changes of all gear: for what is laid down as if it had always been so. */
export async function forgetGearChanges(trx: Db): Promise<void> {
  await trx.deleteFrom('gearChange').execute()
}
