import { describe, expect, test } from 'vitest'
import { UPS_OIDS, upsFindings } from './index.ts'

const MIB = '1.3.6.1.2.1.33.1'
/** A UPS with two input lines, on battery, as RFC 1628 writes its values. */
const values = new Map<string, string | number>([
  [UPS_OIDS.identModel, 'Keel 6k'],
  [UPS_OIDS.identName, ' harbour-A '],
  [UPS_OIDS.batteryStatus, 2],
  [UPS_OIDS.secondsOnBattery, 75],
  [UPS_OIDS.estimatedMinutesRemaining, 31],
  [UPS_OIDS.estimatedChargeRemaining, 98],
  [UPS_OIDS.batteryVoltage, 2415],
  [UPS_OIDS.outputSource, 5],
  [`${MIB}.3.3.1.2.1`, 500],
  [`${MIB}.3.3.1.3.1`, 231],
  [`${MIB}.3.3.1.3.2`, 229],
  [`${MIB}.4.4.1.2.1`, 230],
  [`${MIB}.4.4.1.5.1`, 62],
  [`${MIB}.4.4.1.5.2`, 40],
  [`${MIB}.6.2.1.2.1`, `${MIB}.6.3.2`],
  [`${MIB}.6.2.1.2.2`, `${MIB}.6.3.16`],
])
const valueOf = (measure: string, part: string | null = null) =>
  upsFindings(values)?.readings.find((reading) => reading.measure === measure && reading.part === part)?.value

describe('RFC 1628', () => {
  test.each([
    { measure: 'ups.output.source', value: 5, why: 'battery(5)' },
    { measure: 'ups.battery.status', value: 2, why: 'batteryNormal(2)' },
    { measure: 'ups.battery.seconds_on', value: 75, why: 'seconds' },
    { measure: 'ups.battery.minutes_left', value: 31, why: 'minutes' },
    { measure: 'hw.battery.charge', value: 0.98, why: 'percent' },
    { measure: 'ups.output.load', value: 0.62, why: 'percent, the busiest line' },
    { measure: 'ups.faults', value: 1, why: 'a failed fan, but not “on battery”' },
  ])('$measure is $value: $why', ({ measure, value }) => {
    expect(valueOf(measure)).toBeCloseTo(value)
  })
  test('voltages: tenths at the battery, whole at the lines; frequency in tenths', () => {
    expect(valueOf('hw.voltage', 'battery')).toBeCloseTo(241.5)
    expect(valueOf('hw.voltage', 'input 1')).toBe(231)
    expect(valueOf('hw.voltage', 'input 2')).toBe(229)
    expect(valueOf('hw.frequency', 'input 1')).toBeCloseTo(50)
    expect(valueOf('hw.frequency', 'input 2')).toBeNull()
  })
  test('alarms are named', () => {
    expect(upsFindings(values)?.gear[0]?.facts['alarms']).toBe('on battery, fan failed')
  })
  test('no estimate is no time: 0 minutes are unknown', () => {
    const found = upsFindings(new Map([...values, [UPS_OIDS.estimatedMinutesRemaining, 0]]))
    expect(
      found?.readings.find((reading) => reading.measure === 'ups.battery.minutes_left')?.value,
    ).toBeNull()
  })
})

test('an agent without the tree is no UPS', () => {
  expect(upsFindings(new Map([['1.3.6.1.2.1.1.1.0', 'a switch']]))).toBeNull()
})

test('text where a number should be is unknown', () => {
  const found = upsFindings(new Map([...values, [UPS_OIDS.outputSource, 'five']]))
  expect(found?.readings.find((reading) => reading.measure === 'ups.output.source')?.value).toBeNull()
})
