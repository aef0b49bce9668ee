import {
  mountedByRack,
  type RackInSmall,
  roomStates,
  type RoomView,
  Telling,
  TELLING,
  viewRooms,
} from '#core/site'
import { listTelling } from '#db/gear'
import { listStanding, listTakenUnits, type RackRow, type StandingRow } from '#db/site'
import type { Present } from '../platform/present.ts'

async function tellingOf(present: Present, gear: readonly StandingRow[]): Promise<Telling> {
  const series = await listTelling(
    present.db,
    gear.map(({ id }) => id),
    TELLING,
  )
  const latest = await present.latestOf(series.map(({ sourceId }) => sourceId))
  return new Telling(series.map((each) => ({ ...each, value: latest.get(each.id)?.value ?? null })))
}

/**
 * Rooms with their racks and floors as they stand now.
 * @param roomId only this one, when given
 */
export async function loadRooms(present: Present, roomId: number | null = null): Promise<RoomView[]> {
  const [rooms, racks, floor, standing, states, unheard] = await Promise.all([
    present.rooms(),
    present.racks(),
    present.floorPlaces(),
    present.standing(),
    present.states(),
    present.unheard(),
  ])
  const wanted = rooms.filter(({ id }) => roomId === null || id === roomId)
  const gear = standing.filter((each) => roomId === null || each.roomId === roomId)
  const telling = await tellingOf(present, gear)
  return viewRooms({ rooms: wanted, racks, floor, gear, states, unheard, telling })
}

/** Rooms by name with the worst state of what stands in each. */
export async function listRoomStates(present: Present) {
  const [rooms, gear, states] = await Promise.all([present.rooms(), present.standing(), present.states()])
  const worst = roomStates(gear, states)
  return rooms.map(({ id, name, building }) => ({ id, name, building, state: worst.get(id) ?? 'well' }))
}

/** Up to so many racks are drawn with the names of what is in them, and what it measures. */
const NAMED_RACKS = 4
/** From so many on what is well is left to the outline of its rack, which leads to the room. */
const MANY_RACKS = 40

/** Where everything stands: the racks of each room with what is in them. */
export async function loadWhere(present: Present) {
  const [rooms, racks] = await Promise.all([present.rooms(), present.racks()])
  const drawn = await (racks.length < MANY_RACKS ? everyRack(present) : onlyUnwell(present))
  return rooms.map(({ id, name }) => ({
    id,
    name,
    racks: racks.filter(({ roomId }) => roomId === id).map(drawn),
  }))
}

type Drawn = (rack: RackRow) => RackInSmall

/** Racks with everything that is in them. */
async function everyRack(present: Present): Promise<Drawn> {
  const [racks, gear, states, unheard] = await Promise.all([
    present.racks(),
    present.standing(),
    present.states(),
    present.unheard(),
  ])
  const telling = racks.length <= NAMED_RACKS ? await tellingOf(present, gear) : new Telling([])
  const mounted = mountedByRack({ gear, states, unheard, telling })
  return ({ id, name, heightUnits }) => ({ id, name, heightUnits, gear: mounted.get(id) ?? [], taken: [] })
}

/** Racks with whoever is not well, and which units the others take: of thousands of gear no more is read. */
async function onlyUnwell(present: Present): Promise<Drawn> {
  const [states, unheard] = await Promise.all([present.states(), present.unheard()])
  const ids = [...states].flatMap(([id, state]) => (state === 'well' ? [] : [id]))
  const [gear, taken] = await Promise.all([listStanding(present.db, ids), listTakenUnits(present.db, ids)])
  const mounted = mountedByRack({ gear, states, unheard, telling: new Telling([]) })
  return ({ id, name, heightUnits }) => ({
    id,
    name,
    heightUnits,
    gear: mounted.get(id) ?? [],
    taken: taken.get(id) ?? [],
  })
}
