import { againstRow, combineRows, type Pick, rateRow, type Shows, showsOf } from '#core/past'
import type { Raster, Row } from '#core/readings'
import type { SubjectRow } from '#db/rules'

/** A pick with its series, or the series that were asked for one by one. */
export interface Member {
  readonly pick: Pick | null
  readonly words: string
  readonly series: readonly SubjectRow[]
  /** The series of the measure that it is compared with. */
  readonly others: readonly SubjectRow[]
}

/** One curve that is to be shown, before anything is drawn of it. */
export interface Wanted {
  readonly key: string
  readonly name: string
  readonly measure: SubjectRow['measure']
  readonly shows: Shows
  readonly gearId: number | null
  /** The series it is, when nothing is computed of it. */
  readonly series: SubjectRow | null
  /** What it was column by column, where that was read. */
  readonly row: Row | null
}

export const nameOf = ({ gearName, partName }: SubjectRow): string =>
  partName === null ? gearName : `${partName} in ${gearName}`

/** Names of the places that curves can be put together by. */
export interface Names {
  readonly racks: ReadonlyMap<number, string>
  readonly rooms: ReadonlyMap<number, string>
}

interface Around {
  readonly rows: ReadonlyMap<number, Row>
  readonly raster: Raster
  readonly names: Names
}

/** The curves of all members, out of what was read of each series. */
export const combined = (members: readonly Member[], around: Around): Wanted[] =>
  members.flatMap((member, index) => ofMember(member, index, around))

interface One {
  readonly series: SubjectRow
  readonly row: Row
}

function ofMember(
  { pick, series, others }: Member,
  index: number,
  { rows, raster, names }: Around,
): Wanted[] {
  const elsewhere = pick?.against?.from == null ? null : meanOf(others, rows, raster)
  const all: One[] = series.flatMap((subject) => {
    const own = rows.get(subject.id)
    if (own === undefined) return []
    const row = pick === null ? own : computed(pick, subject, own, { rows, others, elsewhere, raster })
    return row === null ? [] : [{ series: subject, row }]
  })
  if (pick === null || pick.together === 'each')
    return all.map(({ series: subject, row }) => ({
      key: pick === null ? `s${subject.id}` : `p${index}s${subject.id}`,
      name: nameOf(subject),
      measure: subject.measure,
      shows: showsOf(subject.measure, pick),
      gearId: subject.gearId,
      // A computed curve is no series any more.
      series: pick === null || (pick.against === null && !pick.isRate) ? subject : null,
      row,
    }))
  const how = pick.together
  return [...groupsOf(pick, all, names)].map(([name, own]) => ({
    key: `p${index}${name}`,
    name: name === '' ? `${how} of ${own.length}` : name,
    measure: pick.measure,
    shows: showsOf(pick.measure, pick),
    gearId: null,
    series: null,
    row: combineRows(
      how,
      own.map(({ row }) => row),
      raster,
    ),
  }))
}

function computed(
  { against, isRate }: Pick,
  subject: SubjectRow,
  own: Row,
  around: {
    readonly rows: ReadonlyMap<number, Row>
    readonly others: readonly SubjectRow[]
    /** The mean of all that it is compared with, where that is measured elsewhere. */
    readonly elsewhere: Row | null
    readonly raster: Raster
  },
): Row | null {
  const row = isRate ? rateRow(own, around.raster) : own
  if (against === null) return row
  if (against.from !== null)
    return around.elsewhere === null ? null : againstRow(against.how, row, around.elsewhere)
  const beside =
    around.others.find(({ gearId, partId }) => gearId === subject.gearId && partId === subject.partId) ??
    around.others.find(({ gearId, partId }) => gearId === subject.gearId && partId === null)
  const other = beside === undefined ? undefined : around.rows.get(beside.id)
  return other === undefined ? null : againstRow(against.how, row, other)
}

function meanOf(all: readonly SubjectRow[], rows: Around['rows'], raster: Raster): Row | null {
  const known = all.flatMap(({ id }) => rows.get(id) ?? [])
  return known.length === 0 ? null : combineRows('mean', known, raster)
}

/** What is put together, by the name of its curve; what has no such place is put together, too. */
function groupsOf({ per }: Pick, all: readonly One[], names: Names): Map<string, One[]> {
  const groups = new Map<string, One[]>()
  for (const each of all)
    for (const name of placesOf(per, each.series, names)) {
      const known = groups.get(name)
      if (known === undefined) groups.set(name, [each])
      else known.push(each)
    }
  return groups
}

function placesOf(
  per: Pick['per'],
  { gearName, rackId, roomId, cluster, tags }: SubjectRow,
  { racks, rooms }: Names,
): readonly string[] {
  switch (per) {
    case 'all':
      return ['']
    case 'gear':
      return [gearName]
    case 'rack':
      return [(rackId === null ? undefined : racks.get(rackId)) ?? 'in no rack']
    case 'room':
      return [(roomId === null ? undefined : rooms.get(roomId)) ?? 'in no room']
    case 'cluster':
      return [cluster ?? 'in no cluster']
    case 'tag':
      return tags.length === 0 ? ['without a tag'] : tags
  }
}
