import { describe, expect, test } from 'vitest'
import { aheadSentence, finiteOf, lineOf, shareOfAxis } from './finite.ts'

const DRIVE = { measure: 'hw.drive.life_left', gearKind: 'server', partKind: 'drive' } as const

describe('what is finite', () => {
  test('processor and memory of hosts are, of machines on them not', () => {
    const use = { measure: 'system.memory.utilization', partKind: null } as const
    expect(finiteOf({ ...use, gearKind: 'server' })).toMatchObject({ kind: 'demand', topic: 'Compute' })
    expect(finiteOf({ ...use, gearKind: 'machine' })).toBeNull()
    expect(finiteOf({ measure: 'hw.fan.speed', gearKind: 'server', partKind: 'fan' })).toBeNull()
  })

  test('a pool by what is used, and by what was promised: there the line is all that it has', () => {
    const pool = { gearKind: 'array', partKind: 'pool' } as const
    expect(finiteOf({ ...pool, measure: 'system.filesystem.utilization' })?.of?.amount).toBe(
      'system.filesystem.usage',
    )
    expect(finiteOf({ ...pool, measure: 'hw.pool.promise.utilization' })).toMatchObject({
      full: 1,
      of: { amount: 'hw.pool.promise.usage', capacity: 'system.filesystem.limit' },
    })
  })

  test('a phase by the line of its breaker, a UPS by its load; an outlet by nothing', () => {
    const current = { measure: 'hw.current', gearKind: 'pdu' } as const
    expect(finiteOf({ ...current, partKind: 'outlet' })).toBeNull()
    const phase = finiteOf({ ...current, partKind: 'phase' })!
    expect(phase).toMatchObject({ kind: 'power', topic: 'Power', direction: 'up' })
    expect(lineOf(phase, []), 'without a rule nobody knows the breaker').toBeNull()
    const ups = finiteOf({ measure: 'ups.output.load', gearKind: 'ups', partKind: null })!
    expect(lineOf(ups, [])!.main).toEqual({ at: 1, words: 'overloaded' })
  })

  test('a drive by what is written only where its rating is known', () => {
    const written = { measure: 'hw.drive.written', gearKind: 'server', partKind: 'drive' } as const
    expect(finiteOf(written)).toBeNull()
    expect(finiteOf(written, 3.5e15)).toMatchObject({ kind: 'written', full: 3.5e15, isCounter: true })
  })

  test('air only where it is drawn in, and only by a rule’s line', () => {
    const air = { measure: 'hw.temperature', gearKind: 'server', partKind: 'sensor' } as const
    expect(finiteOf({ ...air, role: 'exhaust' })).toBeNull()
    const finite = finiteOf({ ...air, role: 'intake' })!
    expect(lineOf(finite, [])).toBeNull()
    const rule = { direction: 'above' as const, lines: [{ severity: 'warning', at: 27 }] }
    expect(lineOf(finite, [rule])!.main).toEqual({ at: 27, words: 'warning' })
  })

  test('the graver line counts, the others have dates of their own; what goes the other way is no line', () => {
    const finite = finiteOf(DRIVE)!
    const lines = [
      { severity: 'warning', at: 0.25 },
      { severity: 'critical', at: 0.05 },
    ]
    const found = lineOf(finite, [
      { direction: 'below', lines },
      { direction: 'above', lines: [{ severity: 'critical', at: 1.2 }] },
    ])!
    expect(found.main).toEqual({ at: 0.05, words: 'critical' })
    expect(found.others.map(({ words }) => words)).toEqual(['warning', 'worn out'])
    expect(lineOf(finite, [])!.main).toEqual({ at: 0, words: 'worn out' })
  })
})

test('the axis begins today, ends at its horizon, and gives the near weeks more room', () => {
  expect(shareOfAxis(-3, 180)).toBe(0)
  expect(shareOfAxis(400, 180)).toBe(1)
  expect(shareOfAxis(45, 180)).toBeGreaterThan(0.4)
})

test('the sentence says what must be ordered, by name where it is little', () => {
  expect(aheadSentence({ count: 2, names: ['gannet-02', 'd4 in petrel-07'] }, 9, 412)).toBe(
    '2 things must be ordered this week: gannet-02 and d4 in petrel-07. 9 of 412 run out within six months.',
  )
  expect(aheadSentence({ count: 3, names: ['gannet-02', 'd4 in petrel-07'] }, 9, 412)).toMatch(
    /^3 things .* this week\. 9/,
  )
  expect(aheadSentence({ count: 0, names: [] }, 0, 5)).toBe(
    'Nothing must be ordered this week. None of 5 runs out within six months.',
  )
  expect(aheadSentence({ count: 0, names: [] }, 0, 0)).toBe('Nothing is forecast yet.')
})
