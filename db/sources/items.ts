import { sql } from 'kysely'
import type { GearKind, MeasureKey } from '#core/catalogue'
import { type Findings, type Identity, usableIdentities } from '#core/gear'
import type { Db } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import type { ItemState, NewItems } from './tables.ts'

/** Something that a source has shown: a gear (without `partKey`) or a part of one. */
export interface Item {
  readonly gearKey: string
  readonly partKey: string | null
  readonly kind: string
  readonly name: string
  readonly state: ItemState
  /** Why it is left out or waits: “no link”, “appeared on its own”. */
  readonly why: string | null
  readonly goneAt: Date | null
}

const keyOf = (gear: string, part: string | null): string => `${gear}\n${part ?? ''}`

/** Everything in findings as items, with what is usually not worth watching left out. */
export const itemsIn = (findings: Findings): Item[] =>
  findings.gear.flatMap(({ key, kind, name, idle, parts }) => [
    { gearKey: key, partKey: null, kind, name, ...pickOf(idle) },
    ...parts.map((part) => ({
      gearKey: key,
      partKey: part.key,
      kind: part.kind,
      name: part.name,
      ...pickOf(part.idle ?? idle),
    })),
  ])

const pickOf = (idle: string | undefined) => ({
  state: idle === undefined ? ('watched' as const) : ('left' as const),
  why: idle ?? null,
  goneAt: null,
})

/**
 * What of findings is watched. What appears for the first time is taken, left out where it is idle, or kept waiting, as
 * the source is set; what was there and is not any more is marked as gone, and as back when it returns.
 * @returns the findings without what is not watched, and which of their readings are kept
 */
export async function watchedOf(
  trx: Db,
  sourceId: number,
  findings: Findings,
): Promise<{ findings: Findings; kept: readonly number[] }> {
  const source = await trx
    .selectFrom('source')
    .select(['newItems', 'tokenHash'])
    .where('id', '=', sourceId)
    .executeTakeFirst()
  const known = new Map(
    (await listItems(trx, sourceId)).map((item) => [keyOf(item.gearKey, item.partKey), item]),
  )
  const found = itemsIn(findings)
  const fresh = found.filter((item) => !known.has(keyOf(item.gearKey, item.partKey)))
  const isSender = source?.tokenHash != null
  const foreign = isSender && known.size > 0 ? await foreignGear(trx, findings, fresh) : new Set<string>()
  await insertItems(
    trx,
    sourceId,
    fresh.map((item) =>
      foreign.has(item.gearKey)
        ? { ...item, state: 'waiting', why: 'a sender speaks for what it was claimed for' }
        : asNew(item, source?.newItems ?? 'take', known.size > 0),
    ),
  )
  const isThere = new Set(found.map((item) => keyOf(item.gearKey, item.partKey)))
  // A sender may tell of one gear at a time: only who is asked for everything tells what is gone.
  const gone = isSender ? [] : [...known.values()].filter(isGoneWithout(isThere))
  const back = [...known.values()].filter(
    (item) => item.goneAt !== null && isThere.has(keyOf(item.gearKey, item.partKey)),
  )
  await markGone(trx, sourceId, gone, true)
  await markGone(trx, sourceId, back, false)

  const states = new Map(
    (await listItems(trx, sourceId)).map((item) => [keyOf(item.gearKey, item.partKey), item.state]),
  )
  const isWatched = (gear: string, part: string | null): boolean =>
    states.get(keyOf(gear, null)) === 'watched' &&
    (part === null || (states.get(keyOf(gear, part)) ?? 'watched') === 'watched')
  const kept = findings.readings.flatMap(({ gear, part }, index) => (isWatched(gear, part) ? [index] : []))
  return {
    kept,
    findings: {
      ...findings,
      gear: findings.gear
        .filter(({ key }) => isWatched(key, null))
        .map((gear) => ({ ...gear, parts: gear.parts.filter((part) => isWatched(gear.key, part.key)) })),
      readings: kept.map((index) => findings.readings[index]!),
    },
  }
}

/** What lives on the gear of a sender comes and goes, from one to another, too. */
const LIVES_ON_OTHERS: ReadonlySet<string> = new Set<GearKind>(['machine', 'store', 'volume'])

/**
 * Gear that a sender names beside what it was claimed for: it waits for a word. What lives on others is taken, unless it
 * says that it is something else that is known here.
 */
async function foreignGear(
  trx: Db,
  { gear }: Findings,
  fresh: readonly Item[],
): Promise<ReadonlySet<string>> {
  const foreign = new Set<string>()
  for (const { gearKey, partKey, kind } of fresh) {
    if (partKey !== null) continue
    const found = gear.find(({ key }) => key === gearKey)
    const known = found === undefined ? null : await kindByIdentity(trx, found.identities)
    if (!LIVES_ON_OTHERS.has(kind) || (known !== null && !LIVES_ON_OTHERS.has(known))) foreign.add(gearKey)
  }
  return foreign
}

/** The kind of the gear that has one of these identities; `null` when there is none. */
async function kindByIdentity(trx: Db, identities: readonly Identity[]): Promise<string | null> {
  const usable = usableIdentities(identities)
  if (usable.length === 0) return null
  const row = await trx
    .selectFrom('gearIdentity')
    .innerJoin('gear', 'gear.id', 'gearIdentity.gearId')
    .select('gear.kind')
    .where((eb) =>
      eb.or(
        usable.map(({ kind, value }) => eb.and({ 'gearIdentity.kind': kind, 'gearIdentity.value': value })),
      ),
    )
    .executeTakeFirst()
  return row?.kind ?? null
}

const isGoneWithout =
  (isThere: ReadonlySet<string>) =>
  (item: Item): boolean =>
    item.goneAt === null && !isThere.has(keyOf(item.gearKey, item.partKey))

/** The first look takes what is sensible; what comes later may have to wait for a word. */
const asNew = (item: Item, policy: NewItems, isLater: boolean): Item =>
  isLater && policy === 'ask' && item.state === 'watched'
    ? { ...item, state: 'waiting', why: 'appeared by itself' }
    : item

export async function listItems(db: Db, sourceId: number): Promise<Item[]> {
  const rows = await db
    .selectFrom('sourceItem')
    .select(['gearKey', 'partKey', 'kind', 'name', 'state', 'why', 'goneAt'])
    .where('sourceId', '=', sourceId)
    .orderBy('gearKey')
    .orderBy('partKey')
    .execute()
  return rows.map((row) => ({ ...row, partKey: row.partKey === '' ? null : row.partKey }))
}

/** Keeps what is not there yet; what is there stays as it was picked. */
export async function insertItems(db: Db, sourceId: number, items: readonly Item[]): Promise<void> {
  if (items.length === 0) return
  await sql`
    insert into source_item (source_id, gear_key, part_key, kind, name, state, why, first_seen_at)
    select ${sourceId}::int, given.*, now() from unnest(
      ${items.map((item) => item.gearKey)}::text[], ${items.map((item) => item.partKey ?? '')}::text[],
      ${items.map((item) => item.kind)}::text[], ${items.map((item) => item.name)}::text[],
      ${items.map((item) => item.state)}::text[], ${items.map((item) => item.why)}::text[]
    ) as given
    on conflict do nothing`.execute(db)
}

async function markGone(trx: Db, sourceId: number, items: readonly Item[], isGone: boolean): Promise<void> {
  if (items.length === 0) return
  await sql`
    update source_item set gone_at = ${isGone ? sql`now()` : sql`null`}
    from unnest(${items.map((item) => item.gearKey)}::text[], ${items.map((item) => item.partKey ?? '')}::text[])
      as given (gear_key, part_key)
    where source_item.source_id = ${sourceId} and source_item.gear_key = given.gear_key
      and source_item.part_key = given.part_key`.execute(trx)
}

/** Watches or leaves out some of what a source shows. The collector goes by it from the next reading on. */
export async function pickItems(
  db: Db,
  sourceId: number,
  picks: readonly { gearKey: string; partKey: string | null; isWatched: boolean }[],
): Promise<void> {
  if (picks.length === 0) return
  await sql`
    update source_item set state = case when given.is_watched then 'watched' else 'left' end,
      why = case when given.is_watched then null else coalesce(why, 'left out by hand') end
    from unnest(
      ${picks.map((pick) => pick.gearKey)}::text[], ${picks.map((pick) => pick.partKey ?? '')}::text[],
      ${picks.map((pick) => pick.isWatched)}::boolean[]
    ) as given (gear_key, part_key, is_watched)
    where source_item.source_id = ${sourceId} and source_item.gear_key = given.gear_key
      and source_item.part_key = given.part_key
      and (source_item.state = 'watched') is distinct from given.is_watched`.execute(db)
  await announce(db, { topic: 'items', sourceId })
}

/** The series of a source by the keys of their gear and part. */
export const listItemSeries = (
  db: Db,
  sourceId: number,
): Promise<{ id: number; gear: string; part: string | null; measure: MeasureKey }[]> =>
  db
    .selectFrom('series')
    .innerJoin('sighting', (join) =>
      join.onRef('sighting.sourceId', '=', 'series.sourceId').onRef('sighting.gearId', '=', 'series.gearId'),
    )
    .leftJoin('part', 'part.id', 'series.partId')
    .leftJoin('sourceItem', (join) =>
      join
        .onRef('sourceItem.sourceId', '=', 'series.sourceId')
        .onRef('sourceItem.gearKey', '=', 'sighting.key')
        .onRef('sourceItem.partId', '=', 'series.partId'),
    )
    .select(['series.id', 'sighting.key as gear', 'series.measure'])
    .select((eb) => eb.fn.coalesce('sourceItem.partKey', 'part.key').as('part'))
    .where('series.sourceId', '=', sourceId)
    .orderBy('series.id')
    .execute()
