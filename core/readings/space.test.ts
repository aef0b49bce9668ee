import { expect, test } from 'vitest'
import { diskSeverity, spaceAhead } from './space.ts'

const days = (daily: readonly number[], freeBytes: number | null = 1000) => {
  let size = 5000
  return daily.map((grown, index) => ({ day: 100 + index, databaseBytes: (size += grown), freeBytes }))
}

test.each([
  { name: 'no survey', sizes: [], kind: 'tooEarly' },
  { name: 'two days', sizes: days([10, 10]), kind: 'tooEarly' },
  {
    name: 'steady growth',
    sizes: days([10, 10, 10, 10, 10]),
    kind: 'fills',
    inDays: 100,
    inAYear: 5050 + 3650,
  },
  {
    name: 'a bulk import, which is a step',
    sizes: days([10, 10, 10, 90_000, 10, 10]),
    kind: 'fills',
    inDays: 100,
    inAYear: 95_050 + 3650,
  },
  {
    name: 'growth that nobody lives to see filled',
    sizes: days([10, 10, 10, 10, 10], 1e9),
    kind: 'notInSight',
    inAYear: 5050 + 3650,
  },
  { name: 'a store that shrinks', sizes: days([10, -10, -10, -10]), kind: 'notInSight', inAYear: 4980 },
  {
    name: 'a disk that cannot be asked',
    sizes: days([10, 10, 10, 10, 10], null),
    kind: 'notInSight',
    inAYear: 5050 + 3650,
  },
])('$name: $kind', ({ sizes, kind, inDays, inAYear }) => {
  const ahead = spaceAhead(sizes)
  expect(ahead.kind).toBe(kind)
  if (ahead.kind === 'fills') expect(ahead.inDays).toBeCloseTo(inDays!)
  if (ahead.kind !== 'tooEarly') expect(ahead.inAYearBytes).toBeCloseTo(inAYear!)
})

test('days that were not surveyed are bridged', () => {
  const sizes = [0, 2, 4, 6].map((day) => ({ day, databaseBytes: day * 10, freeBytes: 500 }))
  expect(spaceAhead(sizes)).toMatchObject({ kind: 'fills', bytesADay: 10, inDays: 50 })
})

test.each([
  [7, 'critical'],
  [8, 'warning'],
  [30, 'warning'],
  [31, null],
])('%d days are %s', (inDays, severity) => {
  expect(diskSeverity({ kind: 'fills', bytesADay: 1, inAYearBytes: 1, inDays })).toBe(severity)
})
