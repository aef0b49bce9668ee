import { lasting, ofLast } from '../rule.ts'
import type { Rule } from '../rule.ts'
import { MINUTE, level, of, state } from './making.ts'

/** Servers, hosts, chassis and what is in them. */
export const SERVERS: readonly Rule[] = [
  state(
    {
      key: 'gear-off',
      name: 'Switched off',
      why: 'What was on and is off was switched off, or lost its power: what runs on it is down. Where that is meant, accept it, quiet it, or switch this rule off for its tag.',
      measure: 'hw.power.state',
      scope: of(null),
    },
    { 0: 'critical' },
    ofLast(2, 2),
    { after: 1 },
  ),
  level(
    {
      key: 'fan-slow',
      name: 'Fan slow or stopped',
      why: 'Below 1 800 rpm a fan of a server moves too little air to keep the processors at full clock.',
      measure: 'hw.fan.speed',
      scope: of('server', 'fan'),
    },
    'below',
    { warning: 2400, critical: 1800, back: 100, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'fan-stopped',
      name: 'Fan stands still',
      why: 'Whatever fan it is, below a tenth of its speed it moves no air.',
      measure: 'hw.fan.speed_ratio',
      scope: of('chassis', 'fan'),
    },
    'below',
    { warning: 0.1, critical: 0.03, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'intake-warm',
      name: 'Air drawn in too warm',
      why: 'The air that equipment draws in is recommended to stay below 27 °C, and allowed up to 32 °C (ASHRAE TC 9.9, class A1).',
      measure: 'hw.temperature',
      scope: { ...of(null, 'sensor'), role: 'intake' },
    },
    'above',
    { warning: 27, critical: 32, back: 0.5, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'intake-cold',
      name: 'Air drawn in too cold',
      why: 'Below 15 °C is colder than is allowed (ASHRAE TC 9.9, class A1): water condenses when the door opens, and power goes into cold that nobody needs.',
      measure: 'hw.temperature',
      scope: { ...of(null, 'sensor'), role: 'intake' },
    },
    'below',
    { warning: 15, critical: null, back: 0.5, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'inlet-warm',
      name: 'Air at a sensor too warm',
      why: 'Outlet air above 45 °C shortens the life of supplies; above 55 °C servers shut themselves down.',
      measure: 'hw.temperature',
      scope: of('server', 'sensor'),
    },
    'above',
    { warning: 45, critical: 55, back: 2, persistence: ofLast(3, 4) },
  ),
  level(
    {
      key: 'chassis-warm',
      name: 'Air in a chassis too warm',
      why: 'Eight blades share this air; above 55 °C the chassis takes their clock down.',
      measure: 'hw.temperature',
      scope: of('chassis', 'sensor'),
    },
    'above',
    { warning: 45, critical: 55, back: 2, persistence: ofLast(3, 4) },
  ),
  level(
    {
      key: 'processor-hot',
      name: 'Processor hot',
      why: 'Processors slow themselves down from about 95 °C.',
      measure: 'hw.temperature',
      scope: of('server', 'processor'),
    },
    'above',
    { warning: 85, critical: 95, back: 3, persistence: ofLast(3, 4) },
  ),
  level(
    {
      key: 'processor-busy',
      name: 'Processor busy',
      why: 'Short peaks are normal; most of a minute above the line is not. Of a gear that tells of all its cores and of itself as a whole, the whole counts.',
      measure: 'system.cpu.utilization',
      scope: of(null),
    },
    'above',
    { warning: 0.85, critical: 0.95, back: 0.03, persistence: ofLast(5, 6) },
  ),
  level(
    {
      key: 'memory-full',
      name: 'Memory nearly full',
      why: 'Above 95 % a host begins to take pages back from its guests.',
      measure: 'system.memory.utilization',
      scope: of(null),
    },
    'above',
    { warning: 0.9, critical: 0.95, back: 0.01, persistence: ofLast(5, 6) },
  ),
  level(
    {
      key: 'swapping',
      name: 'Swap in use',
      why: 'What is in swap answers a thousand times slower; half of it used is no accident of a busy minute.',
      measure: 'system.paging.utilization',
      scope: of(null),
    },
    'above',
    { warning: 0.5, critical: 0.9, back: 0.05, persistence: ofLast(5, 6) },
  ),
  level(
    {
      key: 'machine-idle',
      name: 'Machine does nothing',
      why: 'Below half a percent for six hours nobody asks anything of it: what it was made for has ended, or has died quietly. Its memory and space could be given to others.',
      measure: 'system.cpu.utilization',
      scope: of('machine'),
    },
    'below',
    { warning: 0.005, critical: null, back: 0.005, persistence: lasting(6 * 60 * MINUTE) },
  ),
  level(
    {
      key: 'receives-much',
      name: 'Machine receives much for long',
      why: 'Half of a link of 1 Gbit/s for a quarter of an hour is a restore, a copy that nobody planned, or somebody who floods it; its neighbours on the host wait.',
      measure: 'hw.network.io.receive',
      scope: of('machine'),
    },
    'above',
    { warning: 500e6 / 8, critical: null, back: 100e6 / 8, persistence: lasting(15 * MINUTE) },
  ),
  {
    kind: 'pair',
    key: 'sends-only',
    name: 'Sends much and receives little',
    why: 'A machine that was taken over sends to many and hears little back; who serves files hears their requests.',
    scope: of('machine'),
    first: { measure: 'hw.network.io.transmit', direction: 'above', at: 20e6, back: 15e6 },
    second: { measure: 'hw.network.io.receive', direction: 'below', at: 500e3, back: 800e3 },
    severity: 'warning',
    persistence: lasting(10 * MINUTE),
  },
]
