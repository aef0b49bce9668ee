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
  ...rest,
})
const shape = (rows: readonly AlertRow[]): (number | string)[] =>
  gatherAlike(rows).map((entry) => (entry.kind === 'one' ? entry.row.id : entry.alike.title))

describe('rows that are alike', () => {
  test('stand together where the first of them stood, in its words', () => {
    const rows = [row(1), row(2, { kind: 'other' }), row(3), row(4)]
    expect(shape(rows)).toEqual(['Drive 1 of kelp-1 is nearly worn out, and 2 alike', 2])
    const [first] = gatherAlike(rows)
    expect(first).toMatchObject({ kind: 'alike', alike: { sinceMs: 996, state: 'warning' } })
  })
  test.each([
    ['two of them', [row(1), row(2)]],
    ['five that are critical', [1, 2, 3, 4, 5].map((id) => row(id, { state: 'critical' }))],
    ['what is taken', [row(1), row(2), row(3, { takenBy: 'Asta Holm' })]],
    ['what comes and goes', [row(1), row(2), row(3, { flaps: 4 })]],
    ['what explains others', [row(1), row(2), row(3, { followOns: [{ id: 9, title: '', path: '' }] })]],
    ['of different rules', [1, 2, 3].map((id) => row(id, { kind: `rule ${id}` }))],
  ])('stay by themselves: %s', (_, rows) => {
    expect(shape(rows)).toEqual(rows.map(({ id }) => id))
  })
})
