import { describe, expect, test } from 'vitest'
import {
  type Around,
  isCurrent,
  partView,
  pickSeries,
  readingGroups,
  type ViewedSeries,
} from './readingViews.ts'

const plain = (text: string): string => text.replaceAll(/[\u00a0\u202f]/g, ' ')
const series = (
  id: number,
  measure: ViewedSeries['measure'],
  partId: number | null = null,
  sourceId = 1,
) => ({
  id,
  sourceId,
  partId,
  measure,
})
const parts = [
  { id: 1, kind: 'fan' as const, name: 'fan 3' },
  { id: 2, kind: 'sensor' as const, name: 'inlet' },
]
const all = [
  series(10, 'hw.power'),
  series(11, 'hw.fan.speed', 1),
  series(12, 'hw.status', 1),
  series(13, 'hw.temperature', 2, 2),
  series(14, 'hw.temperature', 99),
]
const values = new Map<number, number>([
  [10, 412],
  [11, 5400],
  [12, 0],
  [13, 24.5],
])
const around = (rest: Partial<Around> = {}): Around => ({
  newest: (id) => values.get(id),
  open: [],
  silent: new Set(),
  ...rest,
})

describe('a part', () => {
  test('is said by what tells most of its kind', () => {
    const view = partView(parts[0]!, all, around())
    expect({ ...view, text: plain(view.text) }).toEqual({
      id: 1,
      kind: 'fan',
      name: 'fan 3',
      state: 'well',
      text: '5 400 rpm',
      seriesIds: [11, 12],
    })
  })
  test('is without data when nothing of it is heard, and its last value is not shown', () => {
    expect(partView(parts[1]!, all, around({ silent: new Set([2]) }))).toMatchObject({
      state: 'noData',
      text: 'no data',
    })
  })
  test('has the worst of its alerts; what is quieted is said so', () => {
    const open = (isQuiet: boolean) => [{ seriesId: 12, severity: 'critical' as const, isQuiet }]
    expect(partView(parts[0]!, all, around({ open: open(false) })).state).toBe('critical')
    expect(partView(parts[0]!, all, around({ open: open(true) })).state).toBe('quiet')
  })
  test('that is not there any more has history, and no reading', () => {
    expect(all.filter((each) => isCurrent(each, parts)).map(({ id }) => id)).toEqual([10, 11, 12, 13])
  })
})

test('readings stand in the groups of the catalogue; health of a part is in the drawing alone', () => {
  const shown = readingGroups(all.slice(0, 4), parts, around())
  expect(shown.flatMap(({ readings }) => readings.map(({ seriesId }) => seriesId)).sort()).toEqual([
    10, 11, 13,
  ])
})

test('what a gear says of itself stands before what its parts say, whichever came first', () => {
  const late = [series(20, 'hw.power', 1), series(21, 'hw.power', 2), series(22, 'hw.power')]
  const [group] = readingGroups(late, parts, around())
  expect(group!.readings.map(({ seriesId }) => seriesId)).toEqual([22, 20, 21])
})

describe('which curves are shown', () => {
  const alerting = [{ seriesId: 11, severity: 'warning' as const, isQuiet: false }]
  test('those that the address asks for, of this gear', () => {
    expect(pickSeries([13, 4711], all, parts, alerting)).toEqual([13])
  })
  test('else what is in an alert, then what says most', () => {
    expect(pickSeries([], all, parts, alerting)).toEqual([11, 10, 13])
    expect(pickSeries([4711], all, parts, [])).toEqual([10, 13])
  })
})
