import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { Db } from '../platform/connect.ts'
import { freshDatabase } from '../testing/database.ts'
import {
  insertTexts,
  keepTextsWithin,
  linesForPattern,
  programs,
  type NewText,
  rateOfTexts,
  searchTexts,
  speakers,
  type TextFilter,
} from './texts.ts'

const NOW = Date.UTC(2026, 10, 24, 12)
const MINUTE = 60_000
let db: Db
let drop: () => Promise<void>
let gearId = 0

const text = (minutes: number, body: string, rest: Partial<NewText> = {}): NewText => ({
  heardAt: new Date(NOW + minutes * MINUTE),
  saidAt: null,
  address: '192.0.2.7',
  host: 'auk-1',
  kind: 'syslog',
  severity: 6,
  app: 'sshd',
  body,
  times: 1,
  sourceId: null,
  gearId,
  ...rest,
})
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
  const gear = await db
    .insertInto('gear')
    .values({ name: 'auk-1', kind: 'server', facts: '{}', rackId: null, unit: null, heightUnits: null })
    .returning('id')
    .executeTakeFirstOrThrow()
  gearId = gear.id
  await insertTexts(db, [
    text(0, 'Accepted publickey for bo'),
    text(1, 'Failed password for root from 192.0.2.9', { severity: 4, times: 12 }),
    text(2, 'Failed password for invalid user x', { severity: 4 }),
    text(3, 'I/O error, dev sdb, sector 100 % full_disk', { severity: 2, app: 'kernel' }),
    text(4, 'link down', { address: '192.0.2.8', host: 'reef', gearId: null, kind: 'trap' }),
  ])
})
afterAll(() => drop())

const all: TextFilter = {
  query: '',
  atMost: 7,
  gearId: null,
  app: null,
  fromMs: NOW - MINUTE,
  toMs: NOW + 10 * MINUTE,
}
const bodies = async (change: Partial<TextFilter>) =>
  (await searchTexts(db, { ...all, ...change }, null, 50)).map(({ body }) => body.slice(0, 12))

describe('what devices said is found', () => {
  test.each([
    ['', 5],
    ['failed password', 2],
    ['"failed password" -root', 1],
    ['accepted or link', 2],
    ['kernel', 1],
    ['reef', 1],
    ["'; drop table device_text; --", 0],
  ])('by its words: “%s” is in %d', async (query, count) => {
    expect(await bodies({ query })).toHaveLength(count)
  })
  test('by gear, program, severity and window, newest first, a page at a time', async () => {
    expect(await bodies({ gearId })).toHaveLength(4)
    expect(await bodies({ atMost: 3 })).toEqual(['I/O error, d'])
    expect(await bodies({ app: 'kernel' })).toEqual(['I/O error, d'])
    expect(await bodies({ app: 'kern' })).toEqual([])
    expect(await bodies({ toMs: NOW + 90_000 })).toEqual(['Failed passw', 'Accepted pub'])
    const first = await searchTexts(db, all, null, 2)
    const next = await searchTexts(db, all, first[1]!.id, 2)
    expect(next.map(({ body }) => body.slice(0, 6))).toEqual(['Failed', 'Failed'])
  })
  test('a line that came twelve times counts as twelve, in its rate and for who said it', async () => {
    const rate = await rateOfTexts(db, { ...all, fromMs: NOW, toMs: NOW + 5 * MINUTE }, 5)
    expect(rate.map(({ lines, grave }) => [lines, grave])).toEqual([
      [1, 0],
      [12, 0],
      [1, 0],
      [1, 1],
      [1, 0],
    ])
    expect(await speakers(db, all, 5)).toEqual([
      { gearId, name: 'auk-1', lines: 15 },
      { gearId: null, name: '192.0.2.8', lines: 1 },
    ])
    expect((await programs(db, all, 5)).find(({ name }) => name === 'kernel')).toEqual({
      name: 'kernel',
      lines: 1,
    })
  })
  test('a pattern takes signs of its own as they are', async () => {
    const like = async (pattern: string) => (await linesForPattern(db, pattern, 7, NOW - MINUTE, 50)).length
    expect(await like('failed * root')).toBe(1)
    expect(await like('100 % full_disk')).toBe(1)
    expect(await like('100 % fullxdisk')).toBe(0)
    expect(await like('*')).toBe(4)
  })
})

test('what is older than its days goes, and the oldest while all takes too much', async () => {
  expect(await keepTextsWithin(db, { days: 3650, megabytes: 100 }, NOW)).toBe(0)
  expect(await keepTextsWithin(db, { days: 1, megabytes: 100 }, NOW + 86_400_000 + 150_000)).toBe(3)
  const many = Array.from({ length: 30_000 }, (_, index) => text(index / 1000, `line ${index}`))
  for (let start = 0; start < many.length; start += 5000)
    await insertTexts(db, many.slice(start, start + 5000))
  const gone = await keepTextsWithin(db, { days: 3650, megabytes: 1 }, NOW)
  expect(gone).toBeGreaterThan(10_000)
  const left = await searchTexts(db, { ...all, toMs: NOW + 60 * MINUTE }, null, 1)
  expect(left[0]?.body, 'the newest is the last to go').toBe('line 29999')
})
