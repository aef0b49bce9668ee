import { containersOf, tagsOf } from '#core/gear'
import {
  type GearKind,
  JUDGED_AS_WHOLE,
  type MeasureKey,
  type PartKind,
  roleOfPart,
  type SensorRole,
} from '#core/catalogue'
import { type AtRack, atRackOf, type RackOnFloor } from '#core/site'
import { sql } from 'kysely'
import type { GearClasses, SeriesCount, Subject } from '#core/rules'
import type { Db } from '../platform/connect.ts'
import { listGroups, listTagRules } from '../gear/groups.ts'

/** A series as rules and their sentences see it. */
export interface SubjectRow extends Subject {
  readonly id: number
  readonly sourceId: number
  readonly gearName: string
  readonly partName: string | null
}

/** A gear with where scopes find it: what hangs on or before a rack is of that rack. */
export interface GearScope extends Omit<Subject, 'measure' | 'partKind' | 'partId'> {
  readonly gearName: string
  /** Groups to which it belongs by itself, and not by a group that belongs to them. */
  readonly ownGroupIds: readonly number[]
}

/**
 * Whom scopes can find: every gear with its tags, given or by rule, its place, its cluster and its groups.
 * @param gearIds only these, when given
 */
export async function listGearScopes(db: Db, gearIds?: readonly number[]): Promise<Map<number, GearScope>> {
  const [{ rows }, racks, tagRules, groups] = await Promise.all([
    sql<ScopedGear>`
      select gear.id, gear.name, gear.kind, gear.tags, gear.rack_id as "rackId",
        coalesce(rack.room_id, floor_place.room_id) as "roomId", gear.facts ->> 'cluster' as cluster,
        coalesce(seen.ids, '{}') as "sourceIds",
        floor_place.x_mm + floor_place.width_mm / 2 as "xMm", floor_place.y_mm + floor_place.depth_mm / 2 as "yMm"
      from gear
      left join rack on rack.id = gear.rack_id
      left join floor_place on floor_place.gear_id = gear.id
      left join (select gear_id, array_agg(source_id) as ids from sighting group by gear_id) seen on seen.gear_id = gear.id
      where gear.merged_into is null and (${gearIds === undefined} or gear.id = any(${[...(gearIds ?? [])]}::int[]))`.execute(
      db.withoutPlugins(),
    ),
    racksOnFloor(db),
    listTagRules(db),
    listGroups(db),
  ])
  const named = groups.map(({ id, memberIds, tag }) => ({ id, tag, members: new Set(memberIds) }))
  const containers = containersOf(groups)
  return new Map(
    rows.map((each) => {
      const at = each.rackId === null ? hangsAt(each, racks) : null
      const rackId = each.rackId ?? at?.rackId ?? null
      const tags = tagsOf({ ...each, rackId }, tagRules)
      const ownGroupIds = named.flatMap(({ id, members, tag }) =>
        members.has(each.id) || (tag !== null && tags.includes(tag)) ? [id] : [],
      )
      return [
        each.id,
        {
          gearId: each.id,
          gearName: each.name,
          gearKind: each.kind,
          tags,
          rackId,
          ...(at === null
            ? {}
            : { role: at.side === 'front' ? 'intake' : at.side === 'back' ? 'exhaust' : null }),
          roomId: each.roomId,
          cluster: each.cluster,
          ownGroupIds,
          groupIds: [...new Set(ownGroupIds.flatMap((id) => [id, ...(containers.get(id) ?? [])]))],
        },
      ]
    }),
  )
}

/** Racks of which is known where they stand. */
export const racksOnFloor = (db: Db): Promise<RackOnFloor[]> =>
  db
    .selectFrom('rack')
    .select(['id', 'roomId', 'xMm', 'yMm', 'widthMm', 'depthMm', 'turn'])
    .where('xMm', 'is not', null)
    .where('yMm', 'is not', null)
    .$narrowType<{ xMm: number; yMm: number }>()
    .execute()

function hangsAt({ kind, roomId, xMm, yMm }: ScopedGear, racks: readonly RackOnFloor[]): AtRack | null {
  return roomId === null || xMm === null || yMm === null ? null : atRackOf({ kind, roomId, xMm, yMm }, racks)
}

interface ScopedGear {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly tags: string[]
  readonly rackId: number | null
  readonly roomId: number | null
  readonly cluster: string | null
  readonly sourceIds: number[]
  /** The middle of what stands on the floor. */
  readonly xMm: number | null
  readonly yMm: number | null
}

interface SeriesOfSource {
  readonly id: number
  readonly sourceId: number
  readonly measure: MeasureKey
  readonly gearId: number
  readonly partId: number | null
  readonly partName: string | null
  readonly partKind: PartKind | null
  readonly hasWhole: boolean
  readonly gearKind: GearKind
  /** Where its device says that it measures. */
  readonly context: string | null
}

/** Whether a series is of a part whose gear tells the same of itself as a whole. */
const hasWhole = sql<boolean>`(
  series.part_id is not null and series.measure = any(${[...JUDGED_AS_WHOLE]}::text[]) and exists (
    select 1 from series whole
    where whole.gear_id = series.gear_id and whole.measure = series.measure and whole.part_id is null))`

/** The series of one source, of some gear, or of all, as rules see them. */
export async function listSubjects(
  db: Db,
  only: {
    readonly sourceId?: number
    readonly gearIds?: readonly number[]
    readonly measures?: readonly MeasureKey[]
    readonly ids?: readonly number[]
  },
  scopes?: ReadonlyMap<number, GearScope>,
): Promise<SubjectRow[]> {
  if ([only.gearIds, only.measures, only.ids].some((each) => each?.length === 0)) return []
  const rows = (await db
    .selectFrom('series')
    .innerJoin('gear', 'gear.id', 'series.gearId')
    .leftJoin('part', 'part.id', 'series.partId')
    .select([
      'series.id',
      'series.sourceId',
      'series.measure',
      'series.gearId',
      'series.partId',
      'gear.kind as gearKind',
      'part.name as partName',
      'part.kind as partKind',
      hasWhole.as('hasWhole'),
      sql<string | null>`part.facts ->> 'context'`.as('context'),
    ])
    .$if(only.sourceId !== undefined, (query) => query.where('series.sourceId', '=', only.sourceId!))
    .$if(only.gearIds !== undefined, (query) =>
      query.where(sql<boolean>`series.gear_id = any(${[...only.gearIds!]}::int[])`),
    )
    .$if(only.measures !== undefined, (query) => query.where('series.measure', 'in', [...only.measures!]))
    .$if(only.ids !== undefined, (query) =>
      query.where(sql<boolean>`series.id = any(${[...only.ids!]}::int[])`),
    )
    .orderBy('series.id')
    .execute()) as SeriesOfSource[]
  const isAll = only.sourceId === undefined && only.gearIds === undefined && only.ids === undefined
  const gearIds = isAll ? undefined : [...new Set(rows.map(({ gearId }) => gearId))]
  const gear = scopes ?? (await listGearScopes(db, gearIds))
  return rows.flatMap(({ context, ...row }) => {
    const scope = gear.get(row.gearId)
    if (scope === undefined) return []
    return [{ ...scope, ...row, role: roleIn(scope, row.partKind, context) }]
  })
}

/** Where a series measures: a gear as a whole by where it hangs. */
const roleIn = (
  scope: Pick<GearScope, 'role'>,
  partKind: PartKind | null,
  context: string | null,
): SensorRole | null => (partKind === null ? (scope.role ?? null) : roleOfPart(partKind, context))

interface Counted {
  /** What it was counted for and from. */
  readonly key: string
  readonly atMs: number
  readonly counts: readonly SeriesCount[]
}

/** The last count of each database: it takes its time with tens of thousands of series, and seldom differs. */
const counted = new WeakMap<Db, Counted>()
/** What neither a new series nor a new class of gear would show, a part of another kind, is seen after this. */
const COUNTED_FOR_MS = 60_000

/** How many series of each class of gear are of which measure and kind of part. */
export async function countSeriesByClass(
  db: Db,
  classes: GearClasses,
  nowMs: number,
): Promise<readonly SeriesCount[]> {
  const { rows } = await sql<{ mark: string }>`
    select concat_ws(' ', count(*), max(id)) as mark from series`.execute(db)
  const key = `${rows[0]!.mark} ${JSON.stringify(classes)}`
  const last = counted.get(db)
  if (last?.key === key && nowMs - last.atMs < COUNTED_FOR_MS) return last.counts
  const counts = await countAnew(db, classes)
  counted.set(db, { key, atMs: nowMs, counts })
  return counts
}

async function countAnew(db: Db, { classes, partIds }: GearClasses): Promise<SeriesCount[]> {
  const gearIds = classes.flatMap((each) => each.gearIds)
  const of = classes.flatMap((each, index) => each.gearIds.map(() => index))
  const { rows } = await sql<Omit<SeriesCount, 'role'> & { context: string | null }>`
    select class.of, measure, part.kind as "partKind", part.facts ->> 'context' as context, named.id as "partId", ${hasWhole} as "hasWhole", count(*)::int as count
    from series
    join unnest(${gearIds}::int[], ${of}::int[]) as class (gear_id, of) using (gear_id)
    left join part on part.id = series.part_id
    left join unnest(${[...partIds]}::int[]) as named (id) on named.id = series.part_id
    group by 1, 2, 3, 4, 5, 6`.execute(db)
  return rows.map(({ context, ...each }) => ({
    ...each,
    role: roleIn(classes[each.of]!.example, each.partKind, context),
  }))
}

/** The series of another measure of the same part; where there is none, of the gear itself. */
export function findBeside(
  all: readonly SubjectRow[],
  subject: SubjectRow,
  measure: MeasureKey,
): number | null {
  const own = all.filter((each) => each.gearId === subject.gearId && each.measure === measure)
  const beside =
    own.find(({ partId }) => partId === subject.partId) ?? own.find(({ partId }) => partId === null)
  return beside?.id ?? null
}

/** The subject of one series. */
export async function findSubject(db: Db, seriesId: number): Promise<SubjectRow | undefined> {
  const series = await db.selectFrom('series').select('gearId').where('id', '=', seriesId).executeTakeFirst()
  if (series === undefined) return undefined
  return (await listSubjects(db, { gearIds: [series.gearId] })).find(({ id }) => id === seriesId)
}
