import type { GearFinding, ReadingFinding } from '#core/gear'
import { storeFindings } from '#db/gear'
import type { Db } from '#db/platform'
import { ensurePartitions, insertMoments, layoutFor } from '#db/readings'
import { insertRack, insertRoom } from '#db/site'
import { insertSource } from '#db/sources'

export interface Filling {
  readonly racks: number
  /** Gear in each rack, one unit each. */
  readonly aRack: number
  readonly gearASource: number
  /** Of which the first is of the gear as a whole, the others of its fans and sensors. */
  readonly seriesEach: number
}

const PARTS_TOGETHER = 20
const DAY_MS = 86_400_000

/** Puts a room full of servers beside what is there: with sources that are heard once a day, and a reading of each series. */
export async function fill(db: Db, { racks, aRack, gearASource, seriesEach }: Filling): Promise<number> {
  const count = racks * aRack
  await ensurePartitions(db, Date.now() - DAY_MS, Date.now() + DAY_MS)
  for (let start = 0; start < count; start += gearASource) {
    const sourceId = await insertSource(db, {
      name: `generated ${String(start).padStart(5, '0')}`,
      protocol: 'otlp',
      address: 'generated',
      settings: {},
      intervalSeconds: 86_400,
      credentialId: null,
      token: `rr_bench_generated_source_${start}`,
    })
    const numbers = Array.from({ length: Math.min(gearASource, count - start) }, (_, index) => start + index)
    await tell(db, sourceId, numbers, seriesEach)
  }
  return place(db, racks, aRack)
}

async function tell(db: Db, sourceId: number, numbers: readonly number[], seriesEach: number): Promise<void> {
  const gear = numbers.map((number) => server(number, seriesEach))
  const readings = gear.flatMap(({ key, parts }, index): ReadingFinding[] => [
    { gear: key, part: null, measure: 'hw.power', value: 200 + (index % 300) },
    ...parts.map((part): ReadingFinding =>
      part.kind === 'sensor'
        ? { gear: key, part: part.key, measure: 'hw.temperature', value: 22 + (index % 5) }
        : { gear: key, part: part.key, measure: 'hw.fan.speed', value: 6000 + index },
    ),
  ])
  const atMs = Date.now()
  await db.transaction().execute(async (trx) => {
    await storeFindings(trx, { sourceId, atMs, findings: { gear, links: [], readings } }, null)
    const series = await trx
      .selectFrom('series')
      .select('id')
      .where('sourceId', '=', sourceId)
      .orderBy('id')
      .execute()
    const seriesIds = series.map(({ id }) => id)
    const layout = { id: await layoutFor(trx, sourceId, seriesIds), seriesIds }
    const values = seriesIds.map((_, index) => 20 + (index % 100))
    await insertMoments(trx, [{ sourceId, atMs, layout, values }])
    await trx
      .updateTable('source')
      .set({ lastHeardAt: new Date(atMs) })
      .where('id', '=', sourceId)
      .execute()
  })
}

function server(number: number, seriesEach: number): GearFinding {
  const name = `node-${String(number + 1).padStart(4, '0')}`
  const parts = Array.from(
    { length: Math.min(seriesEach - 1, PARTS_TOGETHER) },
    (_, index): GearFinding['parts'][number] =>
      index === 0
        ? { key: 'inlet', kind: 'sensor', name: 'inlet', facts: { context: 'Intake' } }
        : { key: `fan ${index}`, kind: 'fan', name: `fan ${index}`, facts: {} },
  )
  return {
    key: name,
    kind: 'server',
    name,
    identities: [{ kind: 'serial', value: `GEN-${number}` }],
    facts: { model: `Model ${number % 7}`, serial: `GEN-${number}` },
    parts,
  }
}

async function place(db: Db, racks: number, aRack: number): Promise<number> {
  const roomId = await insertRoom(db, { name: 'Generated', widthMm: 26_000, depthMm: 22_000 })
  const ids = await db
    .selectFrom('gear')
    .select('id')
    .where('name', 'like', 'node-%')
    .orderBy('name')
    .execute()
  await db.transaction().execute(async (trx) => {
    for (let at = 0; at < racks; at += 1) {
      const rackId = await insertRack(trx, {
        roomId,
        name: `R${String(at + 1).padStart(3, '0')}`,
        heightUnits: 42,
        xMm: 1000 + (at % 40) * 600,
        yMm: 1000 + Math.floor(at / 40) * 3600,
      })
      for (let unit = 1; unit <= aRack; unit += 1)
        await trx
          .updateTable('gear')
          .set({ rackId, unit, heightUnits: 1, face: 'both' })
          .where('id', '=', ids[at * aRack + unit - 1]!.id)
          .execute()
    }
  })
  return roomId
}
