import fc from 'fast-check'
import { expect, test } from 'vitest'
import type { GearKind, LinkKind } from '../catalogue/index.ts'
import { needsOf, type QuietGear, reachOf, sparedWords } from './index.ts'

const gearOf = (...all: readonly [number, GearKind, number | null][]): Map<number, QuietGear> =>
  new Map(
    all.map(([gearId, gearKind, rackId]) => [
      gearId,
      {
        gearId,
        gearKind,
        rackId,
        gearName: `${gearKind}-${gearId}`,
        roomId: rackId === null ? null : 1,
        tags: ['all'],
        cluster: null,
        groupIds: [],
      },
    ]),
  )
// A UPS in rack 6 feeds strips in racks 6 and 7; the switch of rack 6 serves rack 6 only.
const gear = gearOf(
  [1, 'ups', 6],
  [2, 'pdu', 6],
  [3, 'pdu', 7],
  [4, 'server', 6],
  [5, 'host', 7],
  [6, 'switch', 6],
  [7, 'machine', null],
  [8, 'cooling', 6],
)
const links: { kind: LinkKind; fromId: number; toId: number }[] = [
  { kind: 'fed-by', fromId: 2, toId: 1 },
  { kind: 'fed-by', fromId: 3, toId: 1 },
  { kind: 'fed-by', fromId: 4, toId: 2 },
  { kind: 'fed-by', fromId: 5, toId: 3 },
  { kind: 'wired-to', fromId: 6, toId: 4 },
  { kind: 'hosts', fromId: 4, toId: 7 },
]
const needs = needsOf(links, (id) => gear.get(id)?.gearKind)
const rack = { kind: 'rack', id: 6 } as const

test('a rack does not take along the UPS that feeds another one, nor air of which nobody knows whom it cools', () => {
  const { silent, spared } = reachOf(rack, [], gear, needs)
  expect([...silent].sort()).toEqual([2, 4, 6])
  expect(spared.map(sparedWords)).toEqual([
    'cooling-8 (what hangs on it is not known)',
    'ups-1 (pdu-3 and host-5 hang on it)',
  ])
})

test('what is named falls silent, and is said to', () => {
  const { silent, spared, named } = reachOf(rack, [1], gear, needs)
  expect([...silent].sort()).toEqual([1, 2, 4, 6])
  expect(spared.map(({ gearId }) => gearId)).toEqual([8])
  expect(named.map(({ gearId }) => gearId)).toEqual([1])
})

test('where all that hangs on it stands in the same place, it is quiet with that place', () => {
  const room = reachOf({ kind: 'room', id: 1 }, [], gear, needs)
  expect(room.spared.map(({ gearId }) => gearId)).toEqual([8])
})

test('a gear is its own name; everything is everything', () => {
  expect([...reachOf({ kind: 'gear', id: 1 }, [], gear, needs).silent]).toEqual([1])
  expect(reachOf({ kind: 'everywhere' }, [], gear, needs).silent.size).toBe(gear.size)
})

test('whatever the links: what is loud is in the place, and of it everything is either silent or said', () => {
  const kinds: GearKind[] = ['ups', 'pdu', 'switch', 'server', 'host', 'cooling', 'machine']
  const pair = fc.record({
    kind: fc.constantFrom<LinkKind>('fed-by', 'wired-to', 'hosts', 'cooled-by'),
    fromId: fc.nat(11),
    toId: fc.nat(11),
  })
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.constantFrom(...kinds), fc.constantFrom(6, 7, null)), {
        minLength: 12,
        maxLength: 12,
      }),
      fc.array(pair, { maxLength: 30 }),
      fc.array(fc.nat(11)),
      (all, some, named) => {
        const made = gearOf(
          ...all
            .map(([kind, at], id) => [id, kind, at] as const)
            .map((each) => [...each] as [number, GearKind, number | null]),
        )
        const found = reachOf(
          rack,
          named,
          made,
          needsOf(some, (id) => made.get(id)?.gearKind),
        )
        const inside = [...made.values()].filter(({ rackId }) => rackId === 6).map(({ gearId }) => gearId)
        const said = found.spared.map(({ gearId }) => gearId)
        expect([...found.silent, ...said].sort()).toEqual(inside.sort())
        expect(found.named.every(({ gearId }) => found.silent.has(gearId) && named.includes(gearId))).toBe(
          true,
        )
      },
    ),
  )
})
