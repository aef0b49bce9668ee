import { afterAll, afterEach, beforeAll, expect, test } from 'vitest'
import { type MeasureKey, type OwnMeasureFields, setOwnMeasures } from '#core/catalogue'
import { storeFindings } from '#db/gear'
import type { Db } from '#db/platform'
import { ensurePartitions, listOwnMeasures, readSpan } from '#db/readings'
import { insertMapping } from '#db/sources'
import { freshDatabase } from '#db/testing/database'
import { newSeries } from '#db/testing/series'
import { Refused } from '../platform/refused.ts'
import { keepOwnMeasure, loadOwnMeasures, removeOwnMeasure } from './ownMeasures.ts'

const KEY = 'hw.pump.vibration' as MeasureKey
const FIELDS: OwnMeasureFields = {
  key: KEY,
  label: 'Vibration',
  unit: 'hertz',
  kind: 'gauge',
  group: 'Climate',
  decimals: '1',
  states: '',
  low: '0',
  high: '200',
}
const START = Date.UTC(2026, 9, 1)
let db: Db
let drop: () => Promise<void>
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterEach(() => setOwnMeasures([]))
afterAll(() => drop())

const keep = (fields: Partial<OwnMeasureFields>, isNew: boolean) =>
  keepOwnMeasure(db, { ...FIELDS, ...fields }, { isNew, who: 'Asta Holm' })
const refusal = (work: Promise<unknown>): Promise<Refused> =>
  work.then(
    () => Promise.reject(new Error('it was not refused')),
    (thrown: unknown) => (thrown instanceof Refused ? thrown : Promise.reject(thrown as Error)),
  )

test('it is kept once, changed under its key, and what is wrong is told by field', async () => {
  await keep({}, true)
  expect((await refusal(keep({}, true))).problems).toEqual({ key: `${KEY} is there already.` })
  expect((await refusal(keep({ unit: 'furlong' }, false))).problems).toHaveProperty('unit')
  await keep({ label: 'Vibration of the pump', unit: 'perSecond' }, false)
  expect(await listOwnMeasures(db)).toMatchObject([
    { key: KEY, label: 'Vibration of the pump', unit: 'perSecond' },
  ])
  await keep({}, false)
})

test('what is outside its range is no reading', async () => {
  setOwnMeasures(await listOwnMeasures(db))
  const { sourceId } = await newSeries(db, 1)
  await ensurePartitions(db, START, START + 86_400_000)
  const moment = (atMs: number, value: number) => ({
    sourceId,
    atMs,
    findings: {
      gear: [{ key: 'pump', kind: 'cooling' as const, name: 'pump', identities: [], facts: {}, parts: [] }],
      links: [],
      readings: [{ gear: 'pump', part: null, measure: KEY, value }],
    },
  })
  const { placement } = await db
    .transaction()
    .execute((trx) => storeFindings(trx, moment(START, 48.2) as never, null))
  const { seriesId } = await db
    .selectFrom('series')
    .select('id as seriesId')
    .where('measure', '=', KEY)
    .executeTakeFirstOrThrow()
  await db
    .transaction()
    .execute((trx) => storeFindings(trx, moment(START + 60_000, -127) as never, placement))
  const { values } = await readSpan(db, seriesId, START, START + 3_600_000)
  expect([...values]).toEqual([48.2])
})

test('what uses it keeps it, and keeps its unit', async () => {
  await insertMapping(db, {
    name: 'pump of the quay',
    protocol: 'openmetrics',
    body: { lines: [{ metric: 'vibration', measure: KEY }] } as never,
  })
  const [measure] = await loadOwnMeasures(db)
  expect(measure?.keptBy).toBe('read by pump of the quay; 1 series with readings')
  expect((await refusal(removeOwnMeasure(db, KEY))).message).toBe(
    `${KEY} is used: read by pump of the quay; 1 series with readings. Remove that first.`,
  )
  expect((await refusal(keep({ unit: 'volt' }, false))).message).toContain('Its unit and kind stay')
  await keep({ label: 'Vibration at the pump' }, false)
  await db.deleteFrom('mapping').where('name', '=', 'pump of the quay').execute()
  await db.deleteFrom('series').where('measure', '=', KEY).execute()
  await removeOwnMeasure(db, KEY)
  expect(await listOwnMeasures(db)).toEqual([])
})
