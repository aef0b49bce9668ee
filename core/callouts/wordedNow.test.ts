import { describe, expect, test } from 'vitest'
import { DEFAULT_RULES, measureOfRule, type Rule } from '../rules/index.ts'
import { type AlertNow, documentOf, type Facts, factsNow, plainOf, shortOf, subjectOf } from './index.ts'

const at = (clock: string): number => Date.parse(`2026-11-26T${clock}:00Z`)
const MINUTE = 60_000

const facts: Facts = {
  event: 'opened',
  site: 'Kittiwake Sound',
  timeZone: 'UTC',
  title: 'UPS harbour-A on battery, 55 min left',
  reason: 'It runs on battery; charge 100 %; output load 42 %.',
  place: 'Breakwater Hall',
  severity: 'critical',
  gear: 'harbour-A',
  atMs: at('12:14'),
  link: 'http://rack.example:8460/alerts/12',
  team: 'who of the night team is on duty by text',
  because: 'Nights',
  stillAfter: null,
}
const ruleOn = (measure: string): Rule => {
  const rule = DEFAULT_RULES.find((each) => measureOfRule(each) === measure)
  if (rule === undefined) throw new Error(`no shipped rule on ${measure}`)
  return rule
}
const alert: AlertNow = {
  title: facts.title,
  reason: facts.reason,
  severity: 'critical',
  line: 'battery',
  sinceMs: at('12:13'),
  openedAtMs: at('12:14'),
  clearedAtMs: null,
  thenValue: 5,
  about: {
    gearName: 'harbour-A',
    gearKind: 'ups',
    partName: null,
    measure: 'ups.output.source',
    value: 5,
    companions: { 'ups.battery.minutes_left': 3, 'hw.battery.charge': 0.07, 'ups.output.load': 0.42 },
  },
  rule: ruleOn('ups.output.source'),
}
const moment = (clock: string, due = clock) => ({ nowMs: at(clock), dueAtMs: at(due) })
const plain = (text: string): string => text.replaceAll(/[\u00a0\u202f]/g, ' ')

describe('a message in the words of the moment in which it leaves', () => {
  test('has the minutes and the charge of now, and since when it is so', () => {
    const now = factsNow({ ...facts, stillAfter: '5 min' }, alert, moment('12:19'))
    expect(plain(subjectOf(now))).toBe(
      '[Kittiwake Sound] Still open after 5 min: UPS harbour-A on battery, 3 min left (Breakwater Hall)',
    )
    expect(plain(now.reason)).toBe('It runs on battery; charge 7 %; load 42 %.')
    expect(plainOf(now)).toContain('Since:     12:13 (UTC)')
  })

  test('what was beyond its line says both numbers, and keeps its headline while it is within', () => {
    const fan: AlertNow = {
      ...alert,
      line: 'below 1 800 rpm',
      thenValue: 0,
      about: {
        gearName: 'petrel-07',
        gearKind: 'server',
        partName: 'Fan 3',
        measure: 'hw.fan.speed',
        value: 4914,
      },
      rule: {
        ...(ruleOn('hw.temperature') as Extract<Rule, { kind: 'level' }>),
        direction: 'below',
        lines: [{ severity: 'critical', at: 1800, back: 2000 }],
      } as Rule,
    }
    const then = { ...facts, title: 'Fan 3 stopped in petrel-07', gear: 'petrel-07' }
    const now = factsNow(then, fan, moment('12:22'))
    expect(now.title).toBe('Fan 3 stopped in petrel-07')
    expect(plain(now.reason)).toBe('Fan speed 4 914 rpm now, was 0 rpm at 12:14; the line: below 1 800 rpm.')
    const slow = factsNow(then, { ...fan, about: { ...fan.about!, value: 240 } }, moment('12:15'))
    expect(plain(slow.title)).toBe('Fan 3 at 240 rpm in petrel-07')
    expect(slow.stillAfter).toBeNull()
  })

  test('what leaves late is not new: it says for how long it has stood; a step that is in time says what it waited for', () => {
    expect(factsNow(facts, alert, moment('12:15')).stillAfter).toBeNull()
    expect(plain(subjectOf(factsNow(facts, alert, moment('12:35', '12:14'))))).toContain(
      'Still open after 21 min: ',
    )
    const step = { ...facts, stillAfter: '5 min' }
    expect(factsNow(step, alert, moment('12:19')).stillAfter).toBe('5 min')
    expect(plain(factsNow(step, alert, moment('12:40', '12:19')).stillAfter!)).toBe('26 min')
  })

  test('what is over as it leaves says so, with the words of when it was', () => {
    const over = factsNow(
      facts,
      { ...alert, clearedAtMs: at('12:30'), about: null },
      moment('12:35', '12:14'),
    )
    expect(subjectOf(over)).toBe(
      '[Kittiwake Sound] Already over: UPS harbour-A on battery, 55 min left (Breakwater Hall)',
    )
    expect(plainOf(over)).toContain('Since:     12:13 (UTC)\nEnded:     12:30 (UTC)')
    expect(documentOf('m', 12, over)).toMatchObject({
      since: '2026-11-26T12:13:00.000Z',
      over: '2026-11-26T12:30:00.000Z',
    })
  })

  test('a test and an end stay as they were written', () => {
    for (const event of ['cleared', 'test'] as const) {
      const given = { ...facts, event }
      expect(factsNow(given, alert, { nowMs: at('12:14') + 60 * MINUTE, dueAtMs: at('12:14') })).toBe(given)
    }
  })

  test('as a text it is of the signs that 160 of fit into one part, the place first', () => {
    const text = shortOf(factsNow(facts, alert, moment('12:18', '12:18')))
    expect(text).toMatch(
      /^Breakwater Hall: Still open after 4 min, critical: UPS harbour-A on battery, 3 min left, since 12:13\./,
    )
    expect(text).toMatch(/^[\x20-\x7e]+$/)
    expect(text.length).toBeLessThanOrEqual(160)
  })
})
