import { createHash } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'kysely'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { MeasureKey } from '#core/catalogue'
import type { Curve } from '#core/readings'
import type { Db } from '#db/platform'
import { readSpan } from '#db/readings'
import { openKeyFile } from '#db/sources'
import { freshDatabase } from '#db/testing/database'
import { simulatedSite } from '../model/site.ts'
import { HYPERVISORS, portsFrom } from '../site/index.ts'
import { loadDemo } from './demo.ts'
import { momentsIn, Past, PAST_DAYS, stretches } from './past.ts'
import { readersOf } from './readers.ts'

const BORN = Date.UTC(2026, 10, 24, 9, 20)
const DAY = 86_400_000
const HOUR = 3_600_000
const PORTS = portsFrom(8460)
const folder = mkdtempSync(join(tmpdir(), 'rack-past-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** The source that tells of a machine. */
const hostOf = (machine: string): string => {
  const host = HYPERVISORS.find(({ machines }) => machines.some(({ name }) => name === machine))!
  return `${host.name} hypervisor`
}

const loaded = async (db: Db, only?: readonly string[]): Promise<Map<string, number>> =>
  loadDemo(db, {
    ...(only === undefined ? {} : { only }),
    key: openKeyFile(join(folder, 'secret.key')),
    standinFolder: folder,
    portBase: 8460,
    intervalSeconds: 10,
    nowMs: BORN,
  })

describe('stretches', () => {
  test('cover each day once, newest first, each within one period', () => {
    const all = stretches(BORN, PAST_DAYS)
    const today = Math.floor(BORN / DAY)
    expect(all[0]!.fromDay + all[0]!.days).toBe(today + 1)
    all.slice(1).forEach(({ fromDay, days }, index) => expect(fromDay + days).toBe(all[index]!.fromDay))
    expect(all.at(-1)!.fromDay).toBe(today - PAST_DAYS)
    for (const { fromDay, days } of all)
      expect(Math.floor(fromDay / 30)).toBe(Math.floor((fromDay + days - 1) / 30))
  })
  test('five minutes apart in the last 45 days, an hour before, and nothing after the beginning', () => {
    const times = stretches(BORN, PAST_DAYS)
      .toReversed()
      .flatMap((stretch) => [...momentsIn(stretch, BORN)])
    const steps = times.slice(1).map((at, index) => [times[index]!, at - times[index]!] as const)
    const border = (Math.floor(BORN / DAY) - 45) * DAY
    for (const [at, step] of steps) expect(step).toBe(at < border ? HOUR : 5 * 60_000)
    expect(times.at(-1)).toBeLessThan(BORN)
  })
})

test('what models give straight is what their documents and our parsers give', async () => {
  const readers = readersOf(simulatedSite(BORN), PORTS)
  const missed: string[] = []
  for (const { name, read, curveOf } of readers) {
    const key = (series: { gear: string; part: string | null; measure: string }): string =>
      JSON.stringify([series.gear, series.part, series.measure])
    const still = new Map((await read(BORN)).readings.map((each) => [key(each), each.value]))
    for (const atMs of [BORN - HOUR, BORN - 4 * DAY - 7 * HOUR, BORN - 61 * DAY]) {
      for (const reading of (await read(atMs)).readings) {
        const curve = curveOf(reading)
        const straight = curve === null ? (still.get(key(reading)) ?? null) : curve(atMs)
        const isSame =
          straight === reading.value ||
          (straight !== null && reading.value !== null && Math.abs(straight - reading.value) < 1e-6)
        if (!isSame) missed.push(`${name} ${key(reading)}: ${straight}, not ${reading.value}`)
      }
    }
  }
  expect(missed.slice(0, 20)).toEqual([])
})

test('the same beginning gives the same past, byte for byte, even if it was stopped on the way', async () => {
  const digests: string[][] = []
  for (let round = 0; round < 2; round += 1) {
    const { db, drop } = await freshDatabase()
    const sources = await loaded(db, ['petrel-03', 'harbour-B', 'petrel-01 hypervisor', 'hall-gateway'])
    let most = round === 0 ? Infinity : 2
    const past = new Past(db, { bornMs: BORN, ports: PORTS, sources, isStopping: () => (most -= 1) < 0 })
    const all = stretches(BORN, PAST_DAYS)
    for (const stretch of [all[2]!, all.at(-1)!]) {
      if (await past.lay(stretch)) continue
      most = Infinity
      expect(await past.lay(stretch)).toBe(true)
    }
    expect(most).toBe(Infinity)
    const { rows } = await sql<{ name: string; data: Buffer }>`
      select gear.name || coalesce(part.name, '') || measure || day as name, data
      from chunk join series on series.id = series_id join gear on gear.id = series.gear_id
      left join part on part.id = part_id order by 1`.execute(db)
    const step = Math.floor(rows.length / 50)
    expect(step).toBeGreaterThan(0)
    digests.push(
      rows
        .filter((_, index) => index % step === 0)
        .map(({ name, data }) => `${name} ${createHash('sha256').update(data).digest('hex')}`),
    )
    await drop()
  }
  expect(digests[0]!.length).toBeGreaterThanOrEqual(50)
  expect(digests[0]).toEqual(digests[1])
}, 120_000)

/** What the stories are read off. A hypervisor has a thousand other series, which would take minutes to lay down. */
const LOOKED_AT: readonly (readonly [MeasureKey, ...string[]])[] = [
  ['system.filesystem.utilization', 'gannet-03', 'gannet-04', 'gannet-05'],
  ['hw.drive.life_left', 'petrel-03', 'skua-1'],
  ['ups.battery.minutes_left', 'harbour-B'],
  ['hw.voltage', 'petrel-11'],
  ['system.memory.utilization', 'petrel-09', 'petrel-10', 'petrel-11', 'petrel-12'],
  ['system.cpu.utilization', 'chart-render-01', 'petrel-01'],
  ['hw.network.io.transmit', 'night-copy-01', 'ferry-report-02'],
  ['hw.network.io.receive', 'ferry-report-02'],
  ['hw.temperature', 'b06-front', 'b07-front', 'b08-front', 'lantern-quay'],
  ['hw.current', 'B05-A'],
  ['system.volume.claim', 'tiles/scratch-3'],
  ['hw.network.up', 'reef-2', 'reef-4'],
  ['net.reachable', 'recorder'],
]

/** Has the other series never been there. */
async function keepLookedAt(db: Db): Promise<void> {
  const kept = LOOKED_AT.flatMap(([measure, ...gear]) => gear.map((name) => `${name} ${measure}`))
  await sql`delete from series using gear
    where gear.id = series.gear_id and not (gear.name || ' ' || series.measure = any(${kept}))`.execute(db)
}

describe('the stories of the year are in what is stored', () => {
  let db: Db
  let drop: () => Promise<void>
  beforeAll(async () => {
    ;({ db, drop } = await freshDatabase())
    const sources = await loaded(db)
    await keepLookedAt(db)
    const past = new Past(db, {
      bornMs: BORN,
      ports: PORTS,
      sources,
      only: [
        ...['petrel-01', 'petrel-02', 'petrel-04'].map((name) => `${name} hypervisor`),
        ...['chart-render-01', 'night-copy-01', 'ferry-report-02'].map(hostOf),
        ...['petrel-09', 'petrel-10', 'petrel-11', 'petrel-12'].map((name) => `${name} hypervisor`),
        'petrel-03',
        'petrel-11',
        'skua-1',
        'harbour-B',
        'hall-gateway',
        'lantern-gateway',
        'B05-A',
        'kelp',
        'reef-2',
        'reef-4',
        'recorder',
      ],
    })
    const all = stretches(BORN, PAST_DAYS)
    // The newest weeks whole, and the oldest month.
    for (const stretch of [...all.filter(({ fromDay }) => fromDay > BORN / DAY - 70), all.at(-1)!])
      await past.lay(stretch)
  }, 240_000)
  afterAll(() => drop())

  async function curve(
    gear: string,
    measure: MeasureKey,
    part: string | null = null,
    days = 60,
  ): Promise<Curve> {
    const series = await db
      .selectFrom('series')
      .innerJoin('gear', 'gear.id', 'series.gearId')
      .leftJoin('part', 'part.id', 'series.partId')
      .select('series.id')
      .where('gear.name', '=', gear)
      .where('series.measure', '=', measure)
      .where('part.name', part === null ? 'is' : '=', part)
      .executeTakeFirst()
    if (series === undefined) throw new Error(`there is no series ${measure} of ${gear} ${part ?? ''}`)
    return readSpan(db, series.id, BORN - days * DAY, BORN)
  }
  const at = ({ times, values }: Curve, atMs: number): number => {
    const index = times.findIndex((time) => time >= atMs)
    return values[index < 0 ? values.length - 1 : index]!
  }
  const mean = (values: Iterable<number>): number => {
    const all = [...values]
    return all.reduce((sum, value) => sum + value, 0) / all.length
  }
  const between = ({ times, values }: Curve, fromMs: number, toMs: number): number[] =>
    [...values].filter((_, index) => times[index]! >= fromMs && times[index]! < toMs)

  test('a store fills in about three weeks', async () => {
    const used = await curve('gannet-03', 'system.filesystem.utilization')
    const perDay = (at(used, BORN) - at(used, BORN - 14 * DAY)) / 14
    expect((1 - at(used, BORN)) / perDay).toBeGreaterThan(18)
    expect((1 - at(used, BORN)) / perDay).toBeLessThan(24)
  })
  test('one looked full-bound, and had a bulk copy', async () => {
    const used = await curve('gannet-04', 'system.filesystem.utilization')
    expect(at(used, BORN - 8 * DAY) - at(used, BORN - 10 * DAY)).toBeGreaterThan(0.2)
    expect(Math.abs(at(used, BORN) - at(used, BORN - 8 * DAY))).toBeLessThan(0.01)
  })
  test('a saw-tooth of snapshots', async () => {
    const { values } = await curve('gannet-05', 'system.filesystem.utilization')
    const drops = values.filter((value, index) => index > 0 && value < values[index - 1]! - 0.05).length
    expect(drops).toBeGreaterThanOrEqual(7)
  })
  test('a cache drive worn in six weeks, that took the place of another', async () => {
    const life = await curve('petrel-03', 'hw.drive.life_left', 'd2')
    const perDay = (at(life, BORN - 40 * DAY) - at(life, BORN)) / 40
    expect(at(life, BORN) / perDay).toBeGreaterThan(38)
    expect(at(life, BORN) / perDay).toBeLessThan(46)
  })
  test('two drives of one batch in one pool, worn alike', async () => {
    const { rows } = await sql<{ batch: string; pool: string; names: string[] }>`
      select part.facts ->> 'partNumber' as batch, part.facts ->> 'pool' as pool, array_agg(part.name order by part.name) as names
      from part join gear on gear.id = part.gear_id where gear.name = 'skua-1' and part.kind = 'drive'
        and part.id in (select part_id from series where measure = 'hw.drive.life_left')
      group by 1, 2 having count(*) = 2 and min(part.name) = 'd04'`.execute(db)
    expect(rows).toEqual([{ batch: 'Q2-7T6-2319', pool: 'pool-1', names: ['d04', 'd05'] }])
    const [one, other] = [
      await curve('skua-1', 'hw.drive.life_left', 'd04'),
      await curve('skua-1', 'hw.drive.life_left', 'd05'),
    ]
    expect(at(one, BORN)).toBeLessThan(0.15)
    expect(Math.abs(at(one, BORN) - at(other, BORN))).toBeLessThan(0.03)
  })
  test('a UPS whose runtime declines', async () => {
    const left = await curve('harbour-B', 'ups.battery.minutes_left', null, 366)
    const [then, now] = [
      mean(between(left, BORN - 365 * DAY, BORN - 355 * DAY)),
      mean(between(left, BORN - 7 * DAY, BORN)),
    ]
    expect(now).toBeLessThan(then * 0.8)
  })
  test('a supply with no second cord', async () => {
    expect(mean((await curve('petrel-11', 'hw.voltage', 'Supply 2')).values)).toBe(0)
    expect(mean((await curve('petrel-11', 'hw.voltage', 'Supply 1')).values)).toBeGreaterThan(200)
  })
  test('a host that no longer survives the loss of its neighbour', async () => {
    const hosts = ['petrel-09', 'petrel-10', 'petrel-11', 'petrel-12']
    const ratios = await Promise.all(hosts.map((name) => curve(name, 'system.memory.utilization')))
    const spread = (atMs: number): number => ratios.reduce((sum, each) => sum + at(each, atMs), 0) / 3
    expect(spread(BORN - 1 * HOUR)).toBeGreaterThan(1)
    expect(spread(BORN - 55 * DAY)).toBeLessThan(0.95)
  })
  test('an oversized set of machines', async () => {
    for (const name of ['chart-render-01', 'chart-render-02']) {
      const found = await db
        .selectFrom('gear')
        .select('facts')
        .where('name', '=', name)
        .executeTakeFirstOrThrow()
      expect(Number(found.facts['processors'])).toBe(16)
    }
    const used = await curve('chart-render-01', 'system.cpu.utilization')
    expect(Math.max(...used.values)).toBeLessThan(0.15)
  })
  test('a nightly backup that collides with the model run, and a better window', async () => {
    const sends = await curve('night-copy-01', 'hw.network.io.transmit', 'net0')
    const host = await curve('petrel-01', 'system.cpu.utilization')
    const hours = (from: number, to: number, of: Curve): number =>
      mean(
        of.values.filter((_, index) => {
          const hour = (of.times[index]! % DAY) / HOUR
          return hour >= from && hour < to
        }),
      )
    expect(hours(0.5, 2.5, sends)).toBeGreaterThan(20 * hours(3, 5.5, sends))
    expect(hours(0.7, 2.3, host)).toBeGreaterThan(hours(3, 5.5, host) * 1.3)
  })
  test('a rack with a hot inlet', async () => {
    const inlets = await Promise.all(
      ['b06', 'b07', 'b08'].map((rack) => curve(`${rack}-front`, 'hw.temperature')),
    )
    const [left, hot, right] = inlets.map(({ values }) => mean(values))
    expect(hot!).toBeGreaterThan(27)
    expect(hot! - Math.max(left!, right!)).toBeGreaterThan(4)
  })
  test('a phase out of balance', async () => {
    const [one, two, three] = await Promise.all(
      ['L1', 'L2', 'L3'].map(async (phase) => mean((await curve('B05-A', 'hw.current', phase)).values)),
    )
    expect(one! / mean([one!, two!, three!])).toBeGreaterThan(1.5)
  })
  test('a two-cord server with both cords on one UPS', async () => {
    const { rows } = await sql<{ name: string }>`
      select server.name from link cord
      join gear server on server.id = cord.from_gear_id and server.kind = 'server'
      join link feed on feed.from_gear_id = cord.to_gear_id and feed.kind = 'fed-by'
      join gear ups on ups.id = feed.to_gear_id and ups.kind = 'ups'
      where cord.kind = 'fed-by' and cord.from_part_id is not null
      group by 1 having count(distinct cord.from_part_id) = 2 and count(distinct ups.id) = 1`.execute(db)
    expect(rows.map(({ name }) => name)).toEqual(['petrel-06'])
  })
  test('a probe that went silent', async () => {
    const { times } = await curve('lantern-quay', 'hw.temperature')
    expect((BORN - times.at(-1)!) / DAY).toBeGreaterThan(4.9)
    expect((BORN - times.at(-1)!) / DAY).toBeLessThan(5.1)
  })
  test('a machine that sends much and receives little', async () => {
    const [out, back] = [
      await curve('ferry-report-02', 'hw.network.io.transmit', 'net0'),
      await curve('ferry-report-02', 'hw.network.io.receive', 'net0'),
    ]
    const week = BORN - 7 * DAY
    expect(mean(between(out, week, BORN))).toBeGreaterThan(300 * mean(between(back, week, BORN)))
    expect(mean(between(out, BORN - 30 * DAY, BORN - 20 * DAY))).toBeLessThan(2e7)
  })
  test('a claim that stays pending', async () => {
    const claim = await curve('tiles/scratch-3', 'system.volume.claim')
    expect(new Set(claim.values)).toEqual(new Set([1]))
    expect((BORN - claim.times[0]!) / DAY).toBeCloseTo(2, 1)
  })
  test('a flapping uplink', async () => {
    const { times, values } = await curve('reef-4', 'hw.network.up', 'radio-0')
    const changes = [...values].filter((value, index) => index > 0 && value !== values[index - 1]).length
    expect(changes).toBeGreaterThan(40)
    const first = times[[...values].findIndex((value) => value === 0)]!
    expect((BORN - first) / DAY).toBeLessThan(3.1)
  })
  test('a recorder off a failed port', async () => {
    expect(at(await curve('reef-2', 'hw.network.up', 'xe-17'), BORN)).toBe(0)
    expect(at(await curve('recorder', 'net.reachable'), BORN)).toBe(0)
    expect(at(await curve('recorder', 'net.reachable'), BORN - DAY)).toBe(1)
    const { rows } = await sql<{ port: string }>`
      select part.name as port from link join gear on gear.id = link.from_gear_id join part on part.id = link.to_part_id
      where link.kind = 'wired-to' and gear.name = 'recorder'`.execute(db)
    expect(rows).toEqual([{ port: 'xe-17' }])
  })
})
