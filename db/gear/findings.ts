import { type Selectable, sql } from 'kysely'
import { isSane, type MeasureKey, measureOf } from '#core/catalogue'
import type { Findings, GearFinding } from '#core/gear'
import { factChanges, type Identity, isContradicted, partChanges, usableIdentities } from '#core/gear'
import { recordGearChanges } from './changes.ts'
import type { Db } from '../platform/connect.ts'
import { announce } from '../platform/live.ts'
import { watchedOf } from '../sources/items.ts'
import { storeLinks } from '../links/links.ts'
import { storePages } from '../disks/pages.ts'
import type { GearTables } from './tables.ts'
import { insertMoments, layoutFor, type Stored } from '../readings/index.ts'

/**
 * Where the findings of one source go: the layout for their shape. Kept by the collector from one moment to the next,
 * so that a moment whose shape is known costs one insert.
 */
export interface Placement {
  readonly shape: string
  /** Of the gear alone. Placements of one source that share it can be taken in turns. */
  readonly gearShape: string
  readonly layout: { readonly id: number; readonly seriesIds: readonly number[] }
  /** Which of the readings go there, in the order of the layout: those of what is watched. */
  readonly kept: readonly number[]
}

const IDENTITY_LOCK = 7_301

/** Everything of findings that is not a value. Two moments of one shape go to the same places. */
export const shapeOf = (findings: Findings): string =>
  gearShapeOf(findings) +
  JSON.stringify(findings.readings.map(({ gear, part, measure }) => [gear, part, measure]))

const gearShapeOf = ({ gear, links, farLinks }: Findings): string => JSON.stringify([gear, links, farLinks])

/** Of so many shapes of one gear the places are remembered: measures that are kept less often come in turns. */
const MOST_SHAPES = 8

/** The placements of a source with the newest in front; those of another gear shape are out of date. */
export const withNewest = (known: readonly Placement[], newest: Placement): readonly Placement[] =>
  known[0] === newest
    ? known
    : [
        newest,
        ...known.filter((each) => each.gearShape === newest.gearShape && each.shape !== newest.shape),
      ].slice(0, MOST_SHAPES)

/** What one source brought at one instant. */
export interface FoundMoment {
  readonly sourceId: number
  readonly atMs: number
  readonly findings: Findings
}

/**
 * Stores moments: gear, parts and links as they are now, and the readings once.
 * @param placements what the last calls for each source returned (`withNewest`); taken where a shape is the same
 * @returns in the order of the moments: where the findings went, and what became of the readings
 */
export async function storeMoments(
  trx: Db,
  moments: readonly FoundMoment[],
  placements: ReadonlyMap<number, readonly Placement[]>,
): Promise<{ placement: Placement; stored: Stored }[]> {
  const placed = await placeAll(trx, moments, placements)
  await storePages(trx, moments)
  const stored = await insertMoments(
    trx,
    moments.map(({ sourceId, atMs, findings }, index) => ({
      sourceId,
      atMs,
      layout: placed[index]!.layout,
      values: keptValues(placed[index]!, findings),
    })),
  )
  return placed.map((placement, index) => ({ placement, stored: stored[index]! }))
}

async function placeAll(
  trx: Db,
  moments: readonly FoundMoment[],
  placements: ReadonlyMap<number, readonly Placement[]>,
): Promise<Placement[]> {
  const placed: Placement[] = []
  const newest = new Map(placements)
  for (const { sourceId, findings } of moments) {
    const shape = shapeOf(findings)
    const known = newest.get(sourceId) ?? []
    const placement =
      known.find((each) => each.shape === shape) ?? (await place(trx, sourceId, findings, shape))
    newest.set(sourceId, withNewest(known, placement))
    placed.push(placement)
  }
  return placed
}

/** The values of findings that are kept, in the order of their layout. What cannot be one of its measure is no reading. */
export const keptValues = ({ kept }: Pick<Placement, 'kept'>, findings: Findings): (number | null)[] =>
  kept.map((index) => {
    const { measure, value } = findings.readings[index]!
    return value === null || isSane(measureOf(measure), value) ? value : null
  })

/** The same for one moment. */
export async function storeFindings(
  trx: Db,
  moment: FoundMoment,
  placement: Placement | null,
): Promise<{ placement: Placement; stored: Stored }> {
  const known = placement === null ? [] : [[moment.sourceId, [placement]] as const]
  return (await storeMoments(trx, [moment], new Map(known)))[0]!
}

async function place(trx: Db, sourceId: number, all: Findings, shape: string): Promise<Placement> {
  // Two sources may see one new box at the same moment: whoever comes second must find it.
  await sql`select pg_advisory_xact_lock(${IDENTITY_LOCK})`.execute(trx)
  const { findings, kept } = await watchedOf(trx, sourceId, all)
  const gearIds = new Map<string, number>()
  const partIds = new Map<string, number>()
  const seen = await seenBefore(trx, sourceId, findings)
  for (const found of findings.gear) {
    const gearId = await placeGear(trx, sourceId, found, seen)
    gearIds.set(found.key, gearId)
    const parts = await placeParts(trx, sourceId, { gearId, found })
    for (const [key, id] of parts) partIds.set(`${found.key}\n${key}`, id)
    await sql`
      update source_item set part_id = given.id
      from unnest(${[...parts.keys()]}::text[], ${[...parts.values()]}::int[]) as given (key, id)
      where source_id = ${sourceId} and gear_key = ${found.key} and part_key = given.key
        and part_id is distinct from given.id`.execute(trx)
  }
  await storeLinks(trx, sourceId, findings, {
    gear: (key) => gearIds.get(key) ?? null,
    part: (key, part) => (part === null ? null : (partIds.get(`${key}\n${part}`) ?? null)),
  })
  const seriesIds = await storeSeries(trx, sourceId, findings, { gearIds, partIds })
  return {
    shape,
    gearShape: gearShapeOf(all),
    kept,
    layout: { id: await layoutFor(trx, sourceId, seriesIds), seriesIds },
  }
}

interface PlacedIds {
  readonly gearIds: ReadonlyMap<string, number>
  /** By the key of the gear, a line feed, and the key of the part. */
  readonly partIds: ReadonlyMap<string, number>
}

interface SeriesPlace {
  readonly gearId: number
  readonly partId: number | null
  readonly measure: MeasureKey
}

const seriesKey = ({ gearId, partId, measure }: SeriesPlace): string => `${gearId} ${partId} ${measure}`

/** @returns the series of the readings, in their order */
async function storeSeries(
  trx: Db,
  sourceId: number,
  { readings }: Findings,
  { gearIds, partIds }: PlacedIds,
): Promise<number[]> {
  const places = readings.map(({ gear, part, measure }): SeriesPlace => {
    const gearId = gearIds.get(gear)
    if (gearId === undefined)
      throw new Error(`a reading of ${measure} names gear ${gear}, which was not found with it`)
    return { gearId, partId: part === null ? null : (partIds.get(`${gear}\n${part}`) ?? null), measure }
  })
  const known = await trx
    .selectFrom('series')
    .select(['id', 'gearId', 'partId', 'measure'])
    .where('sourceId', '=', sourceId)
    .execute()
  const ids = new Map(known.map((series) => [seriesKey(series), series.id]))
  const missing = new Map(
    places.filter((place) => !ids.has(seriesKey(place))).map((place) => [seriesKey(place), place]),
  )
  for (const made of await insertSeries(trx, sourceId, [...missing.values()]))
    ids.set(seriesKey(made), made.id)
  if (missing.size > 0) await announce(trx, { topic: 'series' })
  return places.map((place) => ids.get(seriesKey(place))!)
}

/** All at once: a first push may bring thousands. Nobody else makes series of gear that is being placed. */
async function insertSeries(
  trx: Db,
  sourceId: number,
  places: readonly SeriesPlace[],
): Promise<(SeriesPlace & { readonly id: number })[]> {
  const { rows } = await sql<SeriesPlace & { readonly id: number }>`
    insert into series (source_id, gear_id, part_id, measure)
    select ${sourceId}, gear_id, part_id, measure
    from unnest(
      ${places.map(({ gearId }) => gearId)}::int[], ${places.map(({ partId }) => partId)}::int[],
      ${places.map(({ measure }) => measure)}::text[]
    ) with ordinality as given (gear_id, part_id, measure, slot)
    order by slot
    returning id, gear_id, part_id, measure`.execute(trx)
  return rows
}

type GearFacts = Readonly<Record<string, string>>

/** The gear that a source has shown before, and what is known of it. Both grow while more of it is placed. */
interface Seen {
  readonly gearIds: Map<string, number>
  readonly facts: Map<number, GearFacts>
}

async function seenBefore(trx: Db, sourceId: number, { gear }: Findings): Promise<Seen> {
  const rows = await trx
    .selectFrom('sighting')
    .innerJoin('gear', 'gear.id', 'sighting.gearId')
    .select(['sighting.key', 'sighting.gearId', 'gear.facts'])
    .where('sighting.sourceId', '=', sourceId)
    .where(sql<boolean>`sighting.key = any(${gear.map(({ key }) => key)}::text[])`)
    .execute()
  return {
    gearIds: new Map(rows.map(({ key, gearId }) => [key, gearId])),
    facts: new Map(rows.map(({ gearId, facts }) => [gearId, facts])),
  }
}

/** The gear a finding is about: by an earlier sighting, else by identity in order of precedence, else a new one. */
async function placeGear(trx: Db, sourceId: number, found: GearFinding, seen: Seen): Promise<number> {
  const identities = usableIdentities(found.identities)
  const before = seen.gearIds.get(found.key)
  const gearId = before ?? (await byIdentity(trx, identities)) ?? (await newGear(trx, found))
  seen.gearIds.set(found.key, gearId)
  if (before === undefined)
    await trx
      .insertInto('sighting')
      .values({ sourceId, key: found.key, gearId })
      .onConflict((conflict) => conflict.doNothing())
      .execute()
  if (identities.length > 0)
    await trx
      .insertInto('gearIdentity')
      .values(identities.map(({ kind, value }) => ({ kind, value, gearId })))
      .onConflict((conflict) => conflict.doNothing())
      .execute()
  const facts = seen.facts.get(gearId) ?? (await factsOf(trx, gearId))
  seen.facts.set(gearId, { ...facts, ...found.facts })
  await recordGearChanges(trx, gearId, factChanges(facts, found.facts))
  if (Object.entries(found.facts).some(([key, value]) => facts[key] !== value))
    await trx
      .updateTable('gear')
      .set({ facts: sql`facts || ${JSON.stringify(found.facts)}::jsonb` })
      .where('id', '=', gearId)
      .execute()
  return gearId
}

async function factsOf(trx: Db, gearId: number): Promise<GearFacts> {
  const row = await trx.selectFrom('gear').select('facts').where('id', '=', gearId).executeTakeFirstOrThrow()
  return row.facts
}

/**
 * The gear that has one of these identities, the strongest first. One that is shared does not count where a stronger one
 * speaks against it: two boxes of one serial number are two, and are proposed to people.
 */
async function byIdentity(trx: Db, identities: readonly Identity[]): Promise<number | undefined> {
  for (const { kind, value } of identities) {
    const known = await trx
      .selectFrom('gearIdentity')
      .select('gearId')
      .where('kind', '=', kind)
      .where('value', '=', value)
      .executeTakeFirst()
    if (known === undefined) continue
    const theirs = await trx
      .selectFrom('gearIdentity')
      .select(['kind', 'value'])
      .where('gearId', '=', known.gearId)
      .execute()
    if (!isContradicted(identities, theirs as Identity[], kind)) return known.gearId
  }
  return undefined
}

/** The gear with one of these identities, in their order, and who sees it. */
export async function findByIdentity(
  db: Db,
  identities: readonly Identity[],
): Promise<{ id: number; gear: string; sources: string[] } | null> {
  const id = await byIdentity(db, identities)
  if (id === undefined) return null
  const { name } = await db.selectFrom('gear').select('name').where('id', '=', id).executeTakeFirstOrThrow()
  const sources = await db
    .selectFrom('sighting')
    .innerJoin('source', 'source.id', 'sighting.sourceId')
    .select('source.name')
    .where('sighting.gearId', '=', id)
    .orderBy('source.name')
    .execute()
  return { id, gear: name, sources: sources.map((source) => source.name) }
}

async function newGear(trx: Db, found: GearFinding): Promise<number> {
  const made = await trx
    .insertInto('gear')
    .values({ name: found.name, kind: found.kind, facts: '{}', rackId: null, unit: null, heightUnits: null })
    .returning('id')
    .executeTakeFirstOrThrow()
  return made.id
}

/**
 * The parts of a gear as this source reports them. A part that another source reports under another key is known by its
 * serial number. What this source reported before and reports no longer is kept, and marked as not present.
 */
async function placeParts(
  trx: Db,
  sourceId: number,
  { gearId, found }: { gearId: number; found: GearFinding },
): Promise<Map<string, number>> {
  if (found.parts.length === 0) return new Map()
  const known = await trx
    .selectFrom('part')
    .select(['id', 'key', 'kind', 'name', 'facts', 'isPresent'])
    .where('gearId', '=', gearId)
    .execute()
  const same = sameParts(known, found)
  await recordPartChanges(trx, sourceId, { gearId, found, known, same })
  await sql`
    update part set is_present = false
    from source_item item
    where part.gear_id = ${gearId} and item.source_id = ${sourceId} and item.gear_key = ${found.key}
      and item.part_key = part.key and part.key <> all(${found.parts.map((part) => part.key)}::text[])`.execute(
    trx,
  )
  for (const part of found.parts.filter(({ key }) => same.has(key)))
    await trx
      .updateTable('part')
      .set({ facts: sql`facts || ${JSON.stringify(part.facts)}::jsonb`, isPresent: true })
      .where('id', '=', same.get(part.key)!)
      .execute()
  const own = await writeParts(
    trx,
    gearId,
    found.parts.filter(({ key }) => !same.has(key)),
  )
  return new Map([...same, ...own])
}

type KnownPart = Pick<Selectable<GearTables['part']>, 'id' | 'key' | 'kind' | 'name' | 'facts' | 'isPresent'>

/** Parts that another source tells of under another key: the id of each by the key that it has here. */
function sameParts(known: readonly KnownPart[], found: GearFinding): Map<string, number> {
  const keys = new Set(known.map((part) => part.key))
  return new Map(
    found.parts.flatMap((part) => {
      const serial = serialOf(part.facts)
      if (keys.has(part.key) || serial === null) return []
      const other = known.find((each) => each.kind === part.kind && serialOf(each.facts) === serial)
      return other === undefined ? [] : [[part.key, other.id] as const]
    }),
  )
}

async function recordPartChanges(
  trx: Db,
  sourceId: number,
  {
    gearId,
    found,
    known,
    same,
  }: {
    gearId: number
    found: GearFinding
    known: readonly KnownPart[]
    same: ReadonlyMap<string, number>
  },
): Promise<void> {
  // Of this source alone: what others tell of is theirs to take away.
  const told = await trx
    .selectFrom('sourceItem')
    .select('partId')
    .where('sourceId', '=', sourceId)
    .where('gearKey', '=', found.key)
    .where('partId', 'is not', null)
    .execute()
  const mine = new Set(told.map(({ partId }) => partId))
  const keyOf = new Map(known.map(({ id, key }) => [id, key]))
  const changes = partChanges(
    known.filter((part) => part.isPresent && mine.has(part.id)),
    found.parts.map((part) => ({ ...part, key: keyOf.get(same.get(part.key) ?? 0) ?? part.key })),
  )
  const idOf = new Map(known.map(({ id, key }) => [key, id]))
  await recordGearChanges(
    trx,
    gearId,
    changes.map((change) => ({ ...change, partId: idOf.get(change.key) ?? null })),
  )
}

/** @returns the id of each by its key */
async function writeParts(
  trx: Db,
  gearId: number,
  parts: GearFinding['parts'],
): Promise<(readonly [string, number])[]> {
  if (parts.length === 0) return []
  const rows = await trx
    .insertInto('part')
    .values(
      parts.map(({ key, kind, name, facts }) => ({ gearId, key, kind, name, facts: JSON.stringify(facts) })),
    )
    .onConflict((conflict) =>
      conflict.columns(['gearId', 'key']).doUpdateSet((eb) => ({
        kind: eb.ref('excluded.kind'),
        name: eb.ref('excluded.name'),
        // What another source knows of the same thing stays known; of another thing in its place nothing is.
        facts: sql`case when part.facts ->> 'serial' = excluded.facts ->> 'serial'
          then part.facts || excluded.facts else excluded.facts end`,
        isPresent: true,
      })),
    )
    .returning(['id', 'key'])
    .execute()
  return rows.map((row) => [row.key, row.id] as const)
}

function serialOf(facts: Readonly<Record<string, string>>): string | null {
  const [identity] = usableIdentities([{ kind: 'serial', value: facts['serial'] ?? '' }])
  return identity?.value ?? null
}
