import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import {
  batchesOf,
  disksSentence,
  type Drive,
  enduranceIn,
  groupsAtRisk,
  readRatings,
  replacements,
  ROLE,
  roleInGroup,
  troubleOf,
  writesADay,
} from './index.ts'

const DAY = 86_400_000
const NOW = Date.UTC(2026, 5, 1)
let count = 0
function drive(rest: Partial<Drive> = {}): Drive {
  count += 1
  return {
    partId: count,
    name: `d${count}`,
    gearId: 1,
    gear: 'skua-1',
    group: 'skua-1 pool-1',
    model: 'Q2 7.6T',
    serial: `S${count}`,
    partNumber: null,
    capacityBytes: 8e12,
    state: 0,
    role: ROLE.inGroup,
    predicts: false,
    isReadOnly: false,
    lifeLeft: 0.8,
    lifeFrom: 'drive',
    used: null,
    celsius: 38,
    spareMargin: null,
    mediaErrors: 0,
    reallocated: 0,
    pending: 0,
    uncorrectable: 0,
    powerOnHours: 10_000,
    writtenBytes: null,
    writtenADay: null,
    ratedBytes: null,
    wornMs: null,
    wornEarlyMs: null,
    wornLateMs: null,
    orderByMs: null,
    ...rest,
  }
}
const plain = (words: readonly string[]): string[] =>
  words.map((each) => each.replace(/[\u00a0\u202f]/g, ' '))

describe('the three truths', () => {
  test('each alone is enough, and each is said as itself', () => {
    expect(troubleOf(drive(), NOW)).toEqual({ severity: null, words: [] })
    expect(troubleOf(drive({ state: 2 }), NOW)).toEqual({
      severity: 'critical',
      words: ['reports itself failed'],
    })
    expect(troubleOf(drive({ role: ROLE.failed }), NOW).words).toEqual(['its group has thrown it out'])
    expect(troubleOf(drive({ predicts: true }), NOW).words).toEqual(['predicts its own failure'])
    expect(troubleOf(drive({ role: ROLE.rebuilding }), NOW).severity).toBe('warning')
  })
  test('what is used beyond the whole is said so; what is graver comes first', () => {
    const worn = drive({ lifeLeft: 0, used: 1.04, mediaErrors: 3, state: 1 })
    expect(plain(troubleOf(worn, NOW).words)).toEqual([
      '104 % of its endurance used',
      'reports itself degraded',
      '3 media errors',
    ])
    expect(troubleOf(worn, NOW).severity).toBe('critical')
  })
  test('a date of wear-out that is near is a trouble before anything else is', () => {
    expect(troubleOf(drive({ lifeLeft: 0.31, wornMs: NOW + 35 * DAY }), NOW)).toEqual({
      severity: 'warning',
      words: ['worn out in 35 days'],
    })
    expect(troubleOf(drive({ lifeLeft: 0.31, wornMs: NOW + 300 * DAY }), NOW).severity).toBeNull()
  })
  // DSP0268 Drive: StatusIndicator and HotspareType.
  test('the role in a group, as Redfish tells it', () => {
    const told = { indicator: 'OK', spare: 'None', state: 'Enabled', groups: 1 }
    expect(roleInGroup(told)).toBe(ROLE.inGroup)
    expect(roleInGroup({ ...told, indicator: 'Rebuild' })).toBe(ROLE.rebuilding)
    expect(roleInGroup({ ...told, indicator: 'InACriticalArray' })).toBe(ROLE.inDegraded)
    expect(roleInGroup({ ...told, groups: 0 })).toBe(ROLE.inNone)
    expect(roleInGroup({ ...told, groups: 0, spare: 'Global' })).toBe(ROLE.spare)
    expect(roleInGroup({ ...told, state: 'StandbySpare' })).toBe(ROLE.spare)
    expect(roleInGroup({ indicator: null, spare: null, state: null, groups: null })).toBeUndefined()
  })
})

describe('together', () => {
  test('two near their end in one group are a risk; in two groups, or alone, they are none', () => {
    const worn = { lifeLeft: 0.11, partNumber: 'Q2-2319' }
    const pair = [drive({ ...worn, name: 'd04' }), drive({ ...worn, name: 'd05' }), drive()]
    const [risk] = groupsAtRisk(pair, NOW)
    expect(risk?.sentence).toBe(
      'd04 and d05 of skua-1 pool-1 near their end together, of one batch (Q2-2319): replace one, let it rebuild, then the next.',
    )
    expect(groupsAtRisk([pair[0]!, drive({ ...worn, group: 'skua-2 pool-1' })], NOW)).toEqual([])
    expect(groupsAtRisk([drive({ ...worn, group: null }), drive({ ...worn, group: null })], NOW)).toEqual([])
    expect(disksSentence(pair, NOW)).toBe(
      '2 of 3 drives are near their end, in skua-1 pool-1 more than one at once.',
    )
  })
  test('a batch is of one part number, or of one age', () => {
    const old = [9_900, 10_100, 10_300].map((powerOnHours) => drive({ powerOnHours }))
    const young = [2_000, 2_100].map((powerOnHours) => drive({ powerOnHours, state: 2 }))
    const found = batchesOf(
      [...old, ...young, drive({ powerOnHours: 20_000 }), drive({ powerOnHours: null })],
      NOW,
    )
    expect(found.map(({ drives, hours, inTrouble }) => [drives.length, hours, inTrouble])).toEqual([
      [2, [2_000, 2_100], 2],
      [3, [9_900, 10_300], 0],
    ])
    expect(batchesOf([drive({ partNumber: 'A' }), drive({ partNumber: 'B' })], NOW)).toEqual([])
  })
})

test('what is to be replaced stands in its order: now first, then by the date by which to order', () => {
  const later = drive({ name: 'later', wornMs: NOW + 200 * DAY, orderByMs: NOW + 186 * DAY })
  const soon = drive({ name: 'soon', wornMs: NOW + 40 * DAY, orderByMs: NOW + 26 * DAY })
  const failed = drive({ name: 'failed', state: 2, wornMs: NOW + 300 * DAY })
  const never = drive({ wornMs: NOW + 500 * DAY })
  const list = replacements([later, never, soon, failed, drive()], NOW, 365)
  expect(list.map(({ drive: { name }, orderByMs }) => [name, orderByMs])).toEqual([
    ['failed', null],
    ['soon', NOW + 26 * DAY],
    ['later', NOW + 186 * DAY],
  ])
  expect(disksSentence([failed, soon, drive()], NOW)).toBe(
    '1 of 3 drives needs replacing now, 1 is near its end, in skua-1 pool-1 more than one at once.',
  )
})

test('times full a day; what has no size has none', () => {
  expect(writesADay(drive({ writtenADay: 4e12 }))).toBe(0.5)
  expect(writesADay(drive({ writtenADay: 4e12, capacityBytes: 0 }))).toBeNull()
})

describe('ratings', () => {
  test('as data sheets write them', () => {
    expect(enduranceIn('3504 TBW')).toBe(3.504e15)
    expect(enduranceIn('3.5 PB')).toBe(3.5e15)
    expect(enduranceIn('3504 W')).toMatch(/“3504 W” is not an endurance: write the bytes/)
    expect(enduranceIn('3504')).toMatch(/lies between 1 TB and/)
    expect(enduranceIn('')).toMatch(/missing/)
  })
  test('wrong units, doubles, unknown models and a missing source are named line by line; the rest is good', () => {
    const { good, bad } = readRatings(
      [
        { line: 2, model: 'S1', endurance: '3504 TB', source: 'data sheet' },
        { line: 3, model: 'S1', endurance: '1 PB', source: 'data sheet' },
        { line: 4, model: 'S9', endurance: '1 PB', source: 'data sheet' },
        { line: 5, model: 'S2', endurance: '12 °C', source: 'data sheet' },
        { line: 6, model: 'S3', endurance: '1 PB', source: ' ' },
      ],
      new Set(['S1', 'S2', 'S3']),
    )
    expect(good).toEqual([{ line: 2, model: 'S1', ratedBytes: 3.504e15, origin: 'data sheet' }])
    expect(bad.map(({ line, why }) => `${line} ${why}`)).toEqual([
      '3 “S1” is given twice, first in line 2.',
      '4 No drive here is a “S9”. Models are written as the drives tell them.',
      '5 “12 °C” is not an endurance: write the bytes that its maker promises, as in 3504 TB.',
      '6 The source is missing: say where it was read, as in “data sheet of March 2025”.',
    ])
  })
  test('whatever is written, it is an amount of bytes or a sentence', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 40 }), (text) => {
        const read = enduranceIn(text)
        expect(typeof read === 'number' ? read >= 1e12 && read <= 1e18 : read.endsWith('.')).toBe(true)
      }),
    )
  })
})
