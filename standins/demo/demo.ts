import { insertAccount, writeDirectory } from '#db/accounts'
import type { Db } from '#db/platform'
import { forgetGearChanges, listNamesOfGear, storeFindings } from '#db/gear'
import { drawLink } from '#db/links'
import { insertRack, insertRoom, placeGearInRack, placeOnFloor } from '#db/site'
import { writeRatings } from '#db/disks'
import { ensurePartitions } from '#db/readings'
import { readTextsSetting, writeSite, writeTextsSetting } from '#db/platform'
import { S1 } from '../model/drive.ts'
import { simulatedSite } from '../model/site.ts'
import {
  COOLED_BY,
  DEMO_PASSWORD,
  DIRECTORY_CLIENT,
  DIRECTORY_SECRET,
  FLOOR,
  GENERATOR,
  PEOPLE,
  PLACES,
  portsFrom,
  ROOMS,
  SITE,
} from '../site/index.ts'
import { writeDemoInventory } from './inventory.ts'
import { insertDemoGroups } from './groups.ts'
import { type Reader, readersOf } from './readers.ts'
import { insertDemoCallOuts } from './callOuts.ts'
import { acceptDemoSupply, insertDemoRules } from './rules.ts'
import { insertSources, type SourceOptions } from './sources.ts'

export interface DemoOptions extends Omit<SourceOptions, 'ports'> {
  readonly portBase: number
  /** When the demo begins. */
  readonly nowMs: number
  /** Only sources of these names; all when not given. */
  readonly only?: readonly string[]
}

const DAY_MS = 86_400_000
/** Gear is known from what was seen of it then: what has failed since is not left out as if it had never worked. */
const KNOWN_SINCE_MS = 30 * DAY_MS
const WHO = 'the demo'

/** Loads the demo's site: people, places, sources, links and groups. All at once, or nothing. The past is laid down by `Past`. */
export async function loadDemo(db: Db, options: DemoOptions): Promise<Map<string, number>> {
  const { nowMs } = options
  const ports = portsFrom(options.portBase)
  await ensurePartitions(db, nowMs - DAY_MS, nowMs + DAY_MS)
  await ensurePartitions(db, nowMs - KNOWN_SINCE_MS, nowMs - KNOWN_SINCE_MS)
  for (const person of PEOPLE) await insertAccount(db, { ...person, password: DEMO_PASSWORD })
  return db.transaction().execute(async (trx) => {
    await writeSite(trx, { name: SITE.name, timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone })
    await writeDirectory(
      trx,
      options.key,
      {
        name: `${SITE.name} directory`,
        issuer: `http://127.0.0.1:${ports.directory}`,
        clientId: DIRECTORY_CLIENT,
        groupsClaim: 'groups',
        roles: { see: ['forecast'], operate: ['machine-room-nights'], administer: ['machine-room'] },
        isOn: true,
      },
      DIRECTORY_SECRET,
    )
    // Everything of the demo speaks from one address, each line in the name of its gear.
    await writeTextsSetting(trx, { ...(await readTextsSetting(trx)), relays: ['127.0.0.1'] })
    const readers = readersOf(simulatedSite(nowMs), ports).filter(
      ({ name }) => options.only?.includes(name) ?? true,
    )
    const sources = await insertSources(trx, readers, { ...options, ports })
    await seeGear(trx, readers, sources, nowMs)
    const idOf = await namesOf(trx)
    await loadPlaces(trx, idOf)
    // It all stood there before the demo began.
    await forgetGearChanges(trx)
    await drawLinks(trx, idOf)
    await insertDemoGroups(trx, idOf)
    await insertDemoRules(trx)
    await insertDemoCallOuts(trx, { ...options, ports, idOf })
    await acceptDemoSupply(trx, idOf, nowMs)
    await writeDemoInventory(trx, idOf, nowMs)
    // Of the other model on SATA nobody has entered what its maker promises.
    await writeRatings(
      trx,
      [{ model: S1.model, ratedBytes: S1.ratedBytes, origin: 'Aldermoor data sheet S1, March 2025' }],
      WHO,
    )
    return sources
  })
}

/** What each source has seen: some weeks ago, and now. */
async function seeGear(
  trx: Db,
  readers: readonly Reader[],
  sources: ReadonlyMap<string, number>,
  nowMs: number,
): Promise<void> {
  for (const atMs of [nowMs - KNOWN_SINCE_MS, nowMs])
    for (const { name, read } of readers)
      await storeFindings(trx, { sourceId: sources.get(name)!, atMs, findings: await read(atMs) }, null)
}

type IdOf = (name: string) => number | null

async function namesOf(trx: Db): Promise<IdOf> {
  const gear = await listNamesOfGear(trx)
  const ids = new Map(gear.map(({ name, id }) => [name, id]))
  return (name) => ids.get(name) ?? null
}

async function loadPlaces(trx: Db, idOf: IdOf): Promise<void> {
  const rooms = new Map<string, number>()
  const racks = new Map<string, number>()
  for (const { racks: standing, ...room } of ROOMS) {
    const roomId = await insertRoom(trx, room)
    rooms.set(room.name, roomId)
    for (const rack of standing) racks.set(rack.name, await insertRack(trx, { roomId, ...rack }))
  }
  for (const [name, { rack, ...place }] of Object.entries(PLACES)) {
    const id = idOf(name)
    if (id !== null) await placeGearInRack(trx, id, { rackId: racks.get(rack)!, ...place }, WHO)
  }
  // A strip stands upright at the rear, one at each side.
  for (const { racks: standing } of ROOMS)
    for (const { name, heightUnits } of standing)
      for (const [side, face] of [
        ['A', 'left'],
        ['B', 'right'],
      ] as const) {
        const id = idOf(`${name}-${side}`)
        const tall = Math.min(36, heightUnits - 2)
        if (id !== null)
          await placeGearInRack(trx, id, { rackId: racks.get(name)!, unit: 2, heightUnits: tall, face }, WHO)
      }
  for (const [name, { room, way, turn, ...box }] of Object.entries(FLOOR)) {
    const gearId = idOf(name)
    if (gearId !== null)
      await placeOnFloor(
        trx,
        { gearId, roomId: rooms.get(room)!, ...box, turn: turn ?? 180, way: way ?? [] },
        WHO,
      )
  }
}

/** What no protocol tells of. */
async function drawLinks(trx: Db, idOf: IdOf): Promise<void> {
  const draw = async (
    kind: 'fed-by' | 'cooled-by' | 'stores-on',
    from: string,
    to: string,
  ): Promise<void> => {
    const [fromGearId, toGearId] = [idOf(from), idOf(to)]
    if (fromGearId !== null && toGearId !== null) await drawLink(trx, { kind, fromGearId, toGearId }, WHO)
  }
  await draw('fed-by', 'harbour-A', GENERATOR.name)
  await draw('fed-by', 'harbour-B', GENERATOR.name)
  await draw('stores-on', 'recorder', 'gannet-05')
  for (const camera of ['camera-north', 'camera-aisle', 'camera-yard'])
    await draw('stores-on', camera, 'recorder')
  for (const [name, { rack }] of Object.entries(PLACES)) {
    const near = Object.entries(COOLED_BY[rack] ?? {}).sort(([, a], [, b]) => b - a)[0]
    if (near !== undefined && !name.startsWith('harbour')) await draw('cooled-by', name, near[0])
  }
}
