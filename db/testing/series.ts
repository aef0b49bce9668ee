import type { MeasureKey } from '#core/catalogue'
import type { Db } from '../platform/connect.ts'
import { insertSource } from '../sources/sources.ts'

let made = 0
const MEASURES: readonly MeasureKey[] = ['hw.temperature', 'hw.voltage', 'hw.fan.speed']

/** A source that nobody reads. */
export const madeSource = (db: Db, name: string): Promise<number> =>
  insertSource(db, {
    name,
    protocol: 'redfish',
    address: 'https://127.0.0.1',
    settings: {},
    intervalSeconds: 60,
    credentialId: null,
    token: null,
  })

/** A source with one gear and some series, without any reading. */
export async function newSeries(db: Db, count: number): Promise<{ sourceId: number; seriesIds: number[] }> {
  made += 1
  const sourceId = await madeSource(db, `made source ${made}`)
  const gear = await db
    .insertInto('gear')
    .values({
      name: `made ${made}`,
      kind: 'server',
      facts: '{}',
      rackId: null,
      unit: null,
      heightUnits: null,
    })
    .returning('id')
    .executeTakeFirstOrThrow()
  const parts = await db
    .insertInto('part')
    .values(
      Array.from({ length: count }, (_, index) => ({
        gearId: gear.id,
        key: `part ${index}`,
        kind: 'sensor' as const,
        name: `part ${index}`,
        facts: '{}',
      })),
    )
    .returning('id')
    .execute()
  const series = await db
    .insertInto('series')
    .values(
      parts.map(({ id }, index) => ({
        sourceId,
        gearId: gear.id,
        partId: id,
        measure: MEASURES[index % MEASURES.length]!,
      })),
    )
    .returning('id')
    .execute()
  return { sourceId, seriesIds: series.map(({ id }) => id) }
}
