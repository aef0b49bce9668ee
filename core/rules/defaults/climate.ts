import { lasting, ofLast } from '../rule.ts'
import type { Rule } from '../rule.ts'
import { MINUTE, just, level, of, state } from './making.ts'

/** Air and water. */
export const CLIMATE: readonly Rule[] = [
  state(
    {
      key: 'leak',
      name: 'A leak is detected',
      why: 'Water and mains do not go together; a drop on a rope is a reason to look.',
      measure: 'hw.leak',
      scope: of(null),
    },
    { 1: 'warning', 2: 'critical' },
  ),
  level(
    {
      key: 'cooling-error',
      name: 'Error code of a cooling unit',
      why: 'Any code but zero is the unit asking for somebody.',
      measure: 'hw.errors',
      scope: of('cooling'),
    },
    'above',
    { warning: null, critical: 0, persistence: ofLast(2, 2) },
  ),
  level(
    {
      key: 'cooling-fan',
      name: 'Fan of a cooling unit slow or stopped',
      why: 'A unit that is on and moves no air cools nothing, however cold its coil is; below a fifth of its speed it moves next to none.',
      measure: 'hw.fan.speed_ratio',
      scope: of('cooling'),
    },
    'below',
    { warning: 0.2, critical: 0.05, back: 0.05, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'generator-error',
      name: 'Error code of a generator',
      why: 'It is needed seldom and then at once: a code that waits is found when it must start.',
      measure: 'hw.errors',
      scope: of('generator'),
    },
    'above',
    { warning: 0, critical: null, persistence: ofLast(2, 2) },
  ),
  level(
    {
      key: 'air-warm',
      name: 'Air at a probe too warm',
      why: 'Air that servers draw in is recommended to stay below 27 °C, and allowed up to 32 °C.',
      measure: 'hw.temperature',
      scope: of('probe'),
    },
    'above',
    { warning: 27, critical: 32, back: 0.5, persistence: ofLast(4, 6) },
  ),
  {
    kind: 'rate',
    key: 'air-rising',
    name: 'Air at a probe warms fast',
    why: 'Five degrees in ten minutes is a cooling unit that has stopped, long before the line is reached.',
    scope: of('probe'),
    of: just('hw.temperature'),
    direction: 'rising',
    withinMs: 10 * MINUTE,
    lines: [{ severity: 'critical', at: 5, back: 1 }],
    persistence: ofLast(2, 3),
  },
  {
    kind: 'band',
    key: 'air-humid',
    name: 'Humidity outside of what is good',
    why: 'Dry air charges people up, damp air rusts contacts.',
    scope: of('probe'),
    of: just('hw.humidity'),
    bands: [
      { severity: 'warning', low: 0.2, high: 0.7, margin: 0.02 },
      { severity: 'critical', low: 0.08, high: 0.85, margin: 0.02 },
    ],
    persistence: ofLast(4, 6),
  },
  {
    kind: 'silent',
    key: 'probe-silent',
    name: 'A probe is not heard by its gateway',
    why: 'Probes sleep between two readings; ten minutes are more than any of them sleeps.',
    measure: 'hw.temperature',
    scope: of('probe'),
    afterMs: 10 * MINUTE,
    severity: 'warning',
  },
  level(
    {
      key: 'probe-battery',
      name: 'Battery of a probe low',
      why: 'A tenth lasts some weeks: time to bring one along on the next round.',
      measure: 'hw.battery.charge',
      scope: of('probe'),
    },
    'below',
    { warning: 0.1, critical: null, back: 0.05, persistence: ofLast(3, 3) },
  ),
  level(
    {
      key: 'probe-signal',
      name: 'A probe is hardly heard',
      why: 'Below −95 dBm contacts begin to fail; a closed door or a moved rack is enough.',
      measure: 'hw.signal',
      scope: of('probe'),
    },
    'below',
    { warning: -95, critical: null, back: 2, persistence: ofLast(4, 6) },
  ),
  state(
    {
      key: 'door-open',
      name: 'A door stands open',
      why: 'Whoever carries something in is through within ten minutes; after that it is forgotten.',
      measure: 'hw.door',
      scope: of('door'),
    },
    { 1: 'warning' },
    lasting(10 * MINUTE),
  ),
]
