import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { type LastOfStep, planStep, type Step, type StepOccasion, takesBackEnd } from './index.ts'

const NOW = Date.parse('2026-11-26T02:09:00Z')
const MINUTE = 60_000
const HOUR = 60 * MINUTE

const step = (minutes: number, action: Step['action'] = { do: 'notify', channelId: 1, to: null }): Step => ({
  after: { kind: 'span', ms: minutes * MINUTE },
  action,
  evenIfTaken: false,
})
const last = (more: Partial<LastOfStep> = {}): LastOfStep => ({
  event: 'opened',
  atMs: NOW - 5 * MINUTE,
  isSameAlert: true,
  isWaiting: false,
  ...more,
})
const occasion = (more: Partial<StepOccasion> = {}): StepOccasion => ({
  event: 'opened',
  callOut: { hours: null, outside: 'wait', holdOffMs: 15 * MINUTE, tellsCleared: true },
  step: step(0),
  alert: { subject: 'part 7', flaps: 0, intervalMs: 10_000 },
  last: null,
  isNewHere: true,
  nowMs: NOW,
  timeZone: 'UTC',
  settleMs: 6000,
  ...more,
})

describe('what a step tells', () => {
  test.each([
    ['that it opened, once its cause could have come', {}, { dueAtMs: NOW + 6000, stillAfterMs: null }],
    [
      'that it still lasts, when its turn comes',
      { step: step(10) },
      { dueAtMs: NOW + 10 * MINUTE + 6000, stillAfterMs: 10 * MINUTE },
    ],
    [
      'that it is over, at the end of the hold-off',
      { event: 'cleared', isNewHere: false, last: last() },
      { dueAtMs: NOW + 10 * MINUTE, stillAfterMs: null },
    ],
    [
      'that what flaps is over, when it has stayed away',
      {
        event: 'cleared',
        isNewHere: false,
        last: last({ atMs: NOW - 15 * MINUTE }),
        alert: { subject: 'part 7', flaps: 2, intervalMs: 10_000 },
      },
      { dueAtMs: NOW + 10 * MINUTE, stillAfterMs: null },
    ],
    [
      'what comes outside the hours when they begin',
      {
        callOut: {
          ...occasion().callOut,
          hours: { days: [0, 1, 2, 3, 4], fromMinute: 420, toMinute: 1020 },
        },
      },
      { dueAtMs: Date.parse('2026-11-26T07:00:00Z'), stillAfterMs: null },
    ],
    [
      'that it got worse, within the hold-off too',
      { event: 'worse', isNewHere: false, last: last() },
      { dueAtMs: NOW + 6000, stillAfterMs: null },
    ],
  ] as [string, Partial<StepOccasion>, object][])('%s', (_, more, expected) => {
    expect(planStep(occasion(more))).toEqual({ ...expected, skipped: null })
  })

  test.each([
    ['the end of what was never told', { event: 'cleared', last: null }],
    ['the end a second time', { event: 'cleared', last: last({ event: 'cleared' }) }],
    ['the same alert a second time', { last: last() }],
    [
      'by a command that it is over',
      { event: 'cleared', last: last(), step: step(0, { do: 'command', name: 'x' }) },
    ],
    [
      'that it got worse while the first word still waits',
      { event: 'worse', isNewHere: false, last: last({ isWaiting: true }) },
    ],
  ] as [string, Partial<StepOccasion>][])('not %s', (_, more) => {
    expect(planStep(occasion(more))).toBeNull()
  })

  test.each([
    [
      'they know of an earlier stretch',
      { last: last({ isSameAlert: false }) },
      'they know: told at 02:04, and not that it had gone',
    ],
    [
      'the hours are left out',
      {
        callOut: {
          ...occasion().callOut,
          outside: 'leave',
          hours: { days: [0, 1, 2, 3, 4], fromMinute: 420, toMinute: 1020 },
        },
      },
      'it is outside the hours of this call-out',
    ],
    [
      'anybody could have sent it',
      {
        alert: { subject: 'text 4', flaps: 0, intervalMs: null },
        step: step(0, { do: 'stop', gearId: null }),
      },
      'anybody can send such a text: it stops nothing and runs nothing',
    ],
  ] as [string, Partial<StepOccasion>, string][])('is written down with why not: %s', (_, more, skipped) => {
    expect(planStep(occasion(more))?.skipped).toBe(skipped)
  })

  test('an opening takes back an end that waits, and no other', () => {
    expect(takesBackEnd('opened', last({ event: 'cleared', isWaiting: true }))).toBe(true)
    expect(takesBackEnd('opened', last({ event: 'cleared' }))).toBe(false)
    expect(takesBackEnd('opened', last({ isWaiting: true }))).toBe(false)
    expect(takesBackEnd('opened', null)).toBe(false)
  })

  test('nothing is due before now, nor a step before its turn', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 600 }),
        fc.constantFrom('opened', 'worse', 'cleared'),
        fc.option(
          fc.record({
            event: fc.constantFrom('opened', 'worse', 'cleared'),
            atMs: fc.integer({ min: NOW - 48 * HOUR, max: NOW }),
            isSameAlert: fc.boolean(),
            isWaiting: fc.boolean(),
          }),
        ),
        fc.boolean(),
        (minutes, event, before, isNewHere) => {
          const plan = planStep(occasion({ step: step(minutes), event, last: before, isNewHere }))
          if (plan === null) return
          expect(plan.dueAtMs).toBeGreaterThanOrEqual(
            NOW + (plan.skipped === null ? (plan.stillAfterMs ?? 0) : 0),
          )
        },
      ),
    )
  })
})
