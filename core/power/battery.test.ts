import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Findings } from '../gear/index.ts'
import {
  type Battery,
  batteryAge,
  batteryEndMs,
  batteryIn,
  batteryKey,
  batteryLife,
  batterySentence,
  withBatteries,
} from './index.ts'

const NOW = Date.UTC(2026, 10, 29, 12)
const DAY_MS = 86_400_000

// By Python: `date(2022, 3, 12) + relativedelta(months=60)`, and days between the two dates.
test.each([
  { installed: '2022-03-12', years: 5, end: '2027-03-12', days: 1826 },
  { installed: '2023-12-31', years: 3, end: '2026-12-31', days: 1096 },
  { installed: '2021-11-30', years: 4.5, end: '2026-05-30', days: 1642 },
  { installed: '2020-01-15', years: 10, end: '2030-01-15', days: 3653 },
])('a battery of $installed made for $years years lasts until $end', ({ installed, years, end, days }) => {
  expect(new Date(batteryEndMs({ installed, years })).toISOString().slice(0, 10)).toBe(end)
  expect(batteryLife({ installed, years })).toBe(days)
})

test('of a leap day the first of March comes in its place', () => {
  expect(batteryEndMs({ installed: '2024-02-29', years: 5 })).toBe(Date.UTC(2029, 2, 1))
})

test('its age grows a day a day, and is as long as its life at the end', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 8000, max: 20_000 }),
      fc.integer({ min: 12, max: 300 }),
      fc.integer({ min: 0, max: 5000 }),
      (installedDay, months, days) => {
        const installed = new Date(installedDay * DAY_MS).toISOString().slice(0, 10)
        const battery = { installed, years: months / 12 }
        expect(batteryAge(battery, (installedDay + days) * DAY_MS)).toBe(days)
        expect(batteryAge(battery, batteryEndMs(battery))).toBe(batteryLife(battery))
        expect(batteryAge(battery, (installedDay - 1 - days) * DAY_MS)).toBe(0)
      },
    ),
  )
})

describe('what people enter', () => {
  test.each([
    { installed: ' 2022-03-12 ', years: '5', battery: { installed: '2022-03-12', years: 5 } },
    { installed: '2026-11-29', years: '4,5', battery: { installed: '2026-11-29', years: 4.5 } },
  ])('$installed, $years', ({ installed, years, battery }) =>
    expect(batteryIn(installed, years, NOW)).toEqual(battery),
  )
  test.each([
    { installed: '', years: '5', says: /missing/ },
    { installed: '12.3.2022', years: '5', says: /“12.3.2022” is no day/ },
    { installed: '2022-02-31', years: '5', says: /“2022-02-31” is no day/ },
    { installed: '2027-03-12', years: '5', says: /12 Mar 2027 has not come yet/ },
    { installed: '0022-03-12', years: '5', says: /No battery of 0022 is in use/ },
    { installed: '2022-03-12', years: '', says: /is not the life of a battery/ },
    { installed: '2022-03-12', years: '0', says: /from 1 to 25/ },
    { installed: '2022-03-12', years: 'five', says: /“five”/ },
    { installed: '2022-03-12', years: '60', says: /from 1 to 25/ },
  ])('“$installed”, “$years” is refused in a sentence', ({ installed, years, says }) => {
    expect(batteryIn(installed, years, NOW)).toMatch(says)
  })
})

test('what it is is said in a sentence', () => {
  const plain = (battery: Battery): string => batterySentence(battery, NOW).replaceAll(/[\u00a0\u202f]/g, ' ')
  expect(plain({ installed: '2022-03-12', years: 5 })).toBe(
    'Put in on 12 Mar 2022 and made for 5 years: it reaches that age on 12 Mar 2027, in 103 days.',
  )
  expect(plain({ installed: '2019-04-12', years: 4.5 })).toBe(
    'Put in on 12 Apr 2019 and made for 4.5 years: it has been older than that since 12 Oct 2023.',
  )
})

test('a UPS that people know more of is told with its battery; others are as they were', () => {
  const gear = (key: string): Findings['gear'][number] => ({
    key,
    kind: 'ups',
    name: key,
    identities: [],
    facts: {},
    parts: [],
  })
  const findings: Findings = {
    gear: [gear('A'), gear('B')],
    links: [],
    readings: [{ gear: 'A', part: null, measure: 'hw.battery.charge', value: 1 }],
  }
  const battery = { installed: '2026-11-19', years: 5 }
  const whole = withBatteries(findings, new Map([['B', battery]]), NOW)
  expect(whole.gear.map(({ parts }) => parts.map(({ key, kind }) => [key, kind]))).toEqual([
    [],
    [[batteryKey('2026-11-19'), 'battery']],
  ])
  expect(whole.readings).toEqual([
    findings.readings[0],
    { gear: 'B', part: batteryKey('2026-11-19'), measure: 'ups.battery.age', value: 10.5 },
  ])
  expect(withBatteries(findings, new Map([['C', battery]]), NOW)).toBe(findings)
})
