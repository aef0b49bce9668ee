import { formatReading, type GearKind, type MeasureKey } from '../catalogue/index.ts'
import { type GearState, worstState } from '../gear/state.ts'
import { formatNumber, formatValue } from '../units/index.ts'
import { type Face, freeUnits } from './place.ts'
import type { FloorBox, Turn } from './plan.ts'
import { type Band, freeBand, inletBand, powerBand, probeBefore } from './room.ts'

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

/** What of a gear as a whole tells most about it where there is room for little. */
export const TELLING: readonly MeasureKey[] = [
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
]
const MOST_TELLING = 2

/** Latest values, of those that tell most and of the air at inlets. */
export class Telling {
  readonly #own = new Map<number, Map<MeasureKey, number>>()
  readonly #inlets = new Map<number, number[]>()

  /** @param readings of a gear as a whole, and of sensors at its inlets */
  constructor(
    readings: Iterable<{
      readonly gearId: number
      readonly partId: number | null
      readonly measure: MeasureKey
      readonly value: number | null
    }>,
  ) {
    for (const { gearId, partId, measure, value } of readings) {
      if (value === null) continue
      if (partId === null) of(this.#own, gearId, () => new Map<MeasureKey, number>()).set(measure, value)
      else of(this.#inlets, gearId, () => [] as number[]).push(value)
    }
  }

  own(gearId: number, measure: MeasureKey): number | null {
    return this.#own.get(gearId)?.get(measure) ?? null
  }

  /** Of the air that its parts take in, °C. */
  inlets(gearId: number): readonly number[] {
    return this.#inlets.get(gearId) ?? []
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

function of<V>(map: Map<number, V>, key: number, make: () => V): V {
  const known = map.get(key)
  if (known !== undefined) return known
  const made = make()
  map.set(key, made)
  return made
}

interface StandingGear {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly rackId: number | null
  readonly unit: number | null
  readonly heightUnits: number | null
  readonly face: Face | null
}
interface RackAsBuilt {
  readonly id: number
  readonly roomId: number
  readonly name: string
  readonly heightUnits: number
  readonly xMm: number | null
  readonly yMm: number | null
  readonly widthMm: number
  readonly depthMm: number
  readonly turn: FloorBox['turn']
}
type RoomAsBuilt = Omit<RoomView, 'state' | 'racks' | 'floor'>
interface PlaceOnFloor extends FloorBox {
  readonly roomId: number
  readonly gearId: number
  readonly way: readonly number[]
}

/** What the rooms of a site are seen by. */
export interface SiteAsBuilt {
  readonly rooms: readonly RoomAsBuilt[]
  readonly racks: readonly RackAsBuilt[]
  readonly floor: readonly PlaceOnFloor[]
  /** What stands in racks and on floors. */
  readonly gear: readonly StandingGear[]
  /** Of what is not well. */
  readonly states: ReadonlyMap<number, GearState>
  /** Gear that none of its sources hears: what it said last is no value any more. */
  readonly unheard: ReadonlySet<number>
  readonly telling: Telling
}

interface Around extends SiteAsBuilt {
  readonly inRack: ReadonlyMap<number, readonly MountedView[]>
  readonly gearById: ReadonlyMap<number, StandingGear>
}

const stateIn = ({ states }: Pick<SiteAsBuilt, 'states'>, id: number): GearState => states.get(id) ?? 'well'
const detailIn = ({ unheard, telling }: SiteAsBuilt, id: number): string =>
  unheard.has(id) ? '' : telling.detail(id)

/** Rooms with their racks and floors as they stand. */
export function viewRooms(site: SiteAsBuilt): RoomView[] {
  const inRack = mountedByRack(site)
  const around = { ...site, inRack, gearById: new Map(site.gear.map((each) => [each.id, each])) }
  return site.rooms.map((room) => {
    const floor = site.floor
      .filter(({ roomId }) => roomId === room.id)
      .flatMap((place) => floorView(place, around))
    const racks = site.racks
      .filter(({ roomId }) => roomId === room.id)
      .map((rack) => rackView(rack, around, floor))
    const states = [...racks, ...floor].map(({ state }) => state)
    return { ...room, racks, floor, state: worstState(states) }
  })
}

/** What is in each rack, the highest first. */
export function mountedByRack(
  site: Omit<SiteAsBuilt, 'rooms' | 'racks' | 'floor'>,
): Map<number, MountedView[]> {
  const racks = new Map<number, MountedView[]>()
  for (const { id, name, kind, rackId, unit, heightUnits, face } of site.gear) {
    if (rackId === null) continue
    of(racks, rackId, () => [] as MountedView[]).push({
      id,
      name,
      kind,
      unit: unit ?? 1,
      heightUnits: heightUnits ?? 1,
      face: face ?? 'both',
      state: stateIn(site, id),
      detail: site.unheard.has(id) ? '' : site.telling.detail(id),
    })
  }
  for (const mounted of racks.values()) mounted.sort((a, b) => b.unit - a.unit)
  return racks
}

function floorView({ gearId, roomId: _, ...place }: PlaceOnFloor, around: Around): FloorView[] {
  const gear = around.gearById.get(gearId)
  if (gear === undefined) return []
  const { id, name, kind } = gear
  return [{ id, name, kind, ...place, state: stateIn(around, id), detail: detailIn(around, id) }]
}

function rackView(rack: RackAsBuilt, { inRack, telling }: Around, floor: readonly FloorView[]): RackView {
  const gear = inRack.get(rack.id) ?? []
  const { free, longest } = freeUnits({ heightUnits: rack.heightUnits, gear })
  const { inletCelsius, inletProbeId } = inletOf(rack, gear, telling, floor)
  const watts = wattsOf(gear, telling)
  return {
    ...rack,
    gear,
    state: worstState(gear.map(({ state }) => state)),
    inletCelsius,
    inletProbeId,
    watts,
    freeUnits: free,
    longestFree: longest,
    said: saidOf(inletCelsius, watts, free, rack.heightUnits),
  }
}

/** What is shown of a rack, each with its band. */
const saidOf = (
  inletCelsius: number | null,
  watts: number | null,
  free: number,
  heightUnits: number,
): RackView['said'] => ({
  inlet: {
    text: inletCelsius === null ? '–' : formatValue(inletCelsius, 'celsius', 1),
    band: inletBand(inletCelsius),
  },
  power: { text: watts === null ? '–' : `${formatNumber(watts / 1000, 1)} kW`, band: powerBand(watts) },
  free: { text: `${free} U`, band: freeBand(free / heightUnits) },
})

/** What a rack draws: its strips by what they measure; without any what its gear says, added up. */
function wattsOf(gear: readonly MountedView[], telling: Telling): number | null {
  const strips = gear.filter(({ kind }) => kind === 'pdu')
  const drawn = (strips.length > 0 ? strips : gear).flatMap(({ id }) => telling.own(id, 'hw.power') ?? [])
  return drawn.length === 0 ? null : drawn.reduce((sum, each) => sum + each, 0)
}

/** The air that a rack takes in: a probe before it, else the warmest inlet of what is in it. */
function inletOf(
  rack: RackAsBuilt,
  gear: readonly MountedView[],
  telling: Telling,
  floor: readonly FloorView[],
): Pick<RackView, 'inletCelsius' | 'inletProbeId'> {
  const { xMm, yMm } = rack
  const probes = floor.filter(({ kind }) => kind === 'probe').map(middleOf)
  const probe = xMm === null || yMm === null ? null : probeBefore({ ...rack, xMm, yMm }, probes)
  const air = probe === null ? null : telling.own(probe.id, 'hw.temperature')
  if (probe !== null && air !== null) return { inletCelsius: air, inletProbeId: probe.id }
  const inlets = gear.flatMap(({ id }) => telling.inlets(id))
  return { inletCelsius: inlets.length === 0 ? null : Math.max(...inlets), inletProbeId: null }
}

const middleOf = (box: FloorView): FloorView => ({
  ...box,
  xMm: box.xMm + box.widthMm / 2,
  yMm: box.yMm + box.depthMm / 2,
})

/** The worst state of what stands in each room, by the room's id. */
export function roomStates(
  gear: Iterable<{ readonly id: number; readonly roomId: number }>,
  states: ReadonlyMap<number, GearState>,
): Map<number, GearState> {
  const worst = new Map<number, GearState>()
  for (const { id, roomId } of gear)
    worst.set(roomId, worstState([worst.get(roomId) ?? 'well', stateIn({ states }, id)]))
  return worst
}

/** A rack where there is room for little: who is in it; of many racks only who is not well, and which units the others take. */
export interface RackInSmall {
  readonly id: number
  readonly name: string
  readonly heightUnits: number
  readonly gear: readonly MountedView[]
  /** Of each gear that is well, and not among those, its lowest unit and then its height in units. */
  readonly taken: readonly number[]
}
