import { sql } from 'kysely'
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

/** What has changed, newest first: of one gear, of some, or of all; within a span, where one is given. */
export async function listGearChanges(
  db: Db,
  {
    gearId,
    gearIds,
    within: span,
    limit,
  }: {
    readonly gearId?: number
    readonly gearIds?: readonly number[]
    readonly within?: { readonly fromMs: number; readonly toMs: number }
    readonly limit: number
  },
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
    .$if(gearIds !== undefined, (some) =>
      some.where(sql<boolean>`gear_change.gear_id = any(${[...gearIds!]}::int[])`),
    )
    .$if(span !== undefined, (some) =>
      some
        .where('gearChange.at', '>=', new Date(span!.fromMs))
        .where('gearChange.at', '<', new Date(span!.toMs)),
    )
  const rows = await (gearId === undefined ? query : query.where('gearChange.gearId', '=', gearId)).execute()
  return rows.map(({ at, ...row }) => ({ ...row, atMs: at.getTime() }))
}

/** Forgets all changes of all gear: for what is laid down as if it had always been so. */
export async function forgetGearChanges(trx: Db): Promise<void> {
  await trx.deleteFrom('gearChange').execute()
}
