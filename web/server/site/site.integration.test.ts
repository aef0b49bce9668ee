import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest'
import type { Db } from '#db/platform'
import { storeFindings, listGear, insertOwnField } from '#db/gear'
import { insertRack, insertRoom, listRacks, placeGearInRack } from '#db/site'
import { ensurePartitions } from '#db/readings'
import { insertSource } from '#db/sources'
import { freshDatabase } from '#db/testing/database'
import { loadInventory } from '../gear/inventory.ts'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { gearSheet, importInventory, readLines } from '../gear/inventoryFile.ts'
import { asCsv } from '../platform/csv.ts'
import { writeWorkbook } from '../platform/workbook.ts'
import { move } from './moving.ts'
import { exportPlan, importPlan, planFile } from './planFile.ts'
import { rackSheet } from './rackSheet.ts'
import { Present } from '../platform/present.ts'
import { loadRooms } from './rooms.ts'

const NOW = Date.UTC(2026, 10, 26, 12)
let db: Db
let drop: () => Promise<void>
let ids: Record<string, number>
let rackId: number
let roomId: number

beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  await ensurePartitions(db, NOW, NOW)
})
afterAll(() => drop())
beforeEach(async () => {
  for (const table of ['source', 'gear', 'rack', 'room', 'ownField'] as const)
    await db.deleteFrom(table).execute()
  const sourceId = await insertSource(db, {
    name: 'all',
    protocol: 'redfish',
    address: 'a',
    settings: {},
    intervalSeconds: 10,
    credentialId: null,
    token: null,
  })
  const gear = (['petrel-1', 'petrel-2', '=SUM(1)', 'brume'] as const).map((name) => ({
    key: name,
    kind: name === 'brume' ? ('cooling' as const) : ('server' as const),
    name,
    identities: [{ kind: 'serial' as const, value: `S-${name}` }],
    facts: { serial: `S-${name}`, model: 'H24' },
    parts: [],
  }))
  await storeFindings(db, { sourceId, atMs: NOW, findings: { gear, links: [], readings: [] } }, null)
  ids = Object.fromEntries((await listGear(db)).map(({ name, id }) => [name, id]))
  roomId = await insertRoom(db, { name: 'Hall', widthMm: 6000, depthMm: 4000 })
  rackId = await insertRack(db, { roomId, name: 'B01', heightUnits: 42, xMm: 600, yMm: 600 })
})

describe('moving', () => {
  const mount = (gear: string, unit: number) => ({
    what: 'mount' as const,
    gearId: ids[gear]!,
    place: { rackId, unit, heightUnits: 2, face: 'both' as const },
  })
  test('says what was done, and what undoes it brings it back', async () => {
    const first = await move(db, mount('petrel-1', 10), 'Asta')
    expect(first).toEqual({
      sentence: 'petrel-1 is in U10–11 of B01 now.',
      undo: { what: 'mount', gearId: ids['petrel-1'], place: null },
    })
    const second = await move(db, mount('petrel-1', 20), 'Asta')
    await move(db, second.undo, 'Asta')
    expect((await listGear(db)).find(({ name }) => name === 'petrel-1')).toMatchObject({ unit: 10, rackId })
    await move(db, first.undo, 'Asta')
    expect((await listGear(db)).find(({ name }) => name === 'petrel-1')).toMatchObject({
      unit: null,
      rackId: null,
    })
  })
  test('what is taken is refused with who is there; nothing is changed', async () => {
    await move(db, mount('petrel-1', 10), 'Asta')
    await expect(move(db, mount('petrel-2', 11), 'Asta')).rejects.toThrow(
      'petrel-1 is in U10–11 of B01: U11–12 is taken.',
    )
    expect((await listGear(db)).find(({ name }) => name === 'petrel-2')?.rackId).toBeNull()
  })
  test('on the floor beside a rack, not into it, not out of the room', async () => {
    const stand = (xMm: number, yMm: number) => ({
      what: 'stand' as const,
      gearId: ids['brume']!,
      roomId,
      xMm,
      yMm,
      turn: 180 as const,
    })
    await expect(move(db, stand(900, 600), 'Asta')).rejects.toThrow('B01 stands there already.')
    await expect(move(db, stand(5700, 600), 'Asta')).rejects.toThrow('would stand outside Hall')
    await move(db, stand(1200, 600), 'Asta')
    await expect(
      move(db, { what: 'rack', rackId, roomId, xMm: 900, yMm: 600, turn: 180 }, 'Asta'),
    ).rejects.toThrow('brume stands there already.')
    await move(db, { what: 'rack', rackId, roomId, xMm: 900, yMm: 2000, turn: 0 }, 'Asta')
    expect(await listRacks(db)).toMatchObject([{ xMm: 900, yMm: 2000, turn: 0 }])
  })
})

describe('plans', () => {
  test('what goes out comes in again as it was, on another database, too', async () => {
    await placeGearInRack(db, ids['petrel-1']!, { rackId, unit: 10, heightUnits: 2, face: 'front' })
    await move(db, { what: 'stand', gearId: ids['brume']!, roomId, xMm: 1200, yMm: 600, turn: 90 }, 'Asta')
    const plan = await exportPlan(db)
    expect(planFile.parse(plan)).toEqual(plan)
    await db.updateTable('gear').set({ rackId: null, unit: null, heightUnits: null, face: null }).execute()
    for (const table of ['floorPlace', 'rack', 'room'] as const) await db.deleteFrom(table).execute()
    expect(await importPlan(db, JSON.stringify(plan), 'Asta')).toBe('1 room drawn, 2 gear placed.')
    expect(await exportPlan(db)).toEqual(plan)
  })
  test.each([
    ['{', /^The file is not JSON: /],
    ['{"format":"another"}', /^The file is no plan: at format, /],
    [
      JSON.stringify({
        format: 'restless-rack/plan',
        version: 1,
        rooms: [
          {
            name: 'Hall',
            widthMm: 6000,
            depthMm: 4000,
            racks: [{ name: 'B01', heightUnits: 42, gear: [{ name: 'nobody', unit: 1, heightUnits: 1 }] }],
          },
        ],
      }),
      /Rack B01: no gear is called “nobody”/,
    ],
    [
      JSON.stringify({
        format: 'restless-rack/plan',
        version: 1,
        rooms: [
          {
            name: 'Hall',
            widthMm: 6000,
            depthMm: 4000,
            racks: [
              {
                name: 'B02',
                heightUnits: 42,
                gear: [
                  { name: 'petrel-1', unit: 1, heightUnits: 2 },
                  { name: 'petrel-2', unit: 2, heightUnits: 2 },
                ],
              },
            ],
          },
        ],
      }),
      /petrel-2: petrel-1 is in U01–02 of B02: U02–03 is taken/,
    ],
  ])('a wrong one is refused with a sentence, and nothing is drawn', async (json, words) => {
    const before = await exportPlan(db)
    await expect(importPlan(db, json, 'Asta')).rejects.toThrow(words)
    expect(await exportPlan(db)).toEqual(before)
  })
})

describe('the inventory as a file', () => {
  const file = (text: string | Buffer): File =>
    new File([typeof text === 'string' ? text : new Uint8Array(text)], 'list')
  const own = async (name: string) => (await listGear(db)).find((each) => each.name === name)
  test('CSV keeps formulas from being ones', async () => {
    const csv = asCsv(gearSheet(await loadInventory(db)))
    expect(csv).toContain("'=SUM(1)")
    expect(csv.split('\r\n')[0]).toMatch(/^Id,Name,Kind,/)
  })
  test('XLSX goes out and comes back, with what was written into it', async () => {
    await insertOwnField(db, 'Asset', 'text')
    const rows = await loadInventory(db)
    const sheet = gearSheet(
      rows.map((row) => ({ ...row, warrantyEnds: '2027-03-31', own: [['Asset', `KS-${row.id}`]] as const })),
    )
    const done = await importInventory(db, await readLines(file(await writeWorkbook([sheet]))), 'Asta')
    expect(done).toEqual({ changed: 4, same: 0 })
    expect(await own('petrel-1')).toMatchObject({
      warrantyEnds: '2027-03-31',
      own: { Asset: `KS-${ids['petrel-1']}` },
    })
    const again = await importInventory(db, await readLines(file(asCsv(sheet).replaceAll("'=", '='))), 'Asta')
    expect(again).toEqual({ changed: 0, same: 4 })
  })
  test('found by serial number or name; semicolons will do', async () => {
    const done = await importInventory(
      db,
      await readLines(file('serial;warranty ends\r\ns-petrel-2;2026-12-01\r\n')),
      'Asta',
    )
    expect(done.changed).toBe(1)
    expect((await own('petrel-2'))?.warrantyEnds).toBe('2026-12-01')
  })
  test('each wrong line is named, and none is taken', async () => {
    await insertOwnField(db, 'Cost', 'number')
    const lines = await readLines(
      file('Name,Warranty ends,Cost\npetrel-1,2027-01-01,12\npetrel-2,31.12.2027,\nnobody,,\nbrume,,cheap\n'),
    )
    await expect(importInventory(db, lines, 'Asta')).rejects.toThrow(
      'Line 3, petrel-2: “31.12.2027” is no day; write it as 2027-03-31. Line 4: no gear has the name nobody. Line 5, brume: Cost: “cheap” is no number. Nothing was changed.',
    )
    expect((await own('petrel-1'))?.warrantyEnds).toBeNull()
  })
  test.each([
    ['', 'The file is empty.'],
    [Buffer.from([0xff, 0xfe, 0x00, 0x41]), 'The file is no CSV in UTF-8 and no workbook'],
    ['PK but no workbook', 'The workbook cannot be read'],
  ])('what is no list is refused: %s', async (bytes, words) => {
    await expect(readLines(file(bytes))).rejects.toThrow(words)
  })
  test('a small workbook with a cell far out, or that unpacks to very much, is refused at once', async () => {
    const good = unzipSync(await writeWorkbook([{ name: 'Gear', head: ['Name'], rows: [['petrel-1']] }]))
    const [path] = Object.keys(good).filter((name) => name.startsWith('xl/worksheets/sheet'))
    const xml = Buffer.from(good[path!]!).toString('utf8')
    const withSheet = (changed: string): Buffer =>
      Buffer.from(zipSync({ ...good, [path!]: strToU8(changed) }, { level: 9 }))
    const far = withSheet(xml.replace('r="A2"', 'r="XFD1048576"'))
    expect(far.byteLength).toBeLessThan(8192)
    const startedMs = performance.now()
    await expect(readLines(file(far))).rejects.toThrow(
      'it has a cell at XFD1048576; at most 20000 lines and 200 columns are read',
    )
    const bomb = withSheet(xml.replace('</sheetData>', `${' '.repeat(70 * 1024 * 1024)}</sheetData>`))
    expect(bomb.byteLength).toBeLessThan(200_000)
    await expect(readLines(file(bomb))).rejects.toThrow('it unpacks to more than 64 MiB')
    expect(performance.now() - startedMs).toBeLessThan(60_000)
    expect((await readLines(file(withSheet(xml)))).map(({ cells }) => cells.get('name'))).toEqual([
      'petrel-1',
    ])
  })
})

test('a rack on paper is a PDF of one page with all that is in it', async () => {
  await placeGearInRack(db, ids['petrel-1']!, { rackId, unit: 10, heightUnits: 2, face: 'front' })
  const [room] = await loadRooms(new Present(db, NOW))
  const rows = new Map((await loadInventory(db)).map((row) => [row.id, row]))
  const sheet = await rackSheet({
    site: 'Kittiwake Sound',
    room: 'Hall',
    rack: room!.racks[0]!,
    rows,
    made: 'today',
  })
  expect(sheet.subarray(0, 5).toString()).toBe('%PDF-')
  expect(sheet.toString('latin1').match(/\/Type \/Page\b/g)).toHaveLength(1)
})
