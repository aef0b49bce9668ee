import { afterAll, beforeAll, expect, test } from 'vitest'
import { listGear, listSeries, storeFindings } from '#db/gear'
import type { Db } from '#db/platform'
import { ensurePartitions } from '#db/readings'
import { insertSource } from '#db/sources'
import { freshDatabase } from '#db/testing/database'
import { serverFindings } from '#db/testing/findings'
import { Present } from '../platform/present.ts'
import { loadCharts } from './charts.ts'

const MINUTE = 60_000
const START = Math.floor(Date.now() / MINUTE) * MINUTE - 3 * 60 * MINUTE
let db: Db
let drop: () => Promise<void>

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, START, Date.now())
})
afterAll(() => drop())

const source = (name: string, intervalSeconds: number): Promise<number> =>
  insertSource(db, {
    name,
    protocol: 'redfish',
    address: name,
    settings: {},
    intervalSeconds,
    credentialId: null,
    token: null,
  })

test('of two sources in one chart each curve has the gaps of its own interval, the chart those of both', async () => {
  const [fast, slow] = [await source('every minute', 60), await source('every quarter', 900)]
  const see = (sourceId: number, minute: number, watts: number) =>
    storeFindings(
      db,
      { sourceId, atMs: START + minute * MINUTE, findings: serverFindings({ rpm: null, watts }) },
      null,
    )
  // The fast one is away from the 20th to the 40th minute, both from the 60th to the 120th.
  for (let minute = 0; minute <= 150; minute += 1) {
    const isAway = minute > 60 && minute < 120
    if (!isAway && (minute <= 20 || minute >= 40)) await see(fast, minute, 200)
    if (!isAway && minute % 15 === 0) await see(slow, minute, 201)
  }
  const [gear] = await listGear(db)
  const ids = (await listSeries(db, [gear!.id]))
    .filter(({ measure }) => measure === 'hw.power')
    .sort((a, b) => a.sourceId - b.sourceId)
    .map(({ id }) => id)
  expect(ids).toHaveLength(2)
  const window = { key: 'own', fromMs: START, toMs: START + 150 * MINUTE } as const
  const inMinutes = (gaps: readonly { fromMs: number; toMs: number }[]) =>
    gaps.map(({ fromMs, toMs }) => [(fromMs - START) / MINUTE, (toMs - START) / MINUTE])
  for (const order of [ids, ids.toReversed()]) {
    const [chart] = await loadCharts(new Present(db, Date.now()), gear!.id, order, { window, pixels: 600 })
    const gapsOf = (id: number) => inMinutes(chart!.curves.find(({ seriesId }) => seriesId === id)!.gaps)
    expect(gapsOf(ids[0]!)).toEqual([
      [20, 40],
      [60, 120],
    ])
    expect(gapsOf(ids[1]!)).toEqual([[60, 120]])
    expect(inMinutes(chart!.gaps), 'whichever comes first').toEqual([[60, 120]])
  }
})
