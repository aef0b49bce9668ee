import type { GearKind, MeasureKey, PartKind } from '../catalogue/index.ts'
import {
  EVERYWHERE,
  lasting,
  type Line,
  ofLast,
  type Persistence,
  type Quantity,
  type Rule,
  type Scope,
  type Severity,
} from './rule.ts'

const MINUTE = 60_000

const just = (measure: MeasureKey): Quantity => ({ measure, with: null })
const of = (gearKind: GearKind | null, partKind: PartKind | null = null): Scope => ({
  gearKind,
  partKind,
  where: EVERYWHERE,
})

interface Words {
  readonly key: string
  readonly name: string
  readonly why: string
}

/** Lines as numbers; `back` is how far a value must come back before it counts as back. */
function level(
  words: Words & { readonly scope: Scope; readonly measure: MeasureKey },
  direction: 'above' | 'below',
  lines: {
    readonly warning: number | null
    readonly critical: number | null
    readonly back?: number
    readonly persistence: Persistence
  },
): Rule {
  const { measure, ...rest } = words
  const sign = direction === 'above' ? -1 : 1
  const line = (severity: Severity, at: number | null): Line[] =>
    at === null
      ? []
      : [
          {
            severity,
            at,
            back: lines.back === undefined ? null : Number((at + sign * lines.back).toPrecision(12)),
          },
        ]
  return {
    kind: 'level',
    ...rest,
    of: just(measure),
    direction,
    lines: [...line('warning', lines.warning), ...line('critical', lines.critical)],
    persistence: lines.persistence,
  }
}

function state(
  words: Words & { readonly scope: Scope; readonly measure: MeasureKey },
  states: Readonly<Record<number, Severity>>,
  persistence: Persistence = ofLast(1, 1),
  rest: { readonly after?: number } = {},
): Rule {
  const { measure, ...named } = words
  return {
    kind: 'state',
    ...named,
    of: just(measure),
    states,
    otherwise: null,
    after: rest.after ?? null,
    persistence,
  }
}

/** Rules in force from the first minute. Lines are in the unit of the measure; a ratio of 0.78 is 78 %. */
export const DEFAULT_RULES: readonly Rule[] = [
  // Whatever it is
  {
    kind: 'noData',
    key: 'no-data',
    name: 'Nothing heard',
    why: 'Three missed intervals in a row are no accident.',
    scope: of(null),
    intervals: 3,
    severity: 'warning',
  },
  state(
    {
      key: 'part-health',
      name: 'Health a device reports of itself',
      why: 'The device knows its own parts best; one report is enough.',
      measure: 'hw.status',
      scope: of(null),
    },
    { 1: 'warning', 2: 'critical' },
  ),
  state(
    {
      key: 'not-reached',
      name: 'A service is not reached',
      why: 'Two tries in a row rule out a single lost packet.',
      measure: 'net.reachable',
      scope: of(null),
    },
    { 0: 'critical' },
    ofLast(2, 2),
  ),
  level(
    {
      key: 'certificate-ends',
      name: 'A certificate runs out',
      why: 'Three weeks are enough to renew one without haste; with a few days left it is somebody’s job today.',
      measure: 'net.certificate.days_left',
      scope: of(null),
    },
    'below',
    { warning: 21, critical: 5, persistence: ofLast(2, 2) },
  ),
  level(
    {
      key: 'answer-slow',
      name: 'A service answers slowly',
      why: 'What takes a second is felt by whoever waits for it; half of the tries rule out a busy moment.',
      measure: 'net.response_time',
      scope: of('service'),
    },
    'above',
    { warning: 1000, critical: null, back: 200, persistence: ofLast(3, 6) },
  ),
  level(
    {
      key: 'packets-lost',
      name: 'Packets are lost on the way',
      why: 'A tenth lost makes every connection crawl.',
      measure: 'net.loss',
      scope: of(null),
    },
    'above',
    { warning: 0.1, critical: 0.5, persistence: ofLast(3, 6) },
  ),
  // Servers, hosts, chassis and what is in them
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
      why: 'Short peaks are normal; most of a minute above the line is not.',
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
  // Drives
  level(
    {
      key: 'drive-worn',
      name: 'Drive nearly worn out',
      why: 'At a quarter of its life left there is still time to order a replacement.',
      measure: 'hw.drive.life_left',
      scope: of(null, 'drive'),
    },
    'below',
    { warning: 0.25, critical: 0.05, persistence: ofLast(2, 2) },
  ),
  level(
    {
      key: 'drive-spare',
      name: 'Spare blocks of a drive nearly used',
      why: 'A drive that has used its spare turns read-only at best.',
      measure: 'hw.drive.spare',
      scope: of(null, 'drive'),
    },
    'below',
    { warning: 0.3, critical: 0.1, persistence: ofLast(2, 2) },
  ),
  state(
    {
      key: 'drive-predicts-failure',
      name: 'Drive predicts its own failure',
      why: 'A failed drive at best turns read-only and at worst takes the data.',
      measure: 'hw.drive.predicted_failure',
      scope: of(null, 'drive'),
    },
    { 1: 'critical' },
  ),
  level(
    {
      key: 'drive-pending',
      name: 'Sectors wait to be reallocated',
      why: 'Each is a piece of data that could not be read; more than a few are the beginning of the end.',
      measure: 'hw.drive.pending',
      scope: of(null, 'drive'),
    },
    'above',
    { warning: 0, critical: 50, persistence: ofLast(2, 2) },
  ),
  level(
    {
      key: 'drive-hot',
      name: 'Drive hot',
      why: 'Drives wear out faster above 55 °C and throttle themselves near 70 °C.',
      measure: 'hw.temperature',
      scope: of(null, 'drive'),
    },
    'above',
    { warning: 58, critical: 68, back: 2, persistence: ofLast(3, 4) },
  ),
  // Space
  level(
    {
      key: 'store-full',
      name: 'Datastore filling',
      why: 'The line sits low because rebuilding after a failed drive needs about a fifth of the space free.',
      measure: 'system.filesystem.utilization',
      scope: of('store'),
    },
    'above',
    { warning: 0.78, critical: 0.82, back: 0.005, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'pool-full',
      name: 'Pool of an array filling',
      why: 'Capacity that is promised twice cannot be bought in a day: early is in time.',
      measure: 'system.filesystem.utilization',
      scope: of('array', 'pool'),
    },
    'above',
    { warning: 0.8, critical: 0.9, back: 0.01, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'filesystem-full',
      name: 'File system filling',
      why: 'What logs or works in it stops when it is full; the last tenth goes fast.',
      measure: 'system.filesystem.utilization',
      scope: of(null, 'filesystem'),
    },
    'above',
    { warning: 0.9, critical: 0.97, back: 0.01, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'volume-full',
      name: 'Volume filling',
      why: 'A container that cannot write is restarted again and again, to no avail.',
      measure: 'system.filesystem.utilization',
      scope: of('volume'),
    },
    'above',
    { warning: 0.9, critical: 0.97, back: 0.01, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'inodes-used',
      name: 'Inodes of a volume nearly used',
      why: 'Without an inode there is no new file, however much space is left.',
      measure: 'system.filesystem.inodes.utilization',
      scope: of(null),
    },
    'above',
    { warning: 0.9, critical: 0.97, back: 0.01, persistence: ofLast(4, 6) },
  ),
  state(
    {
      key: 'claim-open',
      name: 'A claim of a volume is not bound',
      why: 'What waits for its volume does not start; a claim that is lost has lost its data with it.',
      measure: 'system.volume.claim',
      scope: of('volume'),
    },
    { 1: 'warning', 2: 'critical' },
    ofLast(3, 3),
  ),
  // Network
  state(
    {
      key: 'link-down',
      name: 'A port has lost its link',
      why: 'A port that never had one has lost none; one that had hangs something on it.',
      measure: 'hw.network.up',
      scope: of('switch', 'port'),
    },
    { 0: 'warning' },
    ofLast(2, 2),
    { after: 1 },
  ),
  level(
    {
      key: 'port-errors',
      name: 'A port counts errors',
      why: 'One a second is a bad cable or a bad module, and slows down all that goes over it.',
      measure: 'hw.network.errors',
      scope: of(null, 'port'),
    },
    'above',
    { warning: 1, critical: null, back: 0.5, persistence: ofLast(4, 6) },
  ),
  level(
    {
      key: 'link-full',
      name: 'A link is full',
      why: 'Above 80 % over minutes packets begin to wait for each other.',
      measure: 'hw.network.bandwidth.utilization',
      scope: of(null, 'port'),
    },
    'above',
    { warning: 0.8, critical: 0.95, back: 0.05, persistence: lasting(10 * MINUTE) },
  ),
  // Power
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
      why: 'Each 10 °C above 25 °C halves the life of a lead battery.',
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
  // Air and water
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
  // The watching itself
  level(
    {
      key: 'channel-stuck',
      name: 'A channel is stuck',
      why: 'What has not gone out for two minutes is not late by chance: somebody must be told another way.',
      measure: 'watch.stuck',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: null, critical: 120, back: 119, persistence: ofLast(1, 1) },
  ),
  state(
    {
      key: 'collector-dead',
      name: 'A collector is not at work',
      why: 'The others have taken over what it read; should the last one go, nobody says so any more.',
      measure: 'watch.collector',
      scope: of('selfMonitoring'),
    },
    { 0: 'critical' },
    ofLast(2, 2),
  ),
  level(
    {
      key: 'judged-late',
      name: 'Readings are judged late',
      why: 'Alerts come as late as readings are judged; two seconds are what this is built for.',
      measure: 'watch.delay',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: 5000, critical: 60_000, back: 2000, persistence: ofLast(3, 3) },
  ),
  level(
    {
      key: 'spool-grows',
      name: 'Readings wait on disk',
      why: 'They wait while the database is away, and are refused at two gigabytes.',
      measure: 'watch.spool',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: 100e6, critical: 1e9, back: 50e6, persistence: ofLast(2, 3) },
  ),
  level(
    {
      key: 'database-slow',
      name: 'The database answers slowly',
      why: 'It answers in a millisecond; a second is a disk that fails or is full.',
      measure: 'watch.answer',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: 1000, critical: null, back: 500, persistence: ofLast(3, 5) },
  ),
  level(
    {
      key: 'heartbeat-missed',
      name: 'A heartbeat is missed',
      why: 'Three in a row are no lost packet: the other side, or the way there, is down.',
      measure: 'watch.heartbeat',
      scope: of('selfMonitoring'),
    },
    'above',
    { warning: null, critical: 2, persistence: ofLast(1, 1) },
  ),
  // What devices say
  {
    kind: 'text',
    key: 'device-alarmed',
    name: 'A device reports an emergency in its log',
    why: 'Emergency, alert and critical are the three that RFC 5424 keeps for what cannot wait.',
    scope: of(null),
    pattern: '*',
    atMost: 2,
    count: 1,
    windowMs: 15 * MINUTE,
    severity: 'warning',
  },
]
