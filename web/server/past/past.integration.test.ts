import ExcelJS from 'exceljs'
import ICAL from 'ical.js'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { pickOf, writePick } from '#core/past'
import { insertTexts } from '#db/logs'
import type { Db } from '#db/platform'
import { aggregate, ensurePartitions, rasters, sealPast } from '#db/readings'
import { recordGearChanges } from '#db/gear'
import { insertSource } from '#db/sources'
import { freshDatabase } from '#db/testing/database'
import { Present } from '../platform/present.ts'
import { writeWorkbook } from '../platform/workbook.ts'
import { loadOver } from './over.ts'
import { loadPast } from './past.ts'
import { pastSheets } from './pastSheets.ts'
import { suggestPicks } from './picks.ts'
import { loadQuietHours, quietCalendar } from './quiet.ts'

const DAY_MS = 86_400_000
const TODAY = Math.floor(Date.now() / DAY_MS)
const NOW = TODAY * DAY_MS
const DAYS = 21
let db: Db
let drop: () => Promise<void>
let sourceId: number
const ids: number[] = []

/** Sixteen servers in two clusters, every quarter of an hour: the n-th is at n × 3 % all day, and twice that from 01:00 to 03:00. */
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, NOW, NOW + DAY_MS)
  sourceId = await insertSource(db, {
    name: 'made',
    protocol: 'redfish',
    address: 'https://127.0.0.1',
    settings: {},
    intervalSeconds: 900,
    credentialId: null,
    token: null,
  })
  for (let index = 1; index <= 16; index += 1) {
    const gear = await db
      .insertInto('gear')
      .values({
        name: `auk-${String(index).padStart(2, '0')}`,
        kind: 'server',
        facts: JSON.stringify({ cluster: index <= 8 ? 'east' : 'west' }),
        rackId: null,
        unit: null,
        heightUnits: null,
      })
      .returning('id')
      .executeTakeFirstOrThrow()
    const row = await db
      .insertInto('series')
      .values({ sourceId, gearId: gear.id, partId: null, measure: 'system.cpu.utilization' })
      .returning('id')
      .executeTakeFirstOrThrow()
    ids.push(row.id)
  }
  for (let from = TODAY - DAYS; from < TODAY;) {
    const until = Math.min(TODAY, (Math.floor(from / 30) + 1) * 30)
    const times = Float64Array.from(
      { length: (until - from) * 96 },
      (_, quarter) => from * DAY_MS + quarter * 900_000,
    )
    await sealPast(
      db,
      { sourceId, fromDay: from, days: until - from },
      new Map(
        ids.map((id, index) => [
          id,
          {
            times,
            values: times.map((at) => {
              const hour = (at % DAY_MS) / 3_600_000
              return (index + 1) * 0.03 * (hour >= 1 && hour < 3 ? 2 : 1)
            }),
          },
        ]),
      ),
    )
    from = until
  }
})
afterAll(() => drop())

const present = (): Present => new Present(db, NOW)
const at = (query: string): URL => new URL(`http://past.test/past?${query}`)
const week = `from=${NOW - 7 * DAY_MS}&to=${NOW}`
const north = (pick = {}): string =>
  writePick({ ...pickOf('system.cpu.utilization', 'cluster', 'east'), ...pick })

test('many series at once are what each is by itself', async () => {
  const raster = { fromMs: NOW - 7 * DAY_MS, stepMs: 6 * 3_600_000, columns: 28 }
  const { rows, summaries, from } = await rasters(db, ids, raster)
  expect(from).toBe('hours')
  for (const id of ids.slice(0, 3)) {
    const { buckets } = await aggregate(db, id, {
      fromMs: raster.fromMs,
      toMs: NOW,
      bucketMs: raster.stepMs,
    })
    expect([...rows.get(id)!.mean].map((mean) => mean.toFixed(9))).toEqual(
      buckets.map(({ mean }) => mean.toFixed(9)),
    )
    expect([...rows.get(id)!.max]).toEqual(buckets.map(({ max }) => max))
    // 22 hours at 1 and two at 2.
    expect(summaries.get(id)!.mean).toBeCloseTo(((ids.indexOf(id) + 1) * 0.03 * 26) / 24, 9)
  }
})

async function gearOf(seriesId: number): Promise<number> {
  const row = await db
    .selectFrom('series')
    .select('gearId')
    .where('id', '=', seriesId)
    .executeTakeFirstOrThrow()
  return row.gearId
}

describe('a pick', () => {
  test('of a few is drawn as curves, with the percentiles of every reading', async () => {
    const past = await loadPast(present(), at(`p=${north()}&${week}`))
    expect(past.view).toBe('curves')
    expect(past.problems).toEqual([])
    expect(past.curves.map(({ name }) => name)).toEqual(
      Array.from({ length: 8 }, (_, index) => `auk-0${index + 1}`),
    )
    const last = past.curves[7]!.statistics
    expect(last).toMatchObject({ min: 0.24, max: 0.48 })
    expect(last.p95).toBeCloseTo(0.48)
    expect(past.percentilesFrom).toBe('readings')
    expect(past.sentence).toMatch(
      /^Of 8, auk-08 is highest with 26\.0.% on average, auk-01 lowest with 3\.3.%\.$/,
    )
    expect(past.panels[0]!.curves).toHaveLength(8)
    expect(past.panels[0]!.line).toMatchObject({ direction: 'above' })
  })
  test('is compared with the mean of other gear: each of one cluster less the mean of the other', async () => {
    const from = { scope: 'cluster', value: 'west', role: null } as const
    const compared = north({ against: { how: 'less', measure: 'system.cpu.utilization', from } })
    const past = await loadPast(present(), at(`p=${compared}&${week}`))
    expect(past.problems).toEqual([])
    expect(past.picks[0]!.words).toBe('Processor use less mean processor use of cluster west · cluster east')
    expect(past.curves).toHaveLength(8)
    // The n-th is at n × 3 %; the mean of the 9th to the 16th is that of 12.5; 22 hours at 1 and two at 2.
    past.curves.forEach(({ statistics }, index) =>
      expect(statistics.mean).toBeCloseTo(((index + 1 - 12.5) * 0.03 * 26) / 24, 3),
    )
    const nowhere = north({
      against: { how: 'less', measure: 'system.cpu.utilization', from: { ...from, value: 'south' } },
    })
    expect((await loadPast(present(), at(`p=${nowhere}&${week}`))).problems[0]).toContain(
      'is compared with is gone; it is left out',
    )
  })
  test('has what changed of its gear meanwhile beside it', async () => {
    const gearId = await gearOf(ids[2]!)
    const change = { what: 'fact', subject: 'firmware', was: '1', became: '2' } as const
    await recordGearChanges(db, gearId, [change], null, new Date(NOW - DAY_MS))
    await recordGearChanges(db, gearId, [change], null, new Date(NOW - 9 * DAY_MS))
    const past = await loadPast(present(), at(`p=${north()}&${week}`))
    expect(past.changes).toMatchObject([
      { gear: 'auk-03', atMs: NOW - DAY_MS, words: 'Firmware 2; before, 1' },
    ])
  })
  test('has what its gear said as an error beside it, and nothing that is no error, or of others', async () => {
    const gearId = await gearOf(ids[2]!)
    const text = (severity: number, body: string, daysAgo: number, of: number | null = gearId) => ({
      heardAt: new Date(NOW - daysAgo * DAY_MS),
      saidAt: null,
      address: '192.0.2.7',
      host: 'auk-03',
      sourceId: null,
      gearId: of,
      kind: 'syslog' as const,
      severity,
      app: 'kernel',
      body,
      times: 1,
    })
    await insertTexts(db, [
      text(3, 'I/O error on sdb', 1),
      text(2, 'temperature above threshold', 2),
      text(6, 'session opened', 1),
      text(1, 'of nobody', 1, null),
      text(1, 'long ago', 9),
    ])
    const { said } = await loadPast(present(), at(`p=${north()}&${week}`))
    expect(said).toMatchObject({
      lines: [
        { gear: 'auk-03', word: 'error', body: 'I/O error on sdb', atMs: NOW - DAY_MS },
        { word: 'critical', body: 'temperature above threshold' },
      ],
      isMore: false,
    })
    await insertTexts(
      db,
      Array.from({ length: 40 }, (_, at) => text(3, `error ${at}`, 1.5)),
    )
    const many = await loadPast(present(), at(`p=${north()}&${week}`))
    expect(many.said.lines).toHaveLength(30)
    expect(many.said.isMore).toBe(true)
  })
  test('of many is a heat map, which names no more than it has', async () => {
    const past = await loadPast(present(), at(`p=system.cpu.utilization&${week}`))
    expect(past.view).toBe('heat')
    expect(past.panels[0]!.heat!.means).toHaveLength(16)
    expect(past.percentilesFrom).toBe('sketches')
    expect(past.curves[15]!.statistics.p99).toBeGreaterThan(0.96 * 0.97)
  })
  test('is put together by cluster; the sum is that of its members', async () => {
    const pick = writePick({ ...pickOf('system.cpu.utilization'), together: 'sum', per: 'cluster' })
    const past = await loadPast(present(), at(`p=${pick}&${week}`))
    expect(past.curves.map(({ name }) => name)).toEqual(['east', 'west'])
    // 0.03 × (1 + … + 8), and × (9 + … + 16); 26 of 24 hours.
    expect(past.curves[0]!.statistics.mean).toBeCloseTo((0.03 * 36 * 26) / 24, 3)
    expect(past.curves[1]!.statistics.mean).toBeCloseTo((0.03 * 100 * 26) / 24, 3)
  })
  test('takes the busiest only, and the same window earlier is laid under it', async () => {
    const past = await loadPast(present(), at(`p=${north({ busiest: 2 })}&${week}`))
    expect(past.curves.map(({ name }) => name)).toEqual(['auk-08', 'auk-07'])
    const under = await loadPast(present(), at(`p=${north()}&${week}&under=week`))
    const earlier = under.panels[0]!.curves.filter((curve) => curve.isEarlier)
    expect(earlier).toHaveLength(8)
    expect(earlier[0]!.times[0]).toBeGreaterThanOrEqual(NOW - 7 * DAY_MS)
  })
})

describe('what cannot be shown is said, and the rest is shown', () => {
  test.each([
    [() => `p=nothing.such&p=${north()}`, /is no measure/],
    [() => `p=system.cpu.utilization~cluster~gone&p=${north()}`, /is gone/],
    [() => `s=${ids[0]},999999&p=${north()}`, /One series of this address is not kept any more \(999999\)/],
    [() => `p=${north()}&from=${NOW}&to=${NOW - 1000}`, /ends before it begins/],
    [
      () => Array.from({ length: 13 }, () => `p=${north()}`).join('&'),
      /13 picks were asked for; the first 12/,
    ],
  ])('%#', async (query, says) => {
    const past = await loadPast(present(), at(query()))
    expect(past.problems.join(' ')).toMatch(says)
    expect(past.curves.length).toBeGreaterThanOrEqual(8)
  })
  test('any address gives an answer', async () => {
    for (const query of ['p=~~~~~~~~', 'p=%', 's=-1,x,9e99', 'under=century&v=picture', 'from=x&to=y'])
      expect((await loadPast(present(), at(query))).curves).toEqual([])
  })
})

test('what is typed is found by measure and place, with how many series it has', async () => {
  const [first] = await suggestPicks(present(), 'proc east')
  expect(first).toEqual({ pick: north(), words: 'Processor use · cluster east', series: 8 })
  expect(await suggestPicks(present(), 'temperature east')).toEqual([])
})

describe('over the line', () => {
  const over = (query: string) => loadOver(present(), new URL(`http://past.test/past/over?${week}&${query}`))
  test('by the 95th percentile: those whose twice-as-busy hours lie above 80 %', async () => {
    // Two of 24 hours are 8.3 %: the 95th percentile lies among them. 0.06 × n > 0.8 from the fourteenth on.
    const found = await over('m=system.cpu.utilization&at=80 %25&by=p95')
    expect(found.rows.map(({ gear }) => gear)).toEqual(['auk-16', 'auk-15', 'auk-14'])
    expect(found.exact).toBe(true)
    expect(found.rows[0]!.beyond).toBeCloseTo(2 / 24, 3)
    expect(found.rows[0]!.longestMs).toBe(2 * 3_600_000)
    expect(found.sentence).toMatch(
      /^3 of 16 had a 95th percentile of processor use above 80\.0.%: auk-16, auk-15, auk-14\.$/,
    )
  })
  test('by the mean, below, at a place', async () => {
    const found = await over(
      'm=system.cpu.utilization&at=7 %25&by=mean&dir=below&whereKind=cluster&whereValue=east',
    )
    expect(found.rows.map(({ gear }) => gear)).toEqual(['auk-01', 'auk-02'])
    expect(found.of).toBe(8)
  })
  test('a line that is none is said, and the usual one stands for it', async () => {
    const found = await over('m=system.cpu.utilization&at=many')
    expect(found.problems.join(' ')).toContain('“many” is no number')
    expect(found.question.at).toBe(0.8)
  })
})

test('quiet hours end where all are busy, and one is taken along as iCalendar', async () => {
  const asked = new URL(`http://past.test/past/quiet?p=${north()}&weeks=2&len=4`)
  const told = await loadQuietHours(present(), asked)
  expect(told.found.problem).toBeNull()
  for (const { hour } of told.found.windows) expect(hour >= 3 && hour <= 21).toBe(true)
  asked.searchParams.set('hour', String(told.found.windows[0]!.hour))
  const calendar = new ICAL.Component(ICAL.parse((await quietCalendar(present(), asked))!) as unknown[])
  const event = new ICAL.Event(calendar.getFirstSubcomponent('vevent')!)
  expect(event.duration.toSeconds()).toBe(4 * 3600)
  const next = event.iterator()
  const hours = [next.next(), next.next(), next.next()].map((each) => each.hour)
  expect(new Set(hours)).toEqual(new Set([told.found.windows[0]!.hour]))
  asked.searchParams.set('hour', '1')
  expect(await quietCalendar(present(), asked)).toBeNull()
})

test('a workbook has numbers as numbers and dates as dates', async () => {
  const { statistics, times } = await pastSheets(present(), at(`p=${north()}&${week}`))
  const book = new ExcelJS.Workbook()
  await book.xlsx.load((await writeWorkbook([statistics, times])) as unknown as ArrayBuffer)
  const byTime = book.getWorksheet('By time')!
  expect(byTime.getCell('A2').value).toEqual(new Date(NOW - 7 * DAY_MS))
  expect(byTime.getCell('B2').value).toBeCloseTo(0.03)
  expect(book.getWorksheet('Statistics')!.getCell('G2').value).toBe(0.06)
})
