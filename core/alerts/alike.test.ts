import { describe, expect, test } from 'vitest'
import { gatherAlike } from './alike.ts'
import type { AlertRow } from './rows.ts'

const row = (id: number, rest: Partial<AlertRow> = {}): AlertRow => ({
  id,
  state: 'warning',
  title: `Drive ${id} of kelp-1 is nearly worn out`,
  reason: '',
  place: null,
  href: '/gear/1',
  openedAtMs: id,
  sinceMs: 1000 - id,
  takenBy: null,
  notified: '',
  folded: [],
  followOns: [],
  consequence: '',
  flaps: 0,
  curve: null,
  kind: 'drive-wear hw.drive.life_left array drive',
  ruleName: 'Drive nearly worn out',
  gearName: 'kelp-1',
  ...rest,
})
const shape = (rows: readonly AlertRow[]): (number | string)[] =>
  gatherAlike(rows).map((entry) => (entry.kind === 'one' ? entry.row.id : entry.alike.title))

describe('rows that are alike', () => {
  test('stand together where the first of them stood, named by their rule and gear', () => {
    const rows = [row(1), row(2, { kind: 'other' }), row(3, { gearName: 'kelp-2' }), row(4)]
    expect(shape(rows)).toEqual(['Drive nearly worn out: 3 alike in kelp-1 and kelp-2', 2])
    const [first] = gatherAlike(rows)
    expect(first).toMatchObject({ kind: 'alike', alike: { sinceMs: 996, state: 'warning' } })
  })
  test('name three gear, and count the others', () => {
    const rows = ['a', 'b', 'c', 'd', 'e'].map((gearName, index) => row(index, { gearName }))
    expect(shape(rows)).toEqual(['Drive nearly worn out: 5 alike in a, b, c and 2 more'])
  })
  test.each([
    ['two of them', [row(1), row(2)]],
    ['five that are critical', [1, 2, 3, 4, 5].map((id) => row(id, { state: 'critical' }))],
    ['what is taken', [row(1), row(2), row(3, { takenBy: 'Asta Holm' })]],
    ['what comes and goes', [row(1), row(2), row(3, { flaps: 4 })]],
    ['what explains others', [row(1), row(2), row(3, { followOns: [{ id: 9, title: '', path: '' }] })]],
    ['of no rule', [1, 2, 3].map((id) => row(id, { ruleName: null }))],
  ])('stay by themselves: %s', (_, rows) => {
    expect(shape(rows)).toEqual(rows.map(({ id }) => id))
  })
})
