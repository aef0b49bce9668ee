import { z } from 'zod'
import { FACES, floorProblem, isSolid, placingProblem, type Standing, TURNS } from '#core/site'
import { type Db, within } from '#db/platform'
import { type GearRow, listGear } from '#db/gear'
import { announce, recordChange } from '#db/platform'
import {
  insertRack,
  insertRoom,
  listFloorPlaces,
  listRacks,
  listRooms,
  placeGearInRack,
  placeOnFloor,
  takeOutOfRack,
  updateRack,
  updateRoom,
} from '#db/site'
import { Refused } from '../platform/refused.ts'

const text = z.string().trim().min(1).max(64)
const mm = z.number().int().min(0).max(200_000)
const turn = z.union(TURNS.map((each) => z.literal(each)))

/** A plan as a file: rooms to scale with what stands in them, lengths in millimetres from the upper left corner of a room. */
export const planFile = z
  .strictObject({
    format: z.literal('restless-rack/plan'),
    version: z.literal(1),
    rooms: z
      .array(
        z.strictObject({
          name: text,
          building: text.nullable().default(null),
          widthMm: mm.min(1000),
          depthMm: mm.min(1000),
          tileMm: mm.min(100).max(2000).default(600),
          racks: z
            .array(
              z.strictObject({
                name: text,
                heightUnits: z.number().int().min(1).max(60),
                xMm: mm.nullable().default(null),
                yMm: mm.nullable().default(null),
                widthMm: mm.min(100).max(2000).default(600),
                depthMm: mm.min(100).max(2000).default(1000),
                turn: turn.default(180),
                gear: z
                  .array(
                    z.strictObject({
                      name: text,
                      unit: z.number().int().min(1).max(60),
                      heightUnits: z.number().int().min(1).max(60),
                      face: z.enum(FACES).default('both'),
                    }),
                  )
                  .default([]),
              }),
            )
            .default([]),
          floor: z
            .array(
              z.strictObject({
                name: text,
                xMm: mm,
                yMm: mm,
                widthMm: mm.min(50).max(20_000),
                depthMm: mm.min(50).max(20_000),
                turn: turn.default(180),
                way: z.array(mm).max(200).default([]),
              }),
            )
            .default([]),
        }),
      )
      .max(200),
  })
  .meta({ title: 'Restless Rack room plan', description: 'Rooms, racks and what stands in them.' })
export type PlanFile = z.infer<typeof planFile>

/** The JSON Schema (draft 2020-12) of a plan. */
export const planSchema = (): unknown => z.toJSONSchema(planFile, { io: 'input' })

/** All rooms as they are, as a file. */
export async function exportPlan(db: Db): Promise<PlanFile> {
  const [rooms, racks, gear, floor] = await Promise.all([
    listRooms(db),
    listRacks(db),
    listGear(db),
    listFloorPlaces(db),
  ])
  return {
    format: 'restless-rack/plan',
    version: 1,
    rooms: rooms.map(({ id, ...room }) => ({
      ...room,
      racks: racks
        .filter((rack) => rack.roomId === id)
        .map(({ id: rackId, roomId: _, ...rack }) => ({
          ...rack,
          gear: gear
            .filter((each) => each.rackId === rackId)
            .map(({ name, unit, heightUnits, face }) => ({
              name,
              unit: unit!,
              heightUnits: heightUnits!,
              face: face!,
            })),
        })),
      floor: floor
        .filter((place) => place.roomId === id)
        .flatMap(({ gearId, roomId: _, ...place }) => {
          const name = gear.find((each) => each.id === gearId)?.name
          return name === undefined ? [] : [{ name, ...place }]
        }),
    })),
  }
}

/**
 * Makes the rooms as a file has them: rooms and racks by their names, gear by its name, which has to be known already and
 * be one. What the file does not name stays where it is. All of it, or nothing.
 * @returns what was done, as a sentence
 * @throws Refused with what is wrong and where
 */
export async function importPlan(db: Db, json: string, who: string): Promise<string> {
  const plan = parsePlan(json)
  return within(db, async (trx) => {
    const named = byName(await listGear(trx))
    // Everything that the file names leaves its place first, so that two may change places.
    for (const room of plan.rooms) {
      for (const rack of room.racks)
        for (const each of rack.gear) await takeOutOfRack(trx, named(each.name, `Rack ${rack.name}`).id, who)
      for (const each of room.floor) await takeOutOfRack(trx, named(each.name, room.name).id, who)
    }
    let count = 0
    for (const room of plan.rooms) count += await drawRoom(trx, room, { named, who })
    const sentence = `${plan.rooms.length} room${plan.rooms.length === 1 ? '' : 's'} drawn, ${count} gear placed.`
    await recordChange(trx, who, `read a plan: ${sentence}`)
    await announce(trx, { topic: 'places' })
    return sentence
  })
}

type Named = (name: string, where: string) => Pick<GearRow, 'id' | 'kind'>
type PlanRoom = PlanFile['rooms'][number]

/** Finds gear by its name. @throws Refused when there is none of that name, or several */
const byName =
  (gear: readonly GearRow[]): Named =>
  (name, where) => {
    const found = gear.filter((each) => each.name.toLowerCase() === name.toLowerCase())
    if (found.length === 1) return found[0]!
    throw new Refused(
      found.length === 0
        ? `${where}: no gear is called “${name}”. Connect it first, or take it out of the file.`
        : `${where}: ${found.length} gear are called “${name}”. Rename them so that one is meant.`,
    )
  }

/** @returns how many gear were placed */
async function drawRoom(
  trx: Db,
  { racks, floor, ...room }: PlanRoom,
  { named, who }: { named: Named; who: string },
): Promise<number> {
  const known = (await listRooms(trx)).find(({ name }) => name === room.name)
  const roomId = known?.id ?? (await insertRoom(trx, room))
  if (known !== undefined) await updateRoom(trx, roomId, room)
  const standing: Standing[] = []
  const check = (each: Standing): void => {
    const problem = floorProblem(each, room, standing)
    if (problem !== null) throw new Refused(`${room.name}: ${problem}`)
    standing.push(each)
  }
  for (const rack of racks) {
    const { name, xMm, yMm } = rack
    if (xMm !== null && yMm !== null) check({ ...rack, xMm, yMm, key: `rack ${name}`, isSolid: true })
    await drawRack(trx, roomId, rack, { named, who })
  }
  for (const { name, ...place } of floor) {
    const { id, kind } = named(name, room.name)
    check({ ...place, name, key: `gear ${id}`, isSolid: isSolid(kind) })
    await placeOnFloor(trx, { gearId: id, roomId, ...place }, who)
  }
  return racks.reduce((sum, { gear }) => sum + gear.length, floor.length)
}

async function drawRack(
  trx: Db,
  roomId: number,
  { gear: mounted, ...rack }: PlanRoom['racks'][number],
  { named, who }: { named: Named; who: string },
): Promise<void> {
  const before = (await listRacks(trx)).find((each) => each.roomId === roomId && each.name === rack.name)
  const rackId = before?.id ?? (await insertRack(trx, { roomId, ...rack }))
  if (before !== undefined) await updateRack(trx, rackId, rack)
  for (const each of mounted) {
    const { id } = named(each.name, `Rack ${rack.name}`)
    const outcome = await placeGearInRack(trx, id, { rackId, ...each }, who)
    if (outcome.kind === 'unknown') throw new Refused(`Rack ${rack.name} is not there any more.`)
    if (outcome.kind !== 'placed')
      throw new Refused(`${each.name}: ${placingProblem(outcome, each, rack.name) ?? 'does not fit'}`)
  }
}

function parsePlan(json: string): PlanFile {
  let value: unknown
  try {
    value = JSON.parse(json)
  } catch (error) {
    throw new Refused(`The file is not JSON: ${error instanceof Error ? error.message : String(error)}.`)
  }
  const parsed = planFile.safeParse(value)
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]!
  throw new Refused(`The file is no plan: at ${issue.path.join('.') || 'its top'}, ${issue.message}.`)
}
