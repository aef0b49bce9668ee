import type { ColumnType, Generated } from 'kysely'
import type { Turn } from '#core/site'

/** Of the tables as `migrations/` makes them; columns in camelCase here, in snake_case there. */
export interface SiteTables {
  building: { id: Generated<number>; name: string }
  room: {
    id: Generated<number>
    name: string
    position: Generated<number>
    buildingId: ColumnType<number | null, number | null | undefined, number | null>
    widthMm: Generated<number>
    depthMm: Generated<number>
    tileMm: Generated<number>
  }
  rack: {
    id: Generated<number>
    roomId: number
    name: string
    heightUnits: number
    position: Generated<number>
    xMm: ColumnType<number | null, number | null | undefined, number | null>
    yMm: ColumnType<number | null, number | null | undefined, number | null>
    widthMm: Generated<number>
    depthMm: Generated<number>
    turn: Generated<Turn>
  }
  floorPlace: {
    gearId: number
    roomId: number
    xMm: number
    yMm: number
    widthMm: number
    depthMm: number
    turn: Turn
    way: Generated<number[]>
  }
}
