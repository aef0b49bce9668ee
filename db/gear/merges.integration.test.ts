import { afterAll, beforeEach, describe, expect, test } from 'vitest'
import type { Db } from '../platform/connect.ts'
import { storeFindings } from './findings.ts'
import { listGear, listParts, listSeries } from './gear.ts'
import { CannotMerge, keepApart, likelyPairs, mergeGear, mergesOf, splitSource, undoMerge } from './merges.ts'
import { listItemSeries } from '../sources/items.ts'
import { ensurePartitions, readSpan } from '../readings/index.ts'
import { insertSource } from '../sources/sources.ts'
import { freshDatabase } from '../testing/database.ts'
import { serverFindings } from '../testing/findings.ts'

let db: Db
let drop: (() => Promise<void>) | undefined
let atMs: number

beforeEach(async () => {
  await drop?.()
  const fresh = await freshDatabase()
  db = fresh.db
  drop = fresh.drop
  atMs = Math.floor(Date.now() / 60_000) * 60_000
  await ensurePartitions(db, atMs, atMs)
})
afterAll(() => drop?.())

const source = (name: string) =>
  insertSource(db, {
    name,
    protocol: 'redfish',
    address: name,
    settings: {},
    intervalSeconds: 60,
    credentialId: null,
    token: null,
  })
const see = async (sourceId: number, rest: Parameters<typeof serverFindings>[0], later = 0) => {
  await storeFindings(db, { sourceId, atMs: atMs + later * 60_000, findings: serverFindings(rest) }, null)
}
const names = async () => (await listGear(db)).map(({ name, sourceIds }) => [name, sourceIds.length])

async function two() {
  const [a, b] = [await source('controller'), await source('agent')]
  await see(a, { key: 'x', name: 'petrel-07', identities: [{ kind: 'serial', value: 'S1' }], rpm: 4000 })
  await see(b, {
    key: 'y',
    name: 'petrel-07',
    kind: 'host',
    identities: [{ kind: 'mac', value: '02:00:00:00:00:07' }],
    rpm: 5000,
  })
  const [kept, merged] = (await listGear(db)).sort((one, other) => one.id - other.id)
  return { a, b, kept: kept!.id, merged: merged!.id }
}

describe('likely one', () => {
  test('is proposed, until somebody says that they are two', async () => {
    const { kept, merged } = await two()
    expect((await likelyPairs(db)).map(({ a, b, why }) => [a.id, b.id, why])).toEqual([
      [kept, merged, 'both are called petrel-07'],
    ])
    await keepApart(db, [merged, kept], 'Asta')
    expect(await likelyPairs(db)).toEqual([])
  })
  test('two boxes of one serial number and other UUIDs are two, and proposed', async () => {
    const [a, b] = [await source('a'), await source('b')]
    const identities = (digit: string) => [
      { kind: 'serial' as const, value: 'S1' },
      { kind: 'uuid' as const, value: `${digit}0112233-4455-6677-8899-aabbccddeeff` },
    ]
    await see(a, { key: 'x', name: 'one', identities: identities('1') })
    await see(b, { key: 'x', name: 'two', identities: identities('2') })
    expect(await names()).toEqual([
      ['one', 1],
      ['two', 1],
    ])
  })
  test('the same machine by several nodes of a cluster is one at once', async () => {
    const uuid = 'a1d0c9c2-51aa-4f6e-8a01-0000000000a3'
    for (const node of ['north-1', 'north-2', 'north-3'])
      await see(await source(node), {
        key: `vm on ${node}`,
        name: 'tide-model-03',
        kind: 'machine',
        identities: [{ kind: 'uuid', value: uuid.toUpperCase() }],
      })
    expect(await names()).toEqual([['tide-model-03', 3]])
  })
})

describe('merged and taken apart', () => {
  test('readings, parts and what comes later go to the one, and back', async () => {
    const { a, b, kept, merged } = await two()
    const before = await listSeries(db, [kept, merged])
    await mergeGear(db, { keptId: kept, mergedId: merged, who: 'Asta' })
    expect(await names()).toEqual([['petrel-07', 2]])
    // Both have a fan of one key: it is one part, with a series of each source.
    expect(await listParts(db, kept)).toHaveLength(1)
    await see(b, { key: 'y', name: 'petrel-07', kind: 'host', identities: [], rpm: 5100 }, 1)
    await see(a, { key: 'x', name: 'petrel-07', identities: [], rpm: 4100 }, 1)
    const series = await listSeries(db, [kept])
    expect(series.map(({ id }) => id)).toEqual(before.map(({ id }) => id).sort((one, other) => one - other))
    const fans = series.filter(({ measure }) => measure === 'hw.fan.speed')
    const values = await Promise.all(
      fans.map(async ({ id }) => [...(await readSpan(db, id, atMs, atMs + 120_000)).values]),
    )
    expect(values).toEqual([
      [4000, 4100],
      [5000, 5100],
    ])

    const [merge] = await mergesOf(db, kept)
    expect(merge).toMatchObject({ name: 'petrel-07', kind: 'host', who: 'Asta' })
    await undoMerge(db, merge!.id, 'Bo')
    expect(await names()).toEqual([
      ['petrel-07', 1],
      ['petrel-07', 1],
    ])
    const after = await listSeries(db, [kept, merged])
    expect(after).toEqual(before)
    expect(await listParts(db, merged)).toHaveLength(1)
    await see(b, { key: 'y', name: 'petrel-07', kind: 'host', identities: [], rpm: 5200 }, 2)
    expect(await listSeries(db, [kept, merged])).toEqual(before)
    // It is not proposed again.
    expect(await likelyPairs(db)).toEqual([])
    await expect(undoMerge(db, merge!.id, 'Bo')).rejects.toThrow(CannotMerge)
  })
  test('what one source tells of is not merged', async () => {
    const only = await source('chassis')
    await see(only, { key: 'x', name: 'blade-1', identities: [] })
    await see(only, { key: 'y', name: 'blade-2', identities: [] })
    const [one, other] = await listGear(db)
    await expect(mergeGear(db, { keptId: one!.id, mergedId: other!.id, who: 'Asta' })).rejects.toThrow(
      /One source tells/,
    )
  })
  test('a source that was taken for another by mistake gets a gear of its own, for good', async () => {
    const [a, b] = [await source('a'), await source('b')]
    const identities = [{ kind: 'serial' as const, value: 'SAME' }]
    await see(a, { key: 'x', name: 'one', identities, rpm: 1000 })
    await see(b, { key: 'x', name: 'two', identities, rpm: 2000 })
    const [only] = await listGear(db)
    const made = await splitSource(db, { gearId: only!.id, sourceId: b, who: 'Asta' })
    await see(b, { key: 'x', name: 'two', identities, rpm: 2100 }, 1)
    expect(await names()).toEqual([
      ['one', 1],
      ['two', 1],
    ])
    const [fan] = (await listSeries(db, [made])).filter(({ measure }) => measure === 'hw.fan.speed')
    expect([...(await readSpan(db, fan!.id, atMs, atMs + 120_000)).values]).toEqual([2000, 2100])
    await expect(splitSource(db, { gearId: made, sourceId: b, who: 'Asta' })).rejects.toThrow(
      /Nothing else sees/,
    )
  })
  test('a drive that a controller and its host tell of by one serial number is one part', async () => {
    const [a, b] = [await source('controller'), await source('host')]
    const identities = [{ kind: 'uuid' as const, value: 'a1d0c9c2-51aa-4f6e-8a01-0000000000a3' }]
    const told = async (sourceId: number, rest: Parameters<typeof serverFindings>[0], later = 0) => {
      const findings = serverFindings(rest)
      const readings = findings.gear[0]!.parts.map((part) => ({
        gear: findings.gear[0]!.key,
        part: part.key,
        measure: 'hw.temperature' as const,
        value: 30,
      }))
      await storeFindings(db, { sourceId, atMs: atMs + later, findings: { ...findings, readings } }, null)
    }
    const drive = (key: string, serial: string) => ({
      key,
      kind: 'drive' as const,
      name: key,
      facts: { serial },
    })
    await told(a, { identities, parts: [drive('bay 1', 'am-77 '), drive('bay 2', 'AM-78')] })
    await told(b, {
      key: 'os',
      kind: 'host',
      identities,
      parts: [drive('nvme0', 'AM-77'), drive('sda', 'N/A')],
    })
    const [gear] = await listGear(db)
    expect((await listParts(db, gear!.id)).map(({ key }) => key).sort()).toEqual(['bay 1', 'bay 2', 'sda'])
    const of = async (id: number) =>
      (await listItemSeries(db, id)).flatMap(({ part }) => (part === null ? [] : [part])).sort()
    // Each source has it under the key that it calls it by.
    expect([await of(a), await of(b)]).toEqual([
      ['bay 1', 'bay 2'],
      ['nvme0', 'sda'],
    ])
    // One source no longer telling of its parts takes nothing from the other.
    await told(b, { key: 'os', kind: 'host', identities, parts: [drive('nvme0', 'AM-77')] }, 1)
    expect((await listParts(db, gear!.id)).map(({ key }) => key).sort()).toEqual(['bay 1', 'bay 2'])
  })
})
