import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { atRackOf, beforeFront, inletBand, probeBefore } from './room.ts'
import { boxesMeet, type FloorBox, floorProblem, snap, spanOf, TURNS } from './plan.ts'
import {
  changeSentence,
  factChanges,
  fitsInventory,
  inventoryFilterOf,
  fitsPattern,
  partChanges,
  tagsOf,
  warrantyOf,
} from '../gear/index.ts'
import {
  facesMeet,
  FACES,
  freeUnits,
  type Mounted,
  overlaps,
  placeLabel,
  placingProblem,
  tryPlace,
} from './place.ts'

const mounted = (
  name: string,
  unit: number,
  heightUnits: number,
  face: Mounted['face'] = 'both',
): Mounted => ({
  id: name.charCodeAt(0),
  name,
  unit,
  heightUnits,
  face,
})

describe('units of a rack', () => {
  const rack = {
    heightUnits: 42,
    gear: [mounted('a', 10, 2), mounted('b', 20, 1, 'front'), mounted('c', 2, 36, 'left')],
  }
  test.each([
    ['beside another', { unit: 12, heightUnits: 2, face: 'both' as const }, null],
    [
      'into another',
      { unit: 11, heightUnits: 2, face: 'both' as const },
      'a is in U10–11 of B04: U11–12 is taken. Choose other units, or move that first.',
    ],
    ['behind what is on the front', { unit: 20, heightUnits: 1, face: 'rear' as const }, null],
    [
      'through the depth of what is on the front',
      { unit: 19, heightUnits: 2, face: 'both' as const },
      'b is in U20 of B04: U19–20 is taken. Choose other units, or move that first.',
    ],
    ['a second strip on the other side', { unit: 2, heightUnits: 36, face: 'right' as const }, null],
    [
      'above the top',
      { unit: 42, heightUnits: 2, face: 'both' as const },
      'B04 has 42 units; U42–43 reaches beyond.',
    ],
    [
      'below the bottom',
      { unit: 0, heightUnits: 1, face: 'both' as const },
      'B04 has 42 units; U00 reaches beyond.',
    ],
  ])('%s', (_, wanted, problem) => {
    expect(placingProblem(tryPlace({ id: 1, ...wanted }, rack), wanted, 'B04')).toBe(problem)
  })
  test('a gear does not stand in its own way', () => {
    expect(tryPlace({ id: 'a'.charCodeAt(0), unit: 11, heightUnits: 2, face: 'both' }, rack).kind).toBe(
      'fits',
    )
  })
  test('free are those that nothing takes, strips aside; the longest run is as long as it is', () => {
    expect(freeUnits(rack)).toEqual({ free: 39, longest: 22 })
    expect(freeUnits({ heightUnits: 4, gear: [] })).toEqual({ free: 4, longest: 4 })
  })
  test('whatever is placed one after the other, no two share a face of a unit', () => {
    const wish = fc.record({
      unit: fc.integer({ min: 0, max: 46 }),
      heightUnits: fc.integer({ min: 1, max: 6 }),
      face: fc.constantFrom(...FACES),
    })
    fc.assert(
      fc.property(fc.array(wish, { maxLength: 40 }), (wishes) => {
        const gear: Mounted[] = []
        wishes.forEach((each, index) => {
          const next = { id: index, name: String(index), ...each }
          if (tryPlace(next, { heightUnits: 42, gear }).kind === 'fits') gear.push(next)
        })
        for (const a of gear)
          for (const b of gear) if (a !== b) expect(overlaps(a, b) && facesMeet(a.face, b.face)).toBe(false)
        expect(freeUnits({ heightUnits: 42, gear }).free).toBeGreaterThanOrEqual(0)
      }),
    )
  })
  test('a place in words says its side', () => {
    expect(
      placeLabel({ room: 'Hall', rack: 'B01', position: { unit: 40, heightUnits: 1 }, face: 'rear' }),
    ).toBe('Hall · B01 · U40, rear')
    expect(
      placeLabel({ room: 'Hall', rack: 'B01', position: { unit: 2, heightUnits: 36 }, face: 'left' }),
    ).toBe('Hall · B01 · left side')
  })
})

describe('a plan', () => {
  const box = (xMm: number, yMm: number, turn: FloorBox['turn'] = 180): FloorBox => ({
    xMm,
    yMm,
    widthMm: 600,
    depthMm: 1000,
    turn,
  })
  const room = { name: 'Hall', widthMm: 6000, depthMm: 4000 }
  const standing = (name: string, at: FloorBox, isSolid = true) => ({ ...at, key: name, name, isSolid })
  test('what is turned lies across', () => {
    expect(spanOf(box(0, 0, 90))).toEqual({ acrossMm: 1000, downMm: 600 })
    expect(spanOf(box(0, 0, 180))).toEqual({ acrossMm: 600, downMm: 1000 })
  })
  test('side by side is no collision; over one another is', () => {
    expect(boxesMeet(box(0, 0), box(600, 0))).toBe(false)
    expect(boxesMeet(box(0, 0), box(599, 0))).toBe(true)
  })
  test('outside of the room, on another, and what is in nobody’s way', () => {
    const others = [standing('B01', box(1200, 1200))]
    expect(floorProblem(standing('B02', box(5500, 0)), room, others)).toBe(
      'B02 would stand outside Hall, which is 6.0 by 4.0 m.',
    )
    expect(floorProblem(standing('B02', box(1500, 1300)), room, others)).toBe(
      'B01 stands there already. Put B02 beside it, or move that first.',
    )
    expect(floorProblem(standing('probe', box(1500, 1300), false), room, others)).toBeNull()
    expect(floorProblem(standing('B01', box(1500, 1300)), room, others)).toBeNull()
  })
  test('things snap to half tiles', () => {
    expect(snap(1340, 600)).toBe(1200)
    expect(snap(1360, 600)).toBe(1500)
  })
  test('the front of a rack is on the side that it looks to', () => {
    const [up, right, down, left] = TURNS.map((turn) => beforeFront(box(1000, 1000, turn), 100))
    expect([up, right, down, left]).toEqual([
      { xMm: 1300, yMm: 900 },
      { xMm: 2100, yMm: 1300 },
      { xMm: 1300, yMm: 2100 },
      { xMm: 900, yMm: 1300 },
    ])
  })
  test('the probe before a rack is the nearest before its front, and none behind it', () => {
    const probes = [
      { name: 'rear', xMm: 1300, yMm: 900 },
      { name: 'front', xMm: 1350, yMm: 2150 },
      { name: 'next', xMm: 1650, yMm: 2150 },
    ]
    expect(probeBefore(box(1000, 1000), probes)?.name).toBe('front')
    expect(probeBefore(box(4000, 1000), probes)).toBeNull()
  })
  test.each(TURNS)(
    'what hangs before a rack turned by %i° is of it, by the side that it hangs at',
    (turn) => {
      const rack = { ...box(4000, 4000), turn, id: 7, roomId: 1 }
      const far = { ...box(9000, 4000), turn, id: 8, roomId: 1 }
      const at = (point: { xMm: number; yMm: number }, kind: 'probe' | 'cooling' = 'probe', roomId = 1) =>
        atRackOf({ kind, roomId, ...point }, [far, rack])
      const front = beforeFront(rack, 150)
      const { acrossMm, downMm } = spanOf(rack)
      const [midX, midY] = [rack.xMm + acrossMm / 2, rack.yMm + downMm / 2]
      expect(at(front)).toEqual({ rackId: 7, side: 'front' })
      expect(at({ xMm: 2 * midX - front.xMm, yMm: 2 * midY - front.yMm })).toEqual({
        rackId: 7,
        side: 'back',
      })
      expect(at(beforeFront(rack, 500))).toBeNull()
      expect(at(front, 'cooling')).toBeNull()
      expect(at(front, 'probe', 2)).toBeNull()
    },
  )
  test.each([
    [null, 'noData'],
    [14, 'cold'],
    [17.9, 'cold'],
    [18, 'step1'],
    [26.9, 'step3'],
    [27, 'warning'],
    [32, 'critical'],
  ])('air of %s °C by the envelope', (celsius, tint) => expect(inletBand(celsius).tint).toBe(tint))
})

describe('tags', () => {
  test.each([
    ['tide-model-03', 'tide-model-*', true],
    ['Tide-Model-03', 'tide-*-03', true],
    ['tide-model-03', 'tide', false],
    ['tide-model-03', '*model*', true],
    ['aa', 'a*a*a', false],
    ['', '*', true],
    ['abab', 'ab*ab', true],
    ['ab', 'ab*ab', false],
  ])('%s fits %s: %s', (name, pattern, fits) => expect(fitsPattern(name, pattern)).toBe(fits))
  test('a pattern fits what it was made of', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.string({ maxLength: 6 }).map((text) => text.replaceAll('*', '')),
          { maxLength: 5 },
        ),
        (pieces) => {
          expect(fitsPattern(pieces.join('—'), pieces.join('*'))).toBe(true)
        },
      ),
    )
  })
  test('given by people and by rules, each once, and only where all of a rule fits', () => {
    const gear = {
      name: 'tide-1',
      kind: 'machine' as const,
      roomId: null,
      rackId: null,
      sourceIds: [7],
      tags: ['own', 'tide'],
    }
    const match = { name: null, kind: null, roomId: null, rackId: null, sourceId: null }
    expect(
      tagsOf(gear, [
        { tag: 'tide', match: { ...match, name: 'tide-*' } },
        { tag: 'seen', match: { ...match, sourceId: 7, kind: 'machine' } },
        { tag: 'not', match: { ...match, sourceId: 7, kind: 'server' } },
        { tag: 'nor', match: { ...match, roomId: 1 } },
      ]),
    ).toEqual(['own', 'seen', 'tide'])
  })
})

describe('what has changed', () => {
  const part = (key: string, facts: Record<string, string>) => ({ key, name: key, facts })
  test('a serial number in the same bay: replaced; firmware: changed; what comes and goes', () => {
    const before = [part('d0', { model: 'Q4', serial: 'A' }), part('d1', { firmware: '1' }), part('d2', {})]
    const after = [
      part('d0', { model: 'Q4', serial: 'B' }),
      part('d1', { firmware: '2' }),
      part('d3', { serial: 'C' }),
    ]
    expect(partChanges(before, after).map(changeSentence)).toEqual([
      'd0 replaced: Q4 A by Q4 B',
      'd1: firmware 2; before, firmware 1',
      'd3 came: C',
      'd2 went: without a serial number',
    ])
  })
  test('what is seen for the first time has not changed', () => {
    expect(partChanges([], [part('d0', { serial: 'A' })])).toEqual([])
    expect(factChanges({}, { firmware: '1' })).toEqual([])
  })
  test('facts that follow the weather are no change', () => {
    const changes = factChanges({ firmware: '1', why: 'timed out' }, { firmware: '2', why: 'refused' })
    expect(changes.map(changeSentence)).toEqual(['Firmware 2; before, 1'])
  })
})

describe('the inventory', () => {
  const NOW = Date.UTC(2026, 10, 26, 12)
  test.each([
    [null, 'unknown'],
    ['2026-11-25', 'ended'],
    ['2026-11-26', 'soon'],
    ['2027-02-23', 'soon'],
    ['2027-03-01', 'later'],
  ])('a warranty until %s: %s', (ends, state) => expect(warrantyOf(ends, NOW)).toBe(state))
  test('every word has to be somewhere', () => {
    const row = {
      kind: 'Server',
      place: 'Hall · B04',
      warrantyEnds: null,
      words: 'petrel-07\nnorrvik h24\nhall · b04',
    }
    const by = (query: string) => fitsInventory(row, inventoryFilterOf(new URLSearchParams(query)), NOW)
    expect(by('q=H24+petrel')).toBe(true)
    expect(by('q=H24+skua')).toBe(false)
    expect(by('kind=Server&place=placed&warranty=unknown')).toBe(true)
    expect(by('place=stock')).toBe(false)
  })
})
