import { sql } from 'kysely'
import type { GearKind, LinkKind } from '#core/catalogue'
import { type FarEnd, type Findings, usableIdentities } from '#core/gear'
import type { Db } from '../platform/connect.ts'

/** Ids of what the findings of one source name. */
interface Ends {
  gear(key: string): number | null
  part(gear: string, part: string | null): number | null
}

/**
 * Keeps the links that a source tells of, and takes away those that it tells of no longer. A far end that is not known
 * yet waits: `joinFarEnds` finds it when it comes.
 */
export async function storeLinks(trx: Db, sourceId: number, findings: Findings, ends: Ends): Promise<void> {
  const told = findings.links.flatMap(({ kind, from, to, fromPart = null, toPart = null }) => {
    const [fromGearId, toGearId] = [ends.gear(from), ends.gear(to)]
    if (fromGearId === null || toGearId === null || fromGearId === toGearId) return []
    return [
      {
        kind,
        fromGearId,
        toGearId,
        fromPartId: ends.part(from, fromPart),
        toPartId: ends.part(to, toPart),
        sourceId,
      },
    ]
  })
  await trx.deleteFrom('linkTold').where('sourceId', '=', sourceId).execute()
  await trx.deleteFrom('link').where('sourceId', '=', sourceId).execute()
  if (told.length > 0)
    await trx
      .insertInto('link')
      .values(told)
      .onConflict((conflict) => conflict.doNothing())
      .execute()
  const far = (findings.farLinks ?? []).flatMap(({ kind, gear, part, isFrom, far: end }) => {
    const gearId = ends.gear(gear)
    if (gearId === null) return []
    return [{ sourceId, kind, gearId, partId: ends.part(gear, part), isFrom, far: JSON.stringify(end) }]
  })
  if (far.length > 0) await trx.insertInto('linkTold').values(far).execute()
  await joinFarEnds(trx)
}

/** Makes links of all that were told of whose far end is known by now. */
export async function joinFarEnds(trx: Db): Promise<void> {
  const waiting = await trx
    .selectFrom('linkTold')
    .select(['id', 'sourceId', 'kind', 'gearId', 'partId', 'isFrom', 'far'])
    .where('linkId', 'is', null)
    .execute()
  for (const told of waiting) {
    const other = await findFarEnd(trx, told.far)
    if (other === null || other.gearId === told.gearId) continue
    const near = { gearId: told.gearId, partId: told.partId }
    const [from, to] = told.isFrom ? [near, other] : [other, near]
    const row = {
      kind: told.kind,
      fromGearId: from.gearId,
      toGearId: to.gearId,
      fromPartId: from.partId,
      toPartId: to.partId,
      sourceId: told.sourceId,
    }
    const made = await trx
      .insertInto('link')
      .values(row)
      .onConflict((conflict) => conflict.constraint('link_once').doUpdateSet({ kind: told.kind }))
      .returning('id')
      .executeTakeFirstOrThrow()
    await trx.updateTable('linkTold').set({ linkId: made.id }).where('id', '=', told.id).execute()
  }
}

/** By identity in order of precedence, else by a name that one gear alone has. */
async function findFarEnd(trx: Db, far: FarEnd): Promise<{ gearId: number; partId: number | null } | null> {
  const gearId = (await byIdentity(trx, far)) ?? (await byName(trx, far))
  if (gearId === null) return null
  if (far.part === null) return { gearId, partId: null }
  const part = await trx
    .selectFrom('part')
    .select('id')
    .where('gearId', '=', gearId)
    .where('isPresent', '=', true)
    .where((eb) => eb(eb.fn<string>('lower', ['name']), '=', far.part!.toLowerCase()))
    .executeTakeFirst()
  return { gearId, partId: part?.id ?? null }
}

async function byIdentity(trx: Db, far: FarEnd): Promise<number | null> {
  for (const { kind, value } of usableIdentities(far.identities)) {
    const known = await trx
      .selectFrom('gearIdentity')
      .select('gearId')
      .where('kind', '=', kind)
      .where('value', '=', value)
      .executeTakeFirst()
    if (known !== undefined) return known.gearId
  }
  return null
}

async function byName(trx: Db, { name }: FarEnd): Promise<number | null> {
  if (name === null) return null
  const found = await trx
    .selectFrom('gear')
    .select('id')
    .where('mergedInto', 'is', null)
    .where((eb) => eb(eb.fn<string>('lower', ['name']), '=', name.toLowerCase()))
    .limit(2)
    .execute()
  return found.length === 1 ? found[0]!.id : null
}

export interface DrawnLink {
  readonly kind: LinkKind
  readonly fromGearId: number
  readonly toGearId: number
  readonly fromPartId?: number | null
  readonly toPartId?: number | null
}

/** A link that a person draws. @returns whether it is new */
export async function drawLink(db: Db, link: DrawnLink, who: string): Promise<boolean> {
  const made = await db
    .insertInto('link')
    .values({ ...link, who })
    .onConflict((conflict) => conflict.doNothing())
    .returning('id')
    .executeTakeFirst()
  return made !== undefined
}

/** Takes away a link that a person drew. What a source tells of stays. @returns whether there was one */
export async function eraseLink(db: Db, id: number): Promise<boolean> {
  const gone = await db
    .deleteFrom('link')
    .where('id', '=', id)
    .where('sourceId', 'is', null)
    .returning('id')
    .executeTakeFirst()
  return gone !== undefined
}

export interface LinkRow {
  readonly id: number
  readonly kind: LinkKind
  readonly fromGearId: number
  readonly toGearId: number
  readonly fromPartId: number | null
  readonly toPartId: number | null
  readonly fromPart: string | null
  readonly toPart: string | null
  readonly source: string | null
  readonly who: string | null
}

/** A link with the gear at its ends. */
export interface LinkAndEnds extends LinkRow {
  readonly fromName: string
  readonly fromKind: GearKind
  readonly toName: string
  readonly toKind: GearKind
}

type Snippet = ReturnType<typeof sql>

const selectLinks = (more: { readonly columns: Snippet; readonly joined: Snippet }) => sql`
  select distinct on (link.kind, from_gear_id, to_gear_id, from_part_id, to_part_id)
    link.id, link.kind, from_gear_id as "fromGearId", to_gear_id as "toGearId",
    from_part_id as "fromPartId", to_part_id as "toPartId",
    a.name as "fromPart", b.name as "toPart", source.name as source, link.who${more.columns}
  from link
  left join part a on a.id = from_part_id left join part b on b.id = to_part_id
  left join source on source.id = link.source_id${more.joined}
  order by link.kind, from_gear_id, to_gear_id, from_part_id, to_part_id, link.id`

/** All links, each once however many sources tell of it. */
export async function listAllLinks(db: Db): Promise<LinkRow[]> {
  const found = selectLinks({ columns: sql``, joined: sql`` })
  return (await sql<LinkRow>`${found}`.execute(db.withoutPlugins())).rows
}

/** The same with the gear at both ends, by the gear at either. */
export async function linksByGear(db: Db): Promise<Map<number, LinkAndEnds[]>> {
  const found = selectLinks({
    columns: sql`, one.name as "fromName", one.kind as "fromKind", other.name as "toName", other.kind as "toKind"`,
    joined: sql` join gear one on one.id = from_gear_id join gear other on other.id = to_gear_id`,
  })
  const { rows } = await sql<LinkAndEnds>`${found}`.execute(db.withoutPlugins())
  const byGear = new Map<number, LinkAndEnds[]>()
  for (const link of rows)
    for (const end of [link.fromGearId, link.toGearId]) {
      const known = byGear.get(end)
      if (known === undefined) byGear.set(end, [link])
      else known.push(link)
    }
  return byGear
}

/** Which gear is linked with which, each pair of a kind once, and nothing else of it. */
export async function listLinkedPairs(
  db: Db,
): Promise<{ readonly kind: LinkKind; readonly fromId: number; readonly toId: number }[]> {
  return db
    .selectFrom('link')
    .select(['kind', 'fromGearId as fromId', 'toGearId as toId'])
    .distinct()
    .execute()
}

export interface LivePartRow {
  readonly id: number
  readonly sourceId: number
  readonly partId: number
  readonly kind: 'port' | 'outlet' | 'supply'
}

/** Of some parts, the series that say whether a port, an outlet or a supply carries anything. */
export async function listLiveParts(db: Db, partIds: readonly number[]): Promise<LivePartRow[]> {
  if (partIds.length === 0) return []
  const { rows } = await sql<LivePartRow>`
    select series.id, source_id as "sourceId", part_id as "partId", part.kind
    from part join series on series.gear_id = part.gear_id and series.part_id = part.id
    where part.id = any(${[...partIds]}::int[]) and part.kind in ('port', 'outlet', 'supply')
      and measure in ('hw.network.up', 'hw.outlet.state', 'hw.voltage')`.execute(db.withoutPlugins())
  return rows
}
