import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { EVERYWHERE } from '../rules/index.ts'
import {
  afterMs,
  againMs,
  type CallOut,
  documentOf,
  type DutyCalendar,
  type Facts,
  type Hours,
  howToGo,
  htmlOf,
  isWithin,
  type LastNotified,
  nextWithin,
  onDuty,
  letterOf,
  plainOf,
  shortOf,
  type Step,
  stepsSentence,
  subjectOf,
  turnsBetween,
  weaknessesOf,
  whenToNotify,
} from './index.ts'

const OSLO = 'Europe/Oslo'
const HOUR = 3_600_000
const DAY = 24 * HOUR
const MINUTE = 60_000
const at = (text: string): number => Date.parse(text)

describe('hours', () => {
  const work: Hours = { days: [0, 1, 2, 3, 4], fromMinute: 7 * 60, toMinute: 17 * 60 }
  const nights: Hours = { days: [4], fromMinute: 22 * 60, toMinute: 6 * 60 }
  test.each([
    ['Thursday noon is within', work, '2026-11-26T12:00:00+01:00', '2026-11-26T12:00:00+01:00'],
    ['Thursday evening waits for Friday', work, '2026-11-26T18:00:00+01:00', '2026-11-27T07:00:00+01:00'],
    ['the end does not belong to it', work, '2026-11-27T17:00:00+01:00', '2026-11-30T07:00:00+01:00'],
    ['a night goes over midnight', nights, '2026-11-28T03:00:00+01:00', '2026-11-28T03:00:00+01:00'],
    ['and ends in the morning', nights, '2026-11-28T06:00:00+01:00', '2026-12-04T22:00:00+01:00'],
    // Clocks go forward on 29 March 2026 at 2:00: 02:30 comes as 03:30 in summer time.
    [
      'a beginning that is left out comes later',
      { days: [6], fromMinute: 150, toMinute: 600 },
      '2026-03-29T00:00:00+01:00',
      '2026-03-29T03:30:00+02:00',
    ],
  ] as const)('%s', (_, hours, now, expected) => {
    expect(nextWithin(hours, at(now), OSLO)).toBe(at(expected))
  })
  test('no hours at all are always, no day is never', () => {
    expect(nextWithin(null, 5, OSLO)).toBe(5)
    expect(nextWithin({ ...work, days: [] }, 5, OSLO)).toBeNull()
  })
  test('the next instant is within, is not before, and comes within eight days', () => {
    fc.assert(
      fc.property(
        fc.record({
          days: fc.uniqueArray(fc.nat(6), { minLength: 1 }),
          fromMinute: fc.nat(1439),
          toMinute: fc.nat(1440),
        }),
        fc.integer({ min: at('2026-01-01'), max: at('2027-01-01') }),
        (hours, nowMs) => {
          const next = nextWithin(hours, nowMs, OSLO)!
          expect(next).toBeGreaterThanOrEqual(nowMs)
          expect(next - nowMs).toBeLessThan(8 * DAY + 2 * HOUR)
          expect(isWithin(hours, next, OSLO)).toBe(true)
        },
      ),
    )
  })
})

describe('duty', () => {
  const calendar: DutyCalendar = {
    personIds: [1, 2, 3],
    turnDays: 7,
    firstDay: '2026-03-02',
    handOverMinute: 8 * 60,
    swaps: [],
  }
  test.each([
    ['before the first hand-over it is the last one’s turn', '2026-03-02T07:59:00+01:00', 3],
    ['the first', '2026-03-02T08:00:00+01:00', 1],
    ['the second', '2026-03-09T08:00:00+01:00', 2],
    ['one hands over at eight in summer time, too', '2026-03-30T07:59:00+02:00', 1],
    ['and the next begins', '2026-03-30T08:00:00+02:00', 2],
    ['turns were before, too', '2026-02-20T12:00:00+01:00', 2],
  ])('%s', (_, now, person) => {
    expect(onDuty(calendar, at(now), OSLO)).toBe(person)
  })
  test('who stands in does so to the minute, and the later one wins', () => {
    const swaps = [
      { personId: 3, fromMs: at('2026-03-03T00:00:00Z'), toMs: at('2026-03-05T00:00:00Z') },
      { personId: 2, fromMs: at('2026-03-04T00:00:00Z'), toMs: at('2026-03-04T12:00:00Z') },
    ]
    const with3 = { ...calendar, swaps }
    expect(
      turnsBetween(with3, at('2026-03-02T12:00:00Z'), at('2026-03-06T00:00:00Z'), OSLO).map(
        ({ personId, isSwap }) => [personId, isSwap],
      ),
    ).toEqual([
      [1, false],
      [3, true],
      [2, true],
      [3, true],
      [1, false],
    ])
  })
  test('nobody has a turn where there are no people', () => {
    expect(onDuty({ ...calendar, personIds: [] }, at('2026-03-03'), OSLO)).toBeNull()
  })
  test('turns join without a gap and without an overlap, whatever stands in between', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            personId: fc.integer({ min: 1, max: 3 }),
            start: fc.nat(60 * 24),
            hours: fc.integer({ min: 1, max: 200 }),
          }),
          { maxLength: 4 },
        ),
        fc.integer({ min: 1, max: 15 }),
        (made, turnDays) => {
          const base = at('2026-03-01')
          const swaps = made.map(({ personId, start, hours }) => ({
            personId,
            fromMs: base + start * HOUR,
            toMs: base + (start + hours) * HOUR,
          }))
          const [fromMs, toMs] = [base + 10 * DAY, base + 45 * DAY]
          const turns = turnsBetween({ ...calendar, turnDays, swaps }, fromMs, toMs, OSLO)
          expect(turns[0]!.fromMs).toBeLessThanOrEqual(fromMs)
          expect(turns.at(-1)!.toMs).toBeGreaterThanOrEqual(toMs)
          for (const [index, turn] of turns.slice(1).entries()) expect(turn.fromMs).toBe(turns[index]!.toMs)
        },
      ),
    )
  })
})

describe('the hold-off', () => {
  const now = at('2026-11-26T10:00:00Z')
  const told = (rest: Partial<LastNotified> = {}): LastNotified => ({
    event: 'opened',
    atMs: now - 5 * MINUTE,
    isSameAlert: false,
    ...rest,
  })
  test.each([
    ['what was never told is told', 'opened', null, { kind: 'tell', atMs: now + 6000 }],
    ['who knows is not told again', 'opened', told(), { kind: 'known', sinceMs: now - 5 * MINUTE }],
    [
      'once the hold-off is over it is told',
      'opened',
      told({ atMs: now - 16 * MINUTE }),
      { kind: 'tell', atMs: now + 6000 },
    ],
    [
      'who heard that it had gone hears that it is back',
      'opened',
      told({ event: 'cleared' }),
      { kind: 'tell', atMs: now + 6000 },
    ],
    ['that it got worse is told at once', 'worse', told(), { kind: 'tell', atMs: now + 6000 }],
    [
      'that it has gone is told at the end of the hold-off',
      'cleared',
      told(),
      { kind: 'tell', atMs: now + 10 * MINUTE },
    ],
    [
      'or at once, after it',
      'cleared',
      told({ atMs: now - 20 * MINUTE }),
      { kind: 'tell', atMs: now + 6000 },
    ],
  ] as const)('%s', (_, event, last, expected) => {
    expect(whenToNotify(event, now, 6000, 15 * MINUTE, last)).toEqual(expected)
  })
})

const facts: Facts = {
  event: 'opened',
  site: 'Kittiwake Sound',
  timeZone: 'UTC',
  title: 'Fan 3 stopped in petrel-07',
  reason: 'Fan speed is 0 rpm, below the line of 1,800 rpm, in 3 of the last 3 readings.',
  place: 'Breakwater Hall · B04 · U18–19',
  severity: 'critical',
  gear: 'petrel-07',
  atMs: at('2026-11-26T02:09:00Z'),
  link: 'http://rack.example:8460/alerts/12',
  team: 'the night team by mail',
  because: 'Everything, by mail',
  stillAfter: null,
}

describe('a message', () => {
  test('begins with the reason, and ends with where to look', () => {
    expect(subjectOf(facts)).toBe(
      '[Kittiwake Sound] New: Fan 3 stopped in petrel-07 (Breakwater Hall · B04 · U18–19)',
    )
    expect(plainOf(facts)).toBe(
      `${facts.reason}

Gear:      petrel-07
Severity:  critical
Place:     Breakwater Hall · B04 · U18–19
When:      02:09 (UTC)
Link:      http://rack.example:8460/alerts/12

Kittiwake Sound, sent to the night team by mail: Everything, by mail`,
    )
  })
  test('of a step that waited says for how long', () => {
    expect(subjectOf({ ...facts, stillAfter: '5 min' })).toContain('Still open after 5 min: Fan 3')
  })
  test('in HTML nothing of what devices say becomes a tag', () => {
    const html = htmlOf({ ...facts, title: '<img src=x onerror=alert(1)>', reason: `"a" & 'b' <b>` })
    expect(html).not.toContain('<img')
    expect(html).toContain('&lt;img src=x onerror=alert(1)&gt;')
    expect(html).toContain('&quot;a&quot; &amp; &#39;b&#39; &lt;b&gt;')
  })
  test('as a text fits one part, with the place first and the link whole', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 900 }), fc.string({ maxLength: 200 }), (reason, title) => {
        const text = shortOf({ ...facts, reason, title })
        expect(text.length).toBeLessThanOrEqual(160)
        expect(text.endsWith(` ${facts.link}`)).toBe(true)
      }),
    )
    expect(shortOf(facts)).toMatch(
      /^Breakwater Hall, B04, U18-19: New, critical: Fan 3 stopped in petrel-07\. Fan speed/,
    )
  })
  test('with others in one has what is critical first, and each with its reason and link', () => {
    const all = [
      { ...facts, severity: 'warning' as const, title: 'B', reason: 'because B', atMs: 1, place: null },
      { ...facts, event: 'cleared' as const, title: 'C', reason: 'because C', atMs: 2 },
      { ...facts, title: 'A <i>', reason: 'because A', atMs: 3, link: 'http://rack.example:8460/alerts/3' },
    ]
    const { subject, plain, html, short } = letterOf(all)
    expect(subject).toBe(
      '[Kittiwake Sound] A <i> (Breakwater Hall · B04 · U18–19), and 2 more: 2 new, 1 cleared; 1 is critical',
    )
    expect(plain.split('\n').filter((line) => line.startsWith('because'))).toEqual([
      'because A',
      'because B',
      'because C',
    ])
    expect(plain).toContain('New, critical: A <i> (Breakwater Hall · B04 · U18–19)\nbecause A\n00:00 http')
    expect(html).toContain('<a href="http://rack.example:8460/alerts/3"')
    expect(html).not.toContain('<i>')
    expect(short).toBe(
      '2 new, 1 cleared; 1 is critical. First: A <i> (Breakwater Hall, B04, U18-19), and 2 more. http://rack.example:8460/alerts?state=all',
    )
    expect(letterOf([facts]).plain).toBe(plainOf(facts))
  })
  test('for a hook is JSON with the id of the message', () => {
    expect(documentOf('m-1', 12, facts)).toMatchObject({
      id: 'm-1',
      event: 'opened',
      alert: { id: 12, severity: 'critical', link: facts.link },
    })
  })
})

describe('many messages at once', () => {
  test('five a minute go alone; of more, what waits goes in one, or in the next minute', () => {
    const S = 1000
    expect(howToGo(100 * S, [], 5, 5)).toEqual({ how: 'alone' })
    expect(howToGo(100 * S, [], 6, 5)).toEqual({ how: 'together' })
    expect(howToGo(100 * S, [99 * S, 98 * S, 97 * S], 2, 5)).toEqual({ how: 'alone' })
    expect(howToGo(100 * S, [99 * S, 98 * S, 97 * S, 50 * S], 2, 5)).toEqual({ how: 'together' })
    expect(howToGo(100 * S, [99 * S, 98 * S, 97 * S, 96 * S, 95 * S], 1, 5)).toEqual({
      how: 'later',
      atMs: 155 * S,
    })
    expect(howToGo(100 * S, [40 * S, 39 * S, 38 * S, 37 * S, 36 * S], 1, 5)).toEqual({ how: 'alone' })
  })
  test('what could not go is tried again after pauses that grow, and after many tries in five minutes still', () => {
    expect([0, 1, 2, 7, 8, 100].map(againMs)).toEqual([2000, 4000, 8000, 256_000, 300_000, 300_000])
  })
  test('whatever comes, no minute has more than that, all goes out, and nothing waits for longer than a minute', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 300_000 }), { minLength: 1, maxLength: 60 }),
        fc.integer({ min: 1, max: 6 }),
        (arrivals, most) => {
          const { sentMs, longestMs } = simulated(
            [...arrivals].sort((a, b) => a - b),
            most,
          )
          for (const [index, atMs] of sentMs.entries())
            expect(sentMs[index + most] ?? -Infinity).toBeLessThanOrEqual(atMs - 60_000)
          expect(longestMs).toBeLessThanOrEqual(60_000)
        },
      ),
    )
  })
})

/** Sends what has arrived, as the rule says, until nothing waits. `sentMs` is newest first. */
function simulated(arrivals: readonly number[], most: number): { sentMs: number[]; longestMs: number } {
  let left = [...arrivals]
  const sentMs: number[] = []
  let longestMs = 0
  let nowMs = left[0]!
  while (left.length > 0) {
    const waiting = left.filter((atMs) => atMs <= nowMs)
    if (waiting.length === 0) {
      nowMs = left[0]!
      continue
    }
    const going = howToGo(nowMs, sentMs, waiting.length, most)
    if (going.how === 'later') {
      expect(going.atMs).toBeGreaterThan(nowMs)
      nowMs = going.atMs
      continue
    }
    const gone = going.how === 'alone' ? 1 : waiting.length
    longestMs = Math.max(longestMs, nowMs - waiting[0]!)
    left = left.slice(gone)
    sentMs.unshift(nowMs)
  }
  return { sentMs, longestMs }
}

const tell = (channelId: number, to: 'team' | 'duty', rest: Partial<Step> = {}): Step => ({
  after: { kind: 'span', ms: 0 },
  evenIfTaken: false,
  action: { do: 'notify', channelId, to: { kind: to, teamId: 1 } },
  ...rest,
})
const callOut = (steps: readonly Step[]): CallOut => ({
  name: 'Everything',
  severity: 'warning',
  scope: { gearKind: null, partKind: null, where: EVERYWHERE },
  hours: null,
  outside: 'wait',
  holdOffMs: 0,
  mostAMinute: 5,
  tellsCleared: true,
  steps,
})
const names = {
  channels: new Map([
    [1, { name: 'Mail', kind: 'mail' as const }],
    [2, { name: 'Texts', kind: 'text' as const }],
  ]),
  teams: new Map([[1, 'night team']]),
  gear: new Map([[7, 'petrel-12']]),
  rules: new Map([['inlet', 'Air drawn in']]),
}

describe('a call-out in words', () => {
  test('steps are one sentence, actions among them', () => {
    const steps: Step[] = [
      tell(1, 'team'),
      tell(2, 'duty', { after: { kind: 'intervals', count: 3 } }),
      {
        after: { kind: 'span', ms: 10 * MINUTE },
        evenIfTaken: true,
        action: { do: 'stop', gearId: 7, rules: ['inlet'] },
      },
    ]
    expect(stepsSentence(callOut(steps), names)).toBe(
      'At once the night team by mail; still open after 3 intervals and not taken: who of the night team is on duty by text; still open after 10 min: petrel-12 is asked to stop (Air drawn in).',
    )
    expect(afterMs(steps[1]!.after, 10_000)).toBe(30_000)
  })
  test('what reaches one person only, or nobody, is said', () => {
    const around = {
      names,
      membersOf: new Map([[1, 3]]),
      unreachable: (_: number, kind: string) => (kind === 'text' ? ['Dag Ness'] : []),
    }
    expect(weaknessesOf([callOut([tell(1, 'team')])], around)).toEqual([])
    expect(weaknessesOf([callOut([tell(2, 'duty')])], around)).toEqual([
      '“Everything” reaches one person only: add a step that tells a whole team.',
      'Dag Ness of the night team cannot be reached by text message: a telephone number is missing.',
    ])
    expect(weaknessesOf([], around)).toEqual(['Nobody is notified of anything: add a call-out.'])
    expect(weaknessesOf([callOut([tell(9, 'team')])], around)[0]).toContain('reaches nobody')
  })
})
