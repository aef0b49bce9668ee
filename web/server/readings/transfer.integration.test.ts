import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Db } from '#db/platform'
import { ensurePartitions, insertMoments, layoutFor, readSpan } from '#db/readings'
import { freshDatabase } from '#db/testing/database'
import { newSeries } from '#db/testing/series'
import { exported, type ExportFormat, streamOf } from './exporting.ts'
import { importReadings } from './importing.ts'

const START = Date.UTC(2026, 9, 1)
const NOW = START + 40 * 86_400_000
let db: Db
let drop: () => Promise<void>
let seriesIds: number[]
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  const made = await newSeries(db, 3)
  seriesIds = made.seriesIds
  await db.updateTable('gear').set({ name: '=cmd, "quoted"' }).execute()
  const layout = { id: await layoutFor(db, made.sourceId, seriesIds), seriesIds }
  await ensurePartitions(db, START, START + 3 * 86_400_000)
  await insertMoments(
    db,
    Array.from({ length: 500 }, (_, index) => ({
      sourceId: made.sourceId,
      atMs: START + index * 300_123,
      layout,
      values: [Math.sin(index), index % 9 === 0 ? null : -index / 10, index],
    })),
  )
})
afterAll(() => drop())

async function textOf(format: ExportFormat, ids: readonly number[] | null = null): Promise<string> {
  let text = ''
  for await (const piece of exported(db, { seriesIds: ids, fromMs: 0, toMs: NOW, format })) text += piece
  return text
}
const bodyOf = (text: string): ReadableStream<Uint8Array> =>
  streamOf(
    (async function* () {
      for (let at = 0; at < text.length; at += 1000) yield await Promise.resolve(text.slice(at, at + 1000))
    })(),
  )
const all = async () => Promise.all(seriesIds.map((id) => readSpan(db, id, 0, NOW)))

describe.each(['csv', 'openmetrics'] as const)('as %s', (format) => {
  test('what is exported comes back bit for bit, and a second time makes no doubles', async () => {
    const before = await all()
    const text = await textOf(format)
    const lines =
      text
        .trim()
        .split('\n')
        .filter((line) => !line.startsWith('#')).length - (format === 'csv' ? 1 : 0)
    expect(lines).toBe(before.reduce((total, curve) => total + curve.times.length, 0))
    await db.deleteFrom('hot').execute()
    await db.deleteFrom('chunk').execute()
    expect((await all()).every((curve) => curve.times.length === 0)).toBe(true)
    for (let round = 0; round < 2; round += 1) {
      const outcome = await importReadings(db, bodyOf(text), NOW)
      expect(outcome).toEqual({ taken: lines, unknown: [], bad: [], badLines: 0 })
      expect(await all()).toEqual(before)
    }
    expect(await db.selectFrom('correction').select('id').execute()).toEqual([])
  })
})

test('the CSV carries units, times in UTC, and no formula for a spreadsheet', async () => {
  const [head, first] = (await textOf('csv', [seriesIds[0]!])).split('\n')
  expect(head).toBe('time,gear,part,measure,unit,value')
  expect(first).toBe('2026-10-01T00:00:00.000Z,"\'=cmd, ""quoted""",part 0,hw.temperature,Cel,0')
})
test('OpenMetrics text names its families once and ends as it must', async () => {
  const text = await textOf('openmetrics')
  expect(text.match(/# TYPE \S+ gauge/g)).toEqual([
    '# TYPE hw_fan_speed gauge',
    '# TYPE hw_temperature gauge',
    '# TYPE hw_voltage gauge',
  ])
  expect(text.endsWith('\n# EOF\n')).toBe(true)
})

describe('what cannot be taken in is listed, the rest is kept', () => {
  test('in CSV', async () => {
    const gear = '"\'=cmd, ""quoted"""'
    const outcome = await importReadings(
      db,
      bodyOf(
        [
          'Time,Gear,Part,Measure,Value',
          `2026-09-01T00:00:00Z,${gear},part 0,hw.temperature,21.5`,
          `yesterday,${gear},part 0,hw.temperature,21.5`,
          `2026-09-01T00:01:00Z,${gear},part 0,hw.temperature,warm`,
          `2099-01-01T00:00:00Z,${gear},part 0,hw.temperature,1`,
          `2026-09-01T00:01:00Z,gull-9,,hw.power,5`,
          '',
        ].join('\n'),
      ),
      NOW,
    )
    expect(outcome).toEqual({
      taken: 1,
      unknown: [{ name: 'hw.power of gull-9', readings: 1 }],
      bad: [
        { line: 3, why: '“yesterday” is not a time like 2026-03-04T05:06:07Z' },
        { line: 4, why: '“warm” is not a number' },
        { line: 5, why: 'its time lies ahead of the clock here' },
      ],
      badLines: 3,
    })
    expect((await readSpan(db, seriesIds[0]!, Date.UTC(2026, 8, 1), Date.UTC(2026, 8, 2))).values).toEqual(
      Float64Array.of(21.5),
    )
  })
  test.each([
    ['a quotation mark that is never closed', '2026-09-02T00:01:00Z,"tern', 'a quotation mark is not closed'],
    ['text behind a closed cell', '2026-09-02T00:01:00Z,"tern"x,,hw.power,1', 'something stands behind'],
    ['a quotation mark within a cell', '2026-09-02T00:01:00Z,te"rn,,hw.power,1', 'inside a cell'],
    ['a line without end', `2026-09-02T00:01:00Z,${'x'.repeat(70_000)}`, 'more than 64 KiB'],
  ])('in CSV that breaks off at %s: what stands before it is kept', async (_, broken, why) => {
    const at = (time: string): string => `${time},"'=cmd, ""quoted""",part 0,hw.temperature,23.5\n`
    const isLast = why.endsWith('closed')
    const rest = isLast
      ? '2026-09-02T00:02:00Z,gull-9,,hw.power,5\n'
      : at('2026-09-02T00:02:00Z').repeat(20_000)
    const outcome = await importReadings(
      db,
      bodyOf(`time,gear,part,measure,value\n${at('2026-09-02T00:00:00Z')}${broken}\n${rest}`),
      NOW,
    )
    expect(outcome).toMatchObject({ taken: 1, unknown: [], badLines: 1 })
    expect(outcome.bad[0]?.why).toContain(why)
    expect(outcome.bad[0]?.line).toBe(3)
  })
  test('in OpenMetrics', async () => {
    const outcome = await importReadings(db, bodyOf('x{ 3\nhw_power 3\nhw_power{part="a"} 3 1\n# EOF\n'), NOW)
    expect(outcome.bad).toEqual([
      { line: 1, why: expect.stringContaining('labels') as string },
      { line: 2, why: 'it has no time' },
      { line: 3, why: 'it has no label gear' },
    ])
  })
  test('an empty file is nothing', async () => {
    expect(await importReadings(db, bodyOf(''), NOW)).toEqual({ taken: 0, unknown: [], bad: [], badLines: 0 })
  })
})

test('an export that nobody reads any more stops reading the store', async () => {
  const stream = streamOf(exported(db, { seriesIds: null, fromMs: 0, toMs: NOW, format: 'csv' }))
  const reader = stream.getReader()
  await reader.read()
  await reader.cancel()
  expect((await reader.read()).done).toBe(true)
})
