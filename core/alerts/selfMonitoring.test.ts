import { describe, expect, test } from 'vitest'
import {
  type AlarmPart,
  type CauseGear,
  type CauseLink,
  feedsOfParts,
  lossesOf,
  lossSentence,
} from './index.ts'

const GEAR = [
  { id: 1, name: 'harbour-A', kind: 'ups' },
  { id: 2, name: 'harbour-B', kind: 'ups' },
  { id: 3, name: 'B01-A', kind: 'pdu' },
  { id: 4, name: 'petrel-01', kind: 'server' },
  { id: 5, name: 'petrel-02', kind: 'server' },
  { id: 6, name: 'watch-01', kind: 'machine' },
] as const
const gear = new Map<number, CauseGear>(GEAR.map((each) => [each.id, { ...each, roomId: null }]))
const link = (kind: CauseLink['kind'], fromGearId: number, toGearId: number): CauseLink => ({
  kind,
  fromGearId,
  toGearId,
  fromPartId: null,
  toPartId: null,
})
// petrel-01 hangs on A through a strip; petrel-02 on both; the machine runs on petrel-01.
const links = [
  link('fed-by', 3, 1),
  link('fed-by', 4, 3),
  link('fed-by', 5, 3),
  link('fed-by', 5, 2),
  link('hosts', 4, 6),
]
const part = (what: AlarmPart['what'], name: string, gearId: number | null): AlarmPart => ({
  what,
  name,
  gearId,
})
const sentences = (...parts: AlarmPart[]) =>
  lossesOf(feedsOfParts(parts, gear, links), gear).map(lossSentence)

describe('what the alarm hangs on', () => {
  test('a collector in a machine on a server of one cord goes with its UPS, and nobody is notified', () => {
    const parts = [
      part('collector', 'collector-1', 6),
      part('database', 'database', 5),
      part('channel', 'Mail', null),
    ]
    expect(feedsOfParts(parts, gear, links).map(({ upsIds }) => upsIds)).toEqual([[1], [1, 2], []])
    expect(sentences(...parts)).toEqual([
      'Should harbour-A fail, nobody is notified: collector-1 hangs on it alone.',
      null,
    ])
  })
  test('a second collector elsewhere still tells', () => {
    expect(sentences(part('collector', 'collector-1', 6), part('collector', 'collector-2', 5))[0]).toBe(
      'Should harbour-A fail, collector-1 goes with it; the rest still tells.',
    )
  })
  test('one database, or all channels, are enough for silence', () => {
    expect(
      sentences(
        part('collector', 'collector-1', 5),
        part('database', 'database', 4),
        part('channel', 'Mail', 4),
      )[0],
    ).toBe('Should harbour-A fail, nobody is notified: the database and Mail hang on it alone.')
    expect(
      sentences(
        part('collector', 'collector-1', 5),
        part('channel', 'Mail', 4),
        part('channel', 'Text', null),
      )[0],
    ).toBe('Should harbour-A fail, Mail goes with it; the rest still tells.')
  })
  test('what runs nowhere that is known goes with nothing, and links in a ring end', () => {
    expect(sentences(part('collector', 'collector-1', null))).toEqual([null, null])
    expect(
      feedsOfParts([part('database', 'd', 4)], gear, [...links, link('fed-by', 3, 4)])[0]?.upsIds,
    ).toEqual([1])
  })
})
