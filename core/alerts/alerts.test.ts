import { describe, expect, test } from 'vitest'
import { foldAlerts, foldCleared, type Foldable, watchSentence, takenSentence } from './index.ts'

const counts = { criticalUntaken: 0, criticalTaken: 0, warnings: 0, silentSources: 0, sources: 7, gear: 12 }

test.each([
  { given: {}, text: 'Nothing needs you now. All 12 gear are heard and within their lines.' },
  {
    given: { criticalUntaken: 2, warnings: 3 },
    text: 'Two things need you now. Three can wait for the morning.',
  },
  { given: { criticalUntaken: 1 }, text: 'One thing needs you now. ' },
  { given: { criticalTaken: 1 }, text: 'Nothing needs you now. One is already taken.' },
  { given: { silentSources: 1 }, text: 'Nothing needs you now. One of seven sources is silent.' },
  { given: { silentSources: 7 }, text: 'Nothing needs you now. No source is heard: what is shown is old.' },
  { given: { sources: 0 }, text: 'Nothing is watched yet. Connect a first source to begin.' },
  { given: { criticalUntaken: 14 }, text: '14 things need you now. ' },
])('$text', ({ given, text }) => {
  const { headline, rest } = watchSentence({ ...counts, ...given })
  expect(`${headline} ${rest}`).toBe(text)
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
