import { describe, expect, test } from 'vitest'
import {
  alertFinding,
  foldAlerts,
  foldCleared,
  type Foldable,
  silenceFinding,
  takenSentence,
  watchSentence,
} from './index.ts'

const row = (state: 'critical' | 'warning' | 'noData', takenBy: string | null = null) => ({ state, takenBy })
const critical = row('critical')
const warning = row('warning')

test.each([
  { rows: [], text: 'Nothing needs you now. All 12 gear are heard and within their lines.' },
  {
    rows: [critical, critical, warning, warning, warning],
    text: 'Two things need you now. Three can wait for the morning.',
  },
  { rows: [critical], text: 'One thing needs you now. ' },
  { rows: [row('critical', 'Asta')], text: 'Nothing needs you now. One is already taken.' },
  { rows: [row('noData')], silent: 1, text: 'Nothing needs you now. One of seven sources is silent.' },
  { rows: [], silent: 7, text: 'Nothing needs you now. No source is heard: what is shown is old.' },
  { rows: [], silent: 7, heard: 3, text: 'Nothing needs you now. Starting: 3 of 7 sources heard.' },
  { rows: [], silent: 1, heard: 7, text: 'Nothing needs you now. One of seven sources is silent.' },
  { rows: [], sources: 0, text: 'Nothing is watched yet. Connect a first source to begin.' },
  { rows: Array(14).fill(critical), text: '14 things need you now. ' },
])('$text', ({ rows, silent = 0, sources = 7, heard = null, text }) => {
  const { headline, rest } = watchSentence([
    alertFinding(rows),
    silenceFinding({ silent, sources, gear: 12, heard }),
  ])
  expect(`${headline} ${rest}`).toBe(text)
})
test('what several subjects find urgent is added up, and their clauses stand in their order', () => {
  const forecasts = { urgent: 1, clauses: ['gannet-03 is full in 19 days.'] }
  expect(watchSentence([alertFinding([critical, warning]), forecasts])).toEqual({
    headline: 'Two things need you now.',
    rest: 'One can wait for the morning. gannet-03 is full in 19 days.',
  })
})

describe('folding', () => {
  const alert = (id: number, rest: Partial<Foldable>): Foldable => ({
    id,
    gearId: 1,
    partId: null,
    sourceId: null,
    measure: 'hw.fan.speed',
    severity: 'critical',
    openedAtMs: id,
    ...rest,
  })
  test('one fan seen in two ways is one row, led by what was measured', () => {
    const rows = foldAlerts([alert(1, { partId: 5, measure: 'hw.status' }), alert(2, { partId: 5 })])
    expect(rows.map((row) => [row.lead.id, row.folded.map((each) => each.id)])).toEqual([[2, [1]]])
  })
  test('the worst leads, and rows come worst first, then newest', () => {
    const rows = foldAlerts([
      alert(1, { severity: 'warning' }),
      alert(2, { partId: 5, severity: 'warning' }),
      alert(3, { partId: 5, measure: 'hw.status' }),
      alert(4, {}),
    ])
    expect(rows.map((row) => row.lead.id)).toEqual([4, 3, 1])
  })
  test('alerts of a gear as a whole stand for themselves', () => {
    expect(foldAlerts([alert(1, {}), alert(2, {})])).toHaveLength(2)
  })
  test('what follows from another is under it, and alone once that is gone', () => {
    const [cause, follower] = [alert(1, { partId: 5 }), alert(2, { causeId: 1 })]
    expect(foldAlerts([follower, cause])).toEqual([{ lead: cause, folded: [], followOns: [follower] }])
    expect(foldAlerts([follower]).map(({ lead }) => lead.id)).toEqual([2])
  })
})

test('of alerts that overlapped on one part the newest is left; others stand for themselves', () => {
  const alert = (id: number, partId: number | null, openedAtMs: number, clearedAtMs: number) => ({
    id,
    partId,
    openedAtMs,
    clearedAtMs,
  })
  const left = foldCleared([
    alert(5, 1, 100, 200),
    alert(4, 1, 110, 190),
    alert(3, 2, 110, 190),
    alert(2, null, 110, 190),
    alert(1, 1, 10, 90),
  ])
  expect(left.map(({ id }) => id)).toEqual([5, 3, 2, 1])
})

describe('what came of taking several', () => {
  test.each([
    [[{ kind: 'taken' }, { kind: 'taken' }], null],
    [[{ kind: 'taken' }, { kind: 'alreadyTaken', by: 'Bo' }], "1 of 2 taken: 1 is somebody else's already."],
    [
      [{ kind: 'cleared' }, { kind: 'unknown' }, { kind: 'alreadyTaken', by: 'Bo' }],
      "0 of 3 taken: 1 is somebody else's already, 2 have cleared meanwhile.",
    ],
  ] as const)('%o', (outcomes, sentence) => {
    expect(takenSentence(outcomes)).toBe(sentence)
  })
})
