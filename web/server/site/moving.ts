import { floorProblem, isSolid, placingProblem, type Standing, unitLabel, usualSize } from '#core/site'
import { type Db, within } from '#db/platform'
import { findGear, listNamesOfGear } from '#db/gear'
import { announce, recordChange } from '#db/platform'
import {
  listFloorPlaces,
  listMounted,
  listRacks,
  listRooms,
  placeGearInRack,
  placeOnFloor,
  takeOutOfRack,
  updateRack,
} from '#db/site'
import type { Move } from './forms.ts'
import { Refused } from '../platform/refused.ts'

/** What was done, as a sentence, and what would undo it. */
export interface Moved {
  readonly sentence: string
  readonly undo: Move
}

/**
 * Moves a gear or a rack. Its readings, alerts and history go with it.
 * @throws Refused with a sentence when something stands in the way
 */
export const move = (db: Db, wanted: Move, who: string): Promise<Moved> =>
  within(db, async (trx) => {
    const moved = wanted.what === 'rack' ? await moveRack(trx, wanted) : await moveGear(trx, wanted, who)
    await recordChange(trx, who, moved.sentence)
    await announce(trx, { topic: 'places' })
    return moved
  })

async function moveGear(trx: Db, wanted: Exclude<Move, { what: 'rack' }>, who: string): Promise<Moved> {
  const gear = await findGear(trx, wanted.gearId)
  if (gear === undefined) throw new Refused('This gear is not there any more.')
  const undo = await undoOf(trx, wanted.gearId)
  if (wanted.what === 'stand') {
    const room = (await listRooms(trx)).find(({ id }) => id === wanted.roomId)
    if (room === undefined) throw new Refused('This room is not there any more.')
    const known = (await listFloorPlaces(trx)).find(({ gearId }) => gearId === wanted.gearId)
    const size = known ?? { ...usualSize(gear.kind), way: [] }
    const { xMm, yMm, turn } = wanted
    const box = { xMm, yMm, turn, widthMm: size.widthMm, depthMm: size.depthMm }
    const standing = { ...box, key: `gear ${gear.id}`, name: gear.name, isSolid: isSolid(gear.kind) }
    const problem = floorProblem(standing, room, await standingIn(trx, room.id))
    if (problem !== null) throw new Refused(problem)
    // A rope moves as a whole.
    const [dx, dy] = known === undefined ? [0, 0] : [xMm - known.xMm, yMm - known.yMm]
    const way = size.way.map((mm, index) => mm + (index % 2 === 0 ? dx : dy))
    await placeOnFloor(trx, { gearId: gear.id, roomId: room.id, ...box, way }, who)
    return { sentence: `${gear.name} stands in ${room.name} now.`, undo }
  }
  if (wanted.place === null) {
    await takeOutOfRack(trx, gear.id, who)
    return { sentence: `${gear.name} is in the stock now.`, undo }
  }
  const rack = (await listRacks(trx)).find(({ id }) => id === wanted.place!.rackId)
  if (rack === undefined) throw new Refused('This rack is not there any more.')
  const outcome = await placeGearInRack(trx, gear.id, wanted.place, who)
  if (outcome.kind === 'unknown') throw new Refused('This gear is not there any more.')
  if (outcome.kind !== 'placed')
    throw new Refused(placingProblem(outcome, wanted.place, rack.name) ?? 'It does not fit there.')
  return { sentence: `${gear.name} is in ${unitLabel(wanted.place)} of ${rack.name} now.`, undo }
}

async function undoOf(trx: Db, gearId: number): Promise<Move> {
  const gear = await findGear(trx, gearId)
  if (gear?.rackId != null) {
    const mounted = (await listMounted(trx, gear.rackId)).find(({ id }) => id === gearId)!
    const { unit, heightUnits, face } = mounted
    return { what: 'mount', gearId, place: { rackId: gear.rackId, unit, heightUnits, face } }
  }
  const floor = (await listFloorPlaces(trx)).find((place) => place.gearId === gearId)
  if (floor === undefined) return { what: 'mount', gearId, place: null }
  const { roomId, xMm, yMm, turn } = floor
  return { what: 'stand', gearId, roomId, xMm, yMm, turn }
}

async function moveRack(trx: Db, wanted: Extract<Move, { what: 'rack' }>): Promise<Moved> {
  const [racks, rooms] = [await listRacks(trx), await listRooms(trx)]
  const rack = racks.find(({ id }) => id === wanted.rackId)
  const room = rooms.find(({ id }) => id === wanted.roomId)
  if (rack === undefined || room === undefined) throw new Refused('This rack or room is not there any more.')
  const { xMm, yMm, turn, roomId } = wanted
  const standing: Standing = {
    xMm,
    yMm,
    turn,
    widthMm: rack.widthMm,
    depthMm: rack.depthMm,
    key: `rack ${rack.id}`,
    name: rack.name,
    isSolid: true,
  }
  const problem = floorProblem(standing, room, await standingIn(trx, room.id))
  if (problem !== null) throw new Refused(problem)
  await updateRack(trx, rack.id, { xMm, yMm, turn, roomId })
  return {
    sentence: `${rack.name} stands elsewhere in ${room.name} now.`,
    undo: {
      what: 'rack',
      rackId: rack.id,
      roomId: rack.roomId,
      xMm: rack.xMm ?? xMm,
      yMm: rack.yMm ?? yMm,
      turn: rack.turn,
    },
  }
}

/** Everything on the floor of a room. */
async function standingIn(trx: Db, roomId: number): Promise<Standing[]> {
  const racks = (await listRacks(trx)).filter((rack) => rack.roomId === roomId)
  const floor = (await listFloorPlaces(trx)).filter((place) => place.roomId === roomId)
  const gear = await listNamesOfGear(
    trx,
    floor.map(({ gearId }) => gearId),
  )
  return [
    ...racks.flatMap(({ id, name, xMm, yMm, widthMm, depthMm, turn }) =>
      xMm === null || yMm === null
        ? []
        : [{ key: `rack ${id}`, name, xMm, yMm, widthMm, depthMm, turn, isSolid: true }],
    ),
    ...floor.flatMap((place) => {
      const each = gear.find(({ id }) => id === place.gearId)
      if (each === undefined) return []
      const { xMm, yMm, widthMm, depthMm, turn } = place
      return [
        {
          key: `gear ${each.id}`,
          name: each.name,
          xMm,
          yMm,
          widthMm,
          depthMm,
          turn,
          isSolid: isSolid(each.kind),
        },
      ]
    }),
  ]
}
