import { formatReading, type GearKind } from '#core/catalogue'
import {
  type Band,
  type Face,
  freeBand,
  freeUnits,
  inletBand,
  powerBand,
  probeBefore,
  type Turn,
} from '#core/site'
import { type GearState, worstState } from '#core/gear'
import { formatNumber } from '#core/units'
import type { Db } from '#db/platform'
import { type GearRow, listGear, listSeries, type SeriesRow, listIntakes } from '#db/gear'
import {
  type FloorPlaceRow,
  listFloorPlaces,
  listRacks,
  listRooms,
  type RackRow,
  type RoomRow,
} from '#db/site'
import { latestReadings } from '#db/readings'
import { listSources } from '#db/sources'
import { silentSourceIds, stateOf } from '../gear/gearStates.ts'

export interface MountedView {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly unit: number
  readonly heightUnits: number
  readonly face: Face
  readonly state: GearState
  /** The numbers that say most about it now, in words; empty when nothing is heard. */
  readonly detail: string
}

/** What the plan says of a rack for one subject: the number as it is drawn, and its band. */
export interface Said {
  readonly text: string
  readonly band: Band
}

export interface RackView {
  readonly id: number
  readonly name: string
  readonly heightUnits: number
  readonly xMm: number | null
  readonly yMm: number | null
  readonly widthMm: number
  readonly depthMm: number
  readonly turn: Turn
  readonly gear: readonly MountedView[]
  readonly state: GearState
  readonly inletCelsius: number | null
  /** The probe that measures it, where one hangs before the rack. */
  readonly inletProbeId: number | null
  readonly watts: number | null
  readonly freeUnits: number
  readonly longestFree: number
  readonly said: Readonly<Record<'inlet' | 'power' | 'free', Said>>
}

export interface FloorView {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly xMm: number
  readonly yMm: number
  readonly widthMm: number
  readonly depthMm: number
  readonly turn: Turn
  readonly way: readonly number[]
  readonly state: GearState
  readonly detail: string
}

export interface RoomView {
  readonly id: number
  readonly name: string
  readonly building: string | null
  readonly widthMm: number
  readonly depthMm: number
  readonly tileMm: number
  readonly state: GearState
  readonly racks: readonly RackView[]
  readonly floor: readonly FloorView[]
}

const TELLING = [
  'hw.power',
  'system.cpu.utilization',
  'ups.output.load',
  'ups.battery.minutes_left',
  'hw.temperature',
  'hw.humidity',
  'hw.door',
  'hw.leak',
  'net.reachable',
  'hw.fuel',
  'system.filesystem.utilization',
] as const
const MOST_TELLING = 2

type ValueOf = (seriesId: number) => number | null

/** Latest values by gear, and what of them tells most. */
class Values {
  readonly #own = new Map<number, SeriesRow[]>()
  readonly #parts = new Map<number, SeriesRow[]>()

  constructor(
    series: readonly SeriesRow[],
    private readonly valueOf: ValueOf,
  ) {
    for (const each of series) {
      const map = each.partId === null ? this.#own : this.#parts
      const known = map.get(each.gearId)
      if (known === undefined) map.set(each.gearId, [each])
      else known.push(each)
    }
  }

  own(gearId: number, measure: string): number | null {
    const series = this.#own.get(gearId)?.find((each) => each.measure === measure)
    return series === undefined ? null : this.valueOf(series.id)
  }

  ofParts(gearId: number, measure: string, isWanted: (partId: number) => boolean): number[] {
    return (this.#parts.get(gearId) ?? []).flatMap((each) => {
      if (each.measure !== measure || !isWanted(each.partId!)) return []
      const value = this.valueOf(each.id)
      return value === null ? [] : [value]
    })
  }

  detail(gearId: number): string {
    return TELLING.flatMap((measure) => {
      const value = this.own(gearId, measure)
      return value === null ? [] : [formatReading(measure, value)]
    })
      .slice(0, MOST_TELLING)
      .join(', ')
  }
}

/** All gear, and who of those that see it is silent. */
export interface Seen {
  readonly gear: readonly GearRow[]
  readonly silent: ReadonlySet<number>
}

export async function listSeen(db: Db, nowMs: number): Promise<Seen> {
  const [gear, sources] = await Promise.all([listGear(db), listSources(db)])
  return { gear, silent: silentSourceIds(sources, nowMs) }
}

/** The worst state of what is in each room, by the room's id. */
export function roomStates({ gear, silent }: Seen): Map<number, GearState> {
  const states = new Map<number, GearState>()
  for (const each of gear)
    if (each.roomId !== null)
      states.set(each.roomId, worstState([states.get(each.roomId) ?? 'well', stateOf(each, silent)]))
  return states
}

/**
 * Rooms with their racks and floors as they stand now.
 * @param roomId only this one, when given
 * @param seen what was listed already
 */
export async function loadRooms(
  db: Db,
  nowMs: number,
  roomId: number | null = null,
  seen?: Seen,
): Promise<RoomView[]> {
  const [rooms, racks, { gear, silent }, floor] = await Promise.all([
    listRooms(db),
    listRacks(db),
    seen ?? listSeen(db, nowMs),
    listFloorPlaces(db),
  ])
  const wanted = rooms.filter(({ id }) => roomId === null || id === roomId)
  const ids = new Set(wanted.map(({ id }) => id))
  const here = gear.filter((each) => each.roomId !== null && ids.has(each.roomId))
  const [series, latest, intakes] = await Promise.all([
    listSeries(
      db,
      here.map((each) => each.id),
    ),
    latestReadings(db),
    listIntakes(
      db,
      here.map((each) => each.id),
    ),
  ])
  const byRack = new Map<number, GearRow[]>()
  for (const each of here)
    if (each.rackId !== null) byRack.set(each.rackId, [...(byRack.get(each.rackId) ?? []), each])
  const values = new Values(series, (id) => latest.get(id)?.value ?? null)
  return wanted.map((room) => roomView(room, { racks, gear: here, byRack, floor, silent, values, intakes }))
}

interface Around {
  readonly racks: readonly RackRow[]
  readonly gear: readonly GearRow[]
  readonly byRack: ReadonlyMap<number, readonly GearRow[]>
  readonly floor: readonly FloorPlaceRow[]
  readonly silent: ReadonlySet<number>
  readonly values: Values
  readonly intakes: ReadonlySet<number>
}

function roomView(room: RoomRow, around: Around): RoomView {
  const { gear, silent, values } = around
  const floor = around.floor
    .filter((place) => place.roomId === room.id)
    .flatMap((place): FloorView[] => {
      const each = gear.find(({ id }) => id === place.gearId)
      if (each === undefined) return []
      const { roomId: _, gearId: id, ...box } = place
      const isSilent = each.sourceIds.length > 0 && each.sourceIds.every((source) => silent.has(source))
      return [
        {
          id,
          name: each.name,
          kind: each.kind,
          ...box,
          state: stateOf(each, silent),
          detail: isSilent ? '' : values.detail(id),
        },
      ]
    })
  const racks = around.racks
    .filter((rack) => rack.roomId === room.id)
    .map((rack) => rackView(rack, around, floor))
  return {
    ...room,
    racks,
    floor,
    state: worstState([...racks.map(({ state }) => state), ...floor.map(({ state }) => state)]),
  }
}

function rackView(
  rack: RackRow,
  { byRack, silent, values, intakes }: Around,
  floor: readonly FloorView[],
): RackView {
  const mounted = (byRack.get(rack.id) ?? [])
    .map((each): MountedView => ({
      id: each.id,
      name: each.name,
      kind: each.kind,
      unit: each.unit ?? 1,
      heightUnits: each.heightUnits ?? 1,
      face: each.face ?? 'both',
      state: stateOf(each, silent),
      detail: each.sourceIds.every((id) => silent.has(id)) ? '' : values.detail(each.id),
    }))
    .sort((a, b) => b.unit - a.unit)
  const { free, longest } = freeUnits({ heightUnits: rack.heightUnits, gear: mounted })
  const { inletCelsius, inletProbeId } = inletOf(rack, mounted, { values, intakes, floor })
  const strips = mounted.filter(({ kind }) => kind === 'pdu')
  const drawn = (strips.length > 0 ? strips : mounted).flatMap(({ id }) => values.own(id, 'hw.power') ?? [])
  const watts = drawn.length === 0 ? null : drawn.reduce((sum, each) => sum + each, 0)
  return {
    ...rack,
    gear: mounted,
    state: worstState(mounted.map(({ state }) => state)),
    inletCelsius,
    inletProbeId,
    watts,
    freeUnits: free,
    longestFree: longest,
    said: {
      inlet: {
        text: inletCelsius === null ? '–' : `${formatNumber(inletCelsius, 1)} °C`,
        band: inletBand(inletCelsius),
      },
      power: {
        text: watts === null ? '–' : `${formatNumber(watts / 1000, 1)} kW`,
        band: powerBand(watts),
      },
      free: { text: `${free} U`, band: freeBand(free / rack.heightUnits) },
    },
  }
}

/** The air that a rack takes in: a probe before it, else the warmest inlet of what is in it. */
function inletOf(
  rack: RackRow,
  mounted: readonly MountedView[],
  {
    values,
    intakes,
    floor,
  }: { readonly values: Values; readonly intakes: ReadonlySet<number>; readonly floor: readonly FloorView[] },
): Pick<RackView, 'inletCelsius' | 'inletProbeId'> {
  if (rack.xMm !== null && rack.yMm !== null) {
    const box = { ...rack, xMm: rack.xMm, yMm: rack.yMm }
    const probe = probeBefore(
      box,
      floor
        .filter(({ kind }) => kind === 'probe')
        .map((each) => ({ ...each, xMm: each.xMm + each.widthMm / 2, yMm: each.yMm + each.depthMm / 2 })),
    )
    const air = probe === null ? null : values.own(probe.id, 'hw.temperature')
    if (probe !== null && air !== null) return { inletCelsius: air, inletProbeId: probe.id }
  }
  const inlets = mounted.flatMap(({ id }) =>
    values.ofParts(id, 'hw.temperature', (part) => intakes.has(part)),
  )
  return { inletCelsius: inlets.length === 0 ? null : Math.max(...inlets), inletProbeId: null }
}
