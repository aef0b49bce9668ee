import type { GearState } from '#core/topology'
import type { GearRow } from '#db/gear'
import type { RackRow, RoomRow } from '#db/places'
import { stateOf } from './gearStates.ts'

export interface RackView {
  readonly id: number
  readonly name: string
  readonly heightUnits: number
  readonly gear: readonly {
    readonly id: number
    readonly name: string
    readonly kind: string
    readonly unit: number
    readonly heightUnits: number
    readonly state: GearState
  }[]
}

export interface RoomView {
  readonly id: number
  readonly name: string
  readonly racks: readonly RackView[]
}

/** Rooms with their racks as they stand, gear in place. */
export function roomViews(
  rooms: readonly RoomRow[],
  racks: readonly RackRow[],
  gear: readonly GearRow[],
  silent: ReadonlySet<number>,
): RoomView[] {
  return rooms.map((room) => ({
    id: room.id,
    name: room.name,
    racks: racks
      .filter((rack) => rack.roomId === room.id)
      .map((rack) => ({
        id: rack.id,
        name: rack.name,
        heightUnits: rack.heightUnits,
        gear: gear
          .filter((each) => each.rackId === rack.id)
          .map((each) => ({
            id: each.id,
            name: each.name,
            kind: each.kind,
            unit: each.unit ?? 1,
            heightUnits: each.heightUnits ?? 1,
            state: stateOf(each, silent),
          })),
      })),
  }))
}
