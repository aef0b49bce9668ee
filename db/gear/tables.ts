import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { GearKind, MeasureKey, PartKind } from '#core/catalogue'
import type { ServiceHours } from '#core/past'
import type { Face } from '#core/site'
import type { GearChangeKind, GroupRule, OwnFieldKind, TagMatch, UnknownMembers, Identity } from '#core/gear'
import type { CreatedAt, Facts, MaybeInstant } from '../platform/columns.ts'

/** What a merge has moved from one gear to the other, so that it can be undone. */
export interface Moved {
  readonly sightings: readonly { readonly sourceId: number; readonly key: string }[]
  readonly identities: readonly Identity[]
  readonly links: readonly {
    readonly kind: string
    readonly fromGearId: number
    readonly toGearId: number
    readonly fromPartId?: number | null
    readonly toPartId?: number | null
    readonly sourceId?: number | null
    readonly who?: string | null
  }[]
}

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface GearTables {
  gear: {
    id: Generated<number>
    name: string
    kind: GearKind
    facts: Facts
    rackId: number | null
    unit: number | null
    heightUnits: number | null
    face: ColumnType<Face | null, Face | null | undefined, Face | null>
    tags: Generated<string[]>
    warrantyEnds: ColumnType<string | null, string | null | undefined, string | null>
    own: JSONColumnType<Record<string, string>, string | undefined>
    mergedInto: ColumnType<number | null, number | null | undefined, number | null>
    createdAt: CreatedAt
  }
  gearMerge: {
    id: Generated<number>
    keptId: number
    mergedId: number
    at: CreatedAt
    who: string
    moved: JSONColumnType<Moved>
    undoneAt: MaybeInstant
    undoneBy: string | null
  }
  gearApart: { firstId: number; secondId: number; who: string; at: CreatedAt }
  gearIdentity: { kind: string; value: string; gearId: number }
  part: {
    id: Generated<number>
    gearId: number
    key: string
    kind: PartKind
    name: string
    facts: Facts
    isPresent: Generated<boolean>
  }
  gearChange: {
    id: Generated<number>
    at: ColumnType<Date, Date | undefined, never>
    gearId: number
    partId: ColumnType<number | null, number | null | undefined, never>
    what: GearChangeKind
    subject: string
    was: string | null
    became: string | null
    who: string | null
  }
  ownField: { id: Generated<number>; name: string; kind: OwnFieldKind }
  savedFilter: { id: Generated<number>; name: string; query: string; who: string }
  tagRule: { id: Generated<number>; tag: string; body: JSONColumnType<TagMatch> }
  gearGroup: {
    id: Generated<number>
    name: string
    note: string
    rule: GroupRule
    least: number
    unknown: UnknownMembers
    tag: string | null
    isService: Generated<boolean>
    plain: Generated<string>
    owner: Generated<string>
    level: number | null
    hours: JSONColumnType<ServiceHours> | null
  }
  gearGroupMember: { groupId: number; gearId: number }
  gearGroupGroup: { groupId: number; memberId: number }
  sighting: { sourceId: number; key: string; gearId: number }
  series: {
    id: Generated<number>
    sourceId: number
    gearId: number
    partId: number | null
    measure: MeasureKey
  }
}
