import type { ColumnType, Generated, JSONColumnType } from 'kysely'
import type { LinkKind } from '#core/catalogue'
import type { FarEnd } from '#core/gear'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface LinksTables {
  link: {
    id: Generated<number>
    kind: LinkKind
    fromGearId: number
    toGearId: number
    fromPartId: ColumnType<number | null, number | null | undefined, number | null>
    toPartId: ColumnType<number | null, number | null | undefined, number | null>
    sourceId: ColumnType<number | null, number | null | undefined, number | null>
    who: ColumnType<string | null, string | null | undefined, string | null>
  }
  linkTold: {
    id: Generated<number>
    sourceId: number
    kind: LinkKind
    gearId: number
    partId: number | null
    isFrom: boolean
    far: JSONColumnType<FarEnd>
    linkId: ColumnType<number | null, number | null | undefined, number | null>
  }
}
