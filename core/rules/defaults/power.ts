import { ofLast } from '../rule.ts'
import type { Rule } from '../rule.ts'
import { just, level, of, state } from './making.ts'

/** Power. */
export const POWER: readonly Rule[] = [
  state(
    {
      key: 'ups-source',
      name: 'What a UPS feeds its load from',
      why: 'Every change of a UPS away from mains needs somebody to know.',
      measure: 'ups.output.source',
      scope: of('ups'),
    },
    { 2: 'critical', 4: 'warning', 5: 'critical', 6: 'warning', 7: 'warning' },
  ),
  state(
    {
      key: 'ups-battery',
      name: 'Battery of a UPS low',
      why: 'The UPS itself says that its battery is low or depleted.',
      measure: 'ups.battery.status',
      scope: of('ups'),
    },
    { 3: 'critical', 4: 'critical' },
  ),
  level(
    {
      key: 'ups-runtime',
      name: 'Few minutes left on a UPS',
      why: 'The own line: machines need about ten minutes to stop in order. Lines set in devices are often wrong.',
      measure: 'ups.battery.minutes_left',
      scope: of('ups'),
    },
    'below',
    { warning: 20, critical: 15, back: 1, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'ups-charge',
      name: 'Battery of a UPS discharged',
      why: 'Half a charge is less than half the minutes, for an old battery gives in at the end.',
      measure: 'hw.battery.charge',
      scope: of('ups'),
    },
    'below',
    { warning: 0.5, critical: 0.25, back: 0.05, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'ups-load',
      name: 'UPS heavily loaded',
      why: 'Above 80 % there is no room for the load of the other feed.',
      measure: 'ups.output.load',
      scope: of('ups'),
    },
    'above',
    { warning: 0.8, critical: 0.95, back: 0.02, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'ups-faults',
      name: 'Alarm of the UPS itself',
      why: 'An alarm of RFC 1628 other than those that any loss of mains brings.',
      measure: 'ups.faults',
      scope: of('ups'),
    },
    'above',
    { warning: 0, critical: null, persistence: ofLast(1, 1) },
  ),
  level(
    {
      key: 'battery-warm',
      name: 'Battery warm',
      why: 'Each 10 K above 25 °C halves the life of a lead battery.',
      measure: 'hw.temperature',
      scope: of('ups'),
    },
    'above',
    { warning: 35, critical: 45, back: 1, persistence: ofLast(4, 6) },
  ),
  {
    kind: 'band',
    key: 'mains-voltage',
    name: 'Voltage outside of what is agreed',
    why: 'EN 50160 allows 230 V ± 10 %; supplies switch off below 180 V.',
    scope: of('meter'),
    of: just('hw.voltage'),
    bands: [
      { severity: 'warning', low: 207, high: 253, margin: 2 },
      { severity: 'critical', low: 184, high: 264, margin: 2 },
    ],
    persistence: ofLast(3, 4),
  },
  {
    kind: 'band',
    key: 'mains-frequency',
    name: 'Frequency outside of what is agreed',
    why: 'Beyond 1 % of 50 Hz an uninterruptible supply leaves the mains for its battery.',
    scope: of('meter'),
    of: just('hw.frequency'),
    bands: [{ severity: 'warning', low: 49.5, high: 50.5, margin: 0.1 }],
    persistence: ofLast(3, 4),
  },
  level(
    {
      key: 'phase-loaded',
      name: 'A phase of a strip near its breaker',
      why: 'Breakers of 16 A carry 80 % of it for as long as you like, and more for less and less time.',
      measure: 'hw.current',
      scope: of('pdu', 'phase'),
    },
    'above',
    { warning: 12.8, critical: 15, back: 0.5, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'strip-alone',
      name: 'A strip could not carry what another feeds',
      why: 'Three phases of 16 A at 230 V carry 11 kW, and 80 % of it for as long as you like: when the other strip of its gear is lost, all of that hangs on this one.',
      measure: 'hw.power.alone',
      scope: of('pdu'),
    },
    'above',
    { warning: 8800, critical: 11_000, back: 300, persistence: ofLast(4, 6) },
  ),
  state(
    {
      key: 'outlet-off',
      name: 'An outlet went off',
      why: 'What was fed by it has lost a feed; an outlet that never was on has fed nothing.',
      measure: 'hw.outlet.state',
      scope: of('pdu', 'outlet'),
    },
    { 0: 'warning' },
    ofLast(2, 2),
    { after: 1 },
  ),
  level(
    {
      key: 'fuel-low',
      name: 'Fuel of a generator low',
      why: 'Half a tank is a night; below a quarter a delivery must be on its way.',
      measure: 'hw.fuel',
      scope: of('generator'),
    },
    'below',
    { warning: 0.4, critical: 0.2, back: 0.05, persistence: ofLast(3, 3) },
  ),
]
