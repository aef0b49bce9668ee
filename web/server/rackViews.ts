import { formatReading, type MeasureKey } from '#core/measures'
import type { GearState } from '#core/topology'
import type { Db } from '#db/connect'
import { type GearRow, listSeries } from '#db/gear'
import type { RackRow, RoomRow } from '#db/places'
import { latestReadings } from '#db/readings'
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
    /** The numbers that say most about it now, in words; empty when nothing is heard. */
    readonly detail: string
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
  details: ReadonlyMap<number, string>,
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
            detail: each.sourceIds.every((id) => silent.has(id)) ? '' : (details.get(each.id) ?? ''),
          })),
      })),
  }))
}

const TELLING: readonly MeasureKey[] = [
  'hw.power',
  'system.cpu.utilization',
  'ups.output.load',
  'ups.battery.minutes_left',
  'system.filesystem.utilization',
]

/** For each gear the readings of its own (not of its parts) that say most, as in «260 W, 41.2 %». */
export async function gearDetails(db: Db, gear: readonly GearRow[]): Promise<Map<number, string>> {
  const [series, latest] = await Promise.all([
    listSeries(
      db,
      gear.map((each) => each.id),
    ),
    latestReadings(db),
  ])
  return new Map(
    gear.map(({ id }) => {
      const words = TELLING.flatMap((measure) => {
        const own = series.find(
          (each) => each.gearId === id && each.partId === null && each.measure === measure,
        )
        const value = own === undefined ? null : latest.get(own.id)?.value
        return value == null ? [] : [formatReading(measure, value)]
      })
      return [id, words.join(', ')]
    }),
  )
}
