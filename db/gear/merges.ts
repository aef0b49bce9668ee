import { type Selectable, sql } from 'kysely'
import { type Candidate, type Identity, likelySame, type Likeness } from '#core/gear'
import { type Db, within } from '../platform/connect.ts'
import { announceAll } from '../platform/live.ts'
import type { GearTables, Moved } from './tables.ts'

type Part = Selectable<GearTables['part']>

/** Why something cannot be done, in a sentence. */
export class CannotMerge extends Error {}

/** Pairs of gear that are likely one, without those of which somebody said that they are two. */
/** A UUID with the octets of its first three fields turned round, as `turnedUuid` has it. */
const turned = sql.raw(
  [7, 5, 3, 1, null, 12, 10, null, 17, 15, null]
    .map((at) => (at === null ? `'-'` : `substr(value, ${at}, 2)`))
    .concat('substr(value, 20)')
    .join(' || '),
)

export async function likelyPairs(db: Db): Promise<Likeness[]> {
  // Of thousands of gear only those are looked at that share a key of `likelySame` with few others.
  const { rows } = await sql<Candidate>`
    with keys as (
      select id, 'name ' || split_part(lower(trim(name)), '.', 1) as key from gear where merged_into is null
      union select gear_id, known.kind || ' ' || case known.kind when 'uuid' then least(value, ${turned}) else value end
        from gear_identity known join gear on gear.id = gear_id and merged_into is null
    ), alike as (
      select distinct id from keys where key in (select key from keys group by key having count(*) between 2 and 4)
    )
    select gear.id, gear.name, gear.kind,
      coalesce(seen.ids, '{}') as "sourceIds", coalesce(known.identities, '[]') as identities
    from gear
    left join (select gear_id, array_agg(distinct source_id) as ids from sighting group by gear_id) seen on seen.gear_id = gear.id
    left join (
      select gear_id, json_agg(json_build_object('kind', kind, 'value', value)) as identities
      from gear_identity group by gear_id
    ) known on known.gear_id = gear.id
    where gear.id in (select id from alike) order by gear.id`.execute(db.withoutPlugins())
  const apart = await db.selectFrom('gearApart').select(['firstId', 'secondId']).execute()
  const isApart = new Set(apart.map(({ firstId, secondId }) => `${firstId} ${secondId}`))
  return likelySame(rows).filter(({ a, b }) => !isApart.has(`${a.id} ${b.id}`))
}

/** Says that two gear are two; they are not proposed again. */
export async function keepApart(db: Db, ids: readonly [number, number], who: string): Promise<void> {
  const [firstId, secondId] = ids[0] < ids[1] ? ids : [ids[1], ids[0]]
  await db
    .insertInto('gearApart')
    .values({ firstId, secondId, who })
    .onConflict((conflict) => conflict.doNothing())
    .execute()
}

/**
 * Makes one gear of two: what saw the second sees the first from now on, and its readings, parts and alerts are the
 * first's. Nothing is lost: the second stays, unseen, and `undoMerge` takes them apart.
 * @throws CannotMerge when one source tells of both, or one of them is merged already
 */
export async function mergeGear(
  db: Db,
  { keptId, mergedId, who }: { keptId: number; mergedId: number; who: string },
): Promise<void> {
  await within(db, async (trx) => {
    const both = await lockBoth(trx, keptId, mergedId)
    const sightings = await trx
      .selectFrom('sighting')
      .select(['sourceId', 'key'])
      .where('gearId', '=', mergedId)
      .execute()
    const there = await trx.selectFrom('sighting').select('sourceId').where('gearId', '=', keptId).execute()
    if (sightings.some((each) => there.some(({ sourceId }) => sourceId === each.sourceId)))
      throw new CannotMerge('One source tells of both of them, so they are two.')
    for (const { sourceId } of sightings) await moveSource(trx, sourceId, mergedId, keptId)
    const identities = await trx
      .updateTable('gearIdentity')
      .set({ gearId: keptId })
      .where('gearId', '=', mergedId)
      .returning(['kind', 'value'])
      .execute()
    const links = await moveLinks(trx, mergedId, keptId)
    await sql`update device_text set gear_id = ${keptId} where gear_id = ${mergedId}`.execute(trx)
    await takeOver(trx, both)
    const moved: Moved = { sightings, identities: identities as Identity[], links }
    await trx
      .insertInto('gearMerge')
      .values({ keptId, mergedId, who, moved: JSON.stringify(moved) })
      .execute()
    await tell(
      trx,
      sightings.map((each) => each.sourceId),
    )
  })
}

/** @returns the links as they were */
async function moveLinks(trx: Db, from: number, to: number): Promise<Moved['links']> {
  const links = await trx
    .deleteFrom('link')
    .where((eb) => eb.or([eb('fromGearId', '=', from), eb('toGearId', '=', from)]))
    .returning(['kind', 'fromGearId', 'toGearId', 'fromPartId', 'toPartId', 'sourceId', 'who'])
    .execute()
  const swap = (id: number): number => (id === from ? to : id)
  for (const link of links) {
    const moved = { ...link, fromGearId: swap(link.fromGearId), toGearId: swap(link.toGearId) }
    if (moved.fromGearId !== moved.toGearId)
      await trx
        .insertInto('link')
        .values(moved)
        .onConflict((conflict) => conflict.doNothing())
        .execute()
  }
  return links
}

/** Facts, tags and, where there is none, the place of what is merged are those of what is kept; the other is hidden. */
async function takeOver(trx: Db, { kept, merged }: Awaited<ReturnType<typeof lockBoth>>): Promise<void> {
  const { rackId, unit, heightUnits, face } = merged
  await trx
    .updateTable('gear')
    .set({ mergedInto: kept.id, rackId: null, unit: null, heightUnits: null, face: null })
    .where('id', '=', merged.id)
    .execute()
  await trx
    .updateTable('gear')
    .set({
      facts: sql`${JSON.stringify(merged.facts)}::jsonb || facts`,
      tags: [...new Set([...kept.tags, ...merged.tags])],
      ...(kept.rackId === null && rackId !== null ? { rackId, unit, heightUnits, face } : {}),
    })
    .where('id', '=', kept.id)
    .execute()
}

async function lockBoth(trx: Db, keptId: number, mergedId: number) {
  if (keptId === mergedId) throw new CannotMerge('That is one gear already.')
  const rows = await trx
    .selectFrom('gear')
    .selectAll()
    .where('id', 'in', [keptId, mergedId])
    .orderBy('id')
    .forUpdate()
    .execute()
  const of = (id: number) => rows.find((row) => row.id === id)
  const [kept, merged] = [of(keptId), of(mergedId)]
  if (kept === undefined || merged === undefined) throw new CannotMerge('One of them is not there any more.')
  if (kept.mergedInto !== null || merged.mergedInto !== null)
    throw new CannotMerge('One of them was merged already; look at the list again.')
  return { kept, merged }
}

/**
 * What a source says of one gear is of another from now on: series with their readings, parts, alerts. A part that the
 * other gear has under the same key is that part; one that another source tells of, too, stays and is made anew there.
 */
async function moveSource(trx: Db, sourceId: number, from: number, to: number): Promise<void> {
  const parts = await trx
    .selectFrom('part')
    .selectAll()
    .where('gearId', '=', from)
    .where((eb) =>
      eb.exists(
        eb
          .selectFrom('series')
          .select('series.id')
          .whereRef('series.partId', '=', 'part.id')
          .where('series.sourceId', '=', sourceId),
      ),
    )
    .execute()
  await trx
    .updateTable('sighting')
    .set({ gearId: to })
    .where('sourceId', '=', sourceId)
    .where('gearId', '=', from)
    .execute()
  for (const part of parts) await movePart(trx, sourceId, part, to)
  await trx
    .updateTable('series')
    .set({ gearId: to })
    .where('sourceId', '=', sourceId)
    .where('gearId', '=', from)
    .execute()
  await sql`
    update alert set gear_id = series.gear_id, part_id = series.part_id from series
    where alert.series_id = series.id and series.source_id = ${sourceId} and series.gear_id = ${to}`.execute(
    trx,
  )
}

async function movePart(trx: Db, sourceId: number, part: Part, to: number): Promise<void> {
  const there = await trx
    .selectFrom('part')
    .select('id')
    .where('gearId', '=', to)
    .where('key', '=', part.key)
    .executeTakeFirst()
  if (there === undefined && !(await isShared(trx, sourceId, part.id))) {
    await trx.updateTable('part').set({ gearId: to }).where('id', '=', part.id).execute()
    return
  }
  const partId = there?.id ?? (await copyPart(trx, part, to))
  await trx
    .updateTable('series')
    .set({ partId })
    .where('partId', '=', part.id)
    .where('sourceId', '=', sourceId)
    .execute()
}

/** Whether another source tells of a part, too. */
async function isShared(trx: Db, sourceId: number, partId: number): Promise<boolean> {
  const other = await trx
    .selectFrom('series')
    .select('id')
    .where('partId', '=', partId)
    .where('sourceId', '<>', sourceId)
    .limit(1)
    .executeTakeFirst()
  return other !== undefined
}

async function copyPart(trx: Db, { id: _, facts, ...rest }: Part, to: number): Promise<number> {
  const made = await trx
    .insertInto('part')
    .values({ ...rest, gearId: to, facts: JSON.stringify(facts) })
    .returning('id')
    .executeTakeFirstOrThrow()
  return made.id
}

/** Takes apart what was merged: each source sees again what it saw before. @throws CannotMerge when that was done already */
export async function undoMerge(db: Db, mergeId: number, who: string): Promise<void> {
  await within(db, async (trx) => {
    const merge = await trx
      .updateTable('gearMerge')
      .set({ undoneAt: new Date(), undoneBy: who })
      .where('id', '=', mergeId)
      .where('undoneAt', 'is', null)
      .returningAll()
      .executeTakeFirst()
    if (merge === undefined) throw new CannotMerge('That was taken apart already.')
    const { keptId, mergedId, moved } = merge
    for (const { sourceId } of moved.sightings) await moveSource(trx, sourceId, keptId, mergedId)
    for (const { kind, value } of moved.identities)
      await trx
        .updateTable('gearIdentity')
        .set({ gearId: mergedId })
        .where('kind', '=', kind)
        .where('value', '=', value)
        .where('gearId', '=', keptId)
        .execute()
    await restoreLinks(trx, moved.links, mergedId, keptId)
    await trx.updateTable('gear').set({ mergedInto: null }).where('id', '=', mergedId).execute()
    await keepApart(trx, [keptId, mergedId], who)
    await tell(
      trx,
      moved.sightings.map((each) => each.sourceId),
    )
  })
}

async function restoreLinks(trx: Db, links: Moved['links'], mergedId: number, keptId: number): Promise<void> {
  const swap = (id: number): number => (id === mergedId ? keptId : id)
  for (const link of links) {
    await trx
      .deleteFrom('link')
      .where('kind', '=', link.kind as 'hosts')
      .where('fromGearId', '=', swap(link.fromGearId))
      .where('toGearId', '=', swap(link.toGearId))
      .execute()
    await trx
      .insertInto('link')
      .values({ ...link, kind: link.kind as 'hosts' })
      .onConflict((conflict) => conflict.doNothing())
      .execute()
  }
}

/**
 * A source sees another gear than was thought, as where two boxes have one serial number: it gets a gear of its own.
 * @returns the id of that
 * @throws CannotMerge when nothing else sees the gear
 */
export async function splitSource(
  db: Db,
  { gearId, sourceId, who }: { gearId: number; sourceId: number; who: string },
): Promise<number> {
  return within(db, async (trx) => {
    const sightings = await trx.selectFrom('sighting').selectAll().where('gearId', '=', gearId).execute()
    const own = sightings.find((each) => each.sourceId === sourceId)
    if (own === undefined || sightings.every((each) => each.sourceId === sourceId))
      throw new CannotMerge('Nothing else sees this gear; there is nothing to take apart.')
    const madeId = await ownGear(trx, own)
    await moveSource(trx, sourceId, gearId, madeId)
    await keepApart(trx, [gearId, madeId], who)
    await tell(trx, [sourceId])
    return madeId
  })
}

/** A gear for what a source says, named as it says. */
async function ownGear(
  trx: Db,
  { gearId, sourceId, key }: { gearId: number; sourceId: number; key: string },
): Promise<number> {
  const { name, kind } = await trx
    .selectFrom('gear')
    .select(['name', 'kind'])
    .where('id', '=', gearId)
    .executeTakeFirstOrThrow()
  const item = await trx
    .selectFrom('sourceItem')
    .select(['name', 'kind'])
    .where('sourceId', '=', sourceId)
    .where('gearKey', '=', key)
    .where('partKey', '=', '')
    .executeTakeFirst()
  const made = await trx
    .insertInto('gear')
    .values({
      name: item?.name ?? name,
      kind: (item?.kind ?? kind) as typeof kind,
      facts: '{}',
      rackId: null,
      unit: null,
      heightUnits: null,
    })
    .returning('id')
    .executeTakeFirstOrThrow()
  return made.id
}

/** Merges of a gear that can be undone, newest first. */
export const mergesOf = (db: Db, gearId: number) =>
  db
    .selectFrom('gearMerge')
    .innerJoin('gear', 'gear.id', 'gearMerge.mergedId')
    .select(['gearMerge.id', 'gearMerge.at', 'gearMerge.who', 'gear.name', 'gear.kind'])
    .where('keptId', '=', gearId)
    .where('undoneAt', 'is', null)
    .orderBy('gearMerge.id', 'desc')
    .execute()

/** Collectors look anew at where the findings of these sources go. */
const tell = (trx: Db, sourceIds: readonly number[]): Promise<void> =>
  announceAll(
    trx,
    [...new Set(sourceIds)].map((sourceId) => ({ topic: 'items' as const, sourceId })),
  )
