import { attributeName } from '../disks/attributes.ts'
import { formatElapsed, formatValue, type Unit } from '../units/index.ts'

export const MEASURE_GROUPS = [
  'Health',
  'Temperature',
  'Fans',
  'Power',
  'Battery',
  'Processor',
  'Memory',
  'Drives',
  'Space',
  'Network',
  'Climate',
  'Reachability',
  'Watching',
] as const
export type MeasureGroup = (typeof MEASURE_GROUPS)[number]

export interface Measure {
  readonly label: string
  readonly unit: Unit
  /** A counter is a running total. */
  readonly kind: 'gauge' | 'counter' | 'state'
  readonly decimals: number
  readonly group: MeasureGroup
  /** Words for the values of a state. */
  readonly states?: Readonly<Record<number, string>>
  /** What can be a reading of it, in its own unit; `null` where there is no bound. */
  readonly range?: { readonly low: number | null; readonly high: number | null }
}

const gauge = (label: string, unit: Unit, decimals: number, group: MeasureGroup): Measure => ({
  label,
  unit,
  kind: 'gauge',
  decimals,
  group,
})
const state = (label: string, group: MeasureGroup, states: Record<number, string>): Measure => ({
  label,
  unit: 'state',
  kind: 'state',
  decimals: 0,
  group,
  states,
})

/**
 * Everything that can be read. Keys follow the OpenTelemetry semantic conventions (`hw.*`, `system.*`) where they
 * have one; the others are ours. States of UPS measures carry the numbers of RFC 1628, those of `hw.status` the
 * order of severity of Redfish `Status.Health`.
 */
export const MEASURES = {
  'hw.status': state('Health', 'Health', { 0: 'well', 1: 'degraded', 2: 'failed' }),
  'hw.power.state': state('Power state', 'Health', { 0: 'off', 1: 'on' }),
  'hw.temperature': gauge('Temperature', 'celsius', 1, 'Temperature'),
  'hw.fan.speed': gauge('Fan speed', 'rpm', 0, 'Fans'),
  'hw.power': gauge('Power', 'watt', 0, 'Power'),
  'hw.power.alone': gauge('Power, feed lost', 'watt', 0, 'Power'),
  'hw.voltage': gauge('Voltage', 'volt', 1, 'Power'),
  'hw.frequency': gauge('Frequency', 'hertz', 1, 'Power'),
  'hw.drive.predicted_failure': state('Predicted failure', 'Drives', { 0: 'none', 1: 'predicted' }),
  'hw.drive.life_left': gauge('Life left', 'ratio', 0, 'Drives'),
  'hw.drive.spare': gauge('Spare left', 'ratio', 0, 'Drives'),
  'hw.drive.media_errors': gauge('Media errors', 'count', 0, 'Drives'),
  'hw.drive.reallocated': gauge('Reallocated sectors', 'count', 0, 'Drives'),
  'hw.drive.pending': gauge('Sectors that wait to be reallocated', 'count', 0, 'Drives'),
  'hw.drive.link_errors': gauge('Errors on its cable', 'count', 0, 'Drives'),
  'hw.drive.written': gauge('Written so far', 'byte', 1, 'Drives'),
  'hw.drive.power_on': gauge('Powered on for', 'hour', 0, 'Drives'),
  'hw.drive.used': gauge('Endurance used', 'ratio', 0, 'Drives'),
  'hw.drive.spare_margin': gauge('Spare above its threshold', 'ratio', 0, 'Drives'),
  'hw.drive.read_only': state('Writing', 'Drives', { 0: 'writable', 1: 'read-only' }),
  'hw.drive.role': state('Role in its group', 'Drives', {
    0: 'in its group',
    1: 'spare',
    2: 'rebuilding',
    3: 'in a degraded group',
    4: 'in a failed group',
    5: 'failed',
    6: 'in no group',
    7: 'of another array',
  }),
  'hw.drive.uncorrectable': gauge('Uncorrectable errors', 'count', 0, 'Drives'),
  'hw.drive.read': gauge('Read so far', 'byte', 1, 'Drives'),
  'hw.drive.commands.read': gauge('Read commands', 'count', 0, 'Drives'),
  'hw.drive.commands.written': gauge('Write commands', 'count', 0, 'Drives'),
  'hw.drive.busy': gauge('Busy with commands for', 'minute', 0, 'Drives'),
  'hw.drive.power_cycles': gauge('Power cycles', 'count', 0, 'Drives'),
  'hw.drive.unsafe_shutdowns': gauge('Unsafe shutdowns', 'count', 0, 'Drives'),
  'hw.drive.error_entries': gauge('Entries in its error log', 'count', 0, 'Drives'),
  'hw.drive.warm': gauge('Above its warning temperature for', 'minute', 0, 'Drives'),
  'hw.drive.hot': gauge('Above its critical temperature for', 'minute', 0, 'Drives'),
  'ups.output.source': state('Output source', 'Power', {
    1: 'other',
    2: 'none',
    3: 'mains',
    4: 'bypass',
    5: 'battery',
    6: 'booster',
    7: 'reducer',
  }),
  'ups.output.load': gauge('Load', 'ratio', 0, 'Power'),
  'ups.faults': gauge('Alarms of the UPS itself', 'count', 0, 'Health'),
  'ups.battery.status': state('Battery status', 'Battery', {
    1: 'unknown',
    2: 'normal',
    3: 'low',
    4: 'depleted',
  }),
  'hw.battery.charge': gauge('Charge', 'ratio', 0, 'Battery'),
  'ups.battery.minutes_left': gauge('Minutes left', 'minute', 0, 'Battery'),
  'ups.battery.age': gauge('Age', 'day', 0, 'Battery'),
  'ups.battery.seconds_on': gauge('Time on battery', 'second', 0, 'Battery'),
  'hw.current': gauge('Current', 'ampere', 2, 'Power'),
  'hw.energy': gauge('Energy', 'kilowattHour', 1, 'Power'),
  'hw.power.apparent': gauge('Apparent power', 'voltAmpere', 0, 'Power'),
  'hw.power.factor': gauge('Power factor', 'one', 2, 'Power'),
  'hw.humidity': gauge('Relative humidity', 'ratio', 0, 'Climate'),
  'hw.pressure': gauge('Pressure', 'bar', 2, 'Climate'),
  'hw.flow': gauge('Flow', 'litrePerMinute', 1, 'Climate'),
  'hw.valve': gauge('Valve position', 'ratio', 0, 'Climate'),
  'hw.setpoint': gauge('Setpoint', 'celsius', 1, 'Climate'),
  'hw.compressor.hours': gauge('Compressor hours', 'hour', 0, 'Climate'),
  'hw.airflow': gauge('Airflow', 'cubicMetrePerHour', 0, 'Climate'),
  'hw.leak': state('Leak', 'Climate', { 0: 'dry', 1: 'small leak', 2: 'leak' }),
  'hw.door': state('Door', 'Climate', { 0: 'closed', 1: 'open' }),
  'hw.outlet.state': state('Outlet', 'Power', { 0: 'off', 1: 'on' }),
  'hw.fan.speed_ratio': gauge('Fan speed', 'ratio', 0, 'Fans'),
  'hw.errors': gauge('Error code', 'count', 0, 'Health'),
  'hw.network.up': state('Link', 'Network', { 0: 'down', 1: 'up' }),
  'hw.network.io.receive': gauge('Received', 'bytePerSecond', 0, 'Network'),
  'hw.network.io.transmit': gauge('Sent', 'bytePerSecond', 0, 'Network'),
  'hw.network.errors': gauge('Errors', 'perSecond', 2, 'Network'),
  'hw.network.bandwidth.utilization': gauge('Bandwidth used', 'ratio', 1, 'Network'),
  'system.filesystem.inodes.utilization': gauge('Inodes used', 'ratio', 1, 'Space'),
  'system.volume.claim': state('Claim', 'Space', { 0: 'bound', 1: 'pending', 2: 'lost' }),
  'hw.pool.promise.utilization': gauge('Promised', 'ratio', 0, 'Space'),
  'hw.pool.promise.usage': gauge('Promised space', 'byte', 0, 'Space'),
  'system.disk.io.read': gauge('Read from disk', 'bytePerSecond', 0, 'Space'),
  'system.disk.io.write': gauge('Written to disk', 'bytePerSecond', 0, 'Space'),
  'hw.fuel': gauge('Fuel', 'ratio', 0, 'Power'),
  'hw.signal': gauge('Signal strength', 'decibelMilliwatt', 0, 'Reachability'),
  'net.reachable': state('Service', 'Reachability', { 0: 'not reached', 1: 'reached' }),
  'net.response_time': gauge('Response time', 'millisecond', 1, 'Reachability'),
  'net.loss': gauge('Lost', 'ratio', 0, 'Reachability'),
  'net.certificate.days_left': gauge('Certificate valid for', 'day', 0, 'Reachability'),
  'system.uptime': gauge('Up for', 'second', 0, 'Health'),
  'system.process.count': gauge('Processes', 'count', 0, 'Processor'),
  'system.paging.utilization': gauge('Swap use', 'ratio', 1, 'Memory'),
  'system.paging.usage': gauge('Swap used', 'byte', 0, 'Memory'),
  'system.cpu.utilization': gauge('Processor use', 'ratio', 1, 'Processor'),
  'host.cpu.guests': gauge('Used by guests', 'ratio', 1, 'Processor'),
  'host.cpu.hypervisor': gauge('Used by hypervisor', 'ratio', 1, 'Processor'),
  'system.cpu.less_largest': gauge('Processor, host lost', 'ratio', 1, 'Processor'),
  'system.memory.less_largest': gauge('Memory, host lost', 'ratio', 1, 'Memory'),
  'system.memory.utilization': gauge('Memory use', 'ratio', 1, 'Memory'),
  'system.memory.usage': gauge('Memory used', 'byte', 0, 'Memory'),
  'system.memory.limit': gauge('Memory', 'byte', 0, 'Memory'),
  'system.filesystem.utilization': gauge('Space used', 'ratio', 1, 'Space'),
  'system.filesystem.usage': gauge('Used', 'byte', 0, 'Space'),
  'system.filesystem.limit': gauge('Capacity', 'byte', 0, 'Space'),
  // Of the watching itself.
  'watch.collector': state('Collector', 'Watching', { 0: 'not heard', 1: 'at work' }),
  'watch.sources': gauge('Sources read', 'count', 0, 'Watching'),
  'watch.delay': gauge('From reading to judged', 'millisecond', 0, 'Watching'),
  'watch.clock': gauge('Clock is off by', 'second', 0, 'Watching'),
  'watch.spool': gauge('Waits on disk', 'byte', 0, 'Watching'),
  'watch.answer': gauge('Answers in', 'millisecond', 1, 'Watching'),
  'watch.disk': gauge('Disk used', 'ratio', 1, 'Watching'),
  'watch.disk.usage': gauge('Used on its disk', 'byte', 0, 'Watching'),
  'watch.disk.limit': gauge('Size of its disk', 'byte', 0, 'Watching'),
  'watch.stuck': gauge('Stuck for', 'second', 0, 'Watching'),
  'watch.untried': gauge('Not tried for', 'second', 0, 'Watching'),
  'watch.messages': gauge('Messages waiting', 'count', 0, 'Watching'),
  'watch.heartbeat': gauge('Heartbeats missed', 'count', 0, 'Watching'),
} as const satisfies Record<string, Measure>

export type MeasureKey = keyof typeof MEASURES

/**
 * What a gear tells of itself as a whole, and of each of its parts: where it does both, the whole is what is judged. One
 * busy core of sixty-four is no trouble; sixty-four busy cores are one.
 */
export const JUDGED_AS_WHOLE: readonly MeasureKey[] = ['system.cpu.utilization']

/** Measures of the site beside those that ship. They are of the whole process: a measure means the same everywhere. */
const ownMeasures = new Map<string, Measure>()

/** Takes the place of all own measures that were known; called at start, and when somebody has changed one. */
export function setOwnMeasures(measures: Iterable<Measure & { readonly key: string }>): void {
  ownMeasures.clear()
  for (const { key, ...measure } of measures) ownMeasures.set(key, measure)
}

/** All keys: those that ship in the order of the catalogue, then the site's own. */
export const measureKeys = (): MeasureKey[] =>
  [...Object.keys(MEASURES), ...ownMeasures.keys()] as MeasureKey[]

export const isMeasureKey = (key: string): key is MeasureKey =>
  Object.hasOwn(MEASURES, key) || ownMeasures.has(key) || attributeMeasure(key) !== null

/**
 * The attributes of ATA drives, of which there are 255: `hw.drive.attribute.N` is what attribute N counts, with `.value`
 * behind it the value that its maker holds against the threshold.
 */
function attributeMeasure(key: string): Measure | null {
  const [, id, value] = /^hw\.drive\.attribute\.([1-9]\d{0,2})(\.value)?$/.exec(key) ?? []
  if (id === undefined || Number(id) > 255) return null
  const name = attributeName(Number(id))
  const label = `Attribute ${id}${name === null ? '' : `, ${name}`}`
  return gauge(
    value === undefined ? label : `${label}: value`,
    value === undefined ? 'count' : 'one',
    0,
    'Drives',
  )
}

/** The catalogue's entry with its optional fields visible. What is stored of a measure that is gone has its key as its name. */
export const measureOf = (key: MeasureKey): Measure =>
  (MEASURES as Readonly<Record<string, Measure>>)[key] ??
  ownMeasures.get(key) ??
  attributeMeasure(key) ??
  gone(key)

const gone = (key: string): Measure => gauge(key, 'count', 2, 'Health')

/** Ratios that go beyond the whole: a UPS or a fan may do more than it was made for. */
const BEYOND: ReadonlySet<string> = new Set<MeasureKey>([
  'ups.output.load',
  'hw.fan.speed_ratio',
  'hw.drive.used',
])

/** The most that a measure can be, in its own unit; `Infinity` where nothing is known. */
export const ceilingOf = (key: MeasureKey): number =>
  Object.hasOwn(MEASURES, key) && measureOf(key).unit === 'ratio' && !BEYOND.has(key)
    ? 1
    : (measureOf(key).range?.high ?? Infinity)

/** The smallest step that is shown of a measure, in its own unit. A ratio is shown as percent. */
export function resolutionOf(key: MeasureKey): number {
  const { unit, decimals } = measureOf(key)
  return 10 ** -(unit === 'ratio' ? decimals + 2 : decimals)
}

/** From here on nobody counts in seconds. */
const LONG_S = 120

/** A value in words: a state by its name, a gauge with its unit; a long time as `27 min`, `19 d 4 h`. A state outside the catalogue keeps its number. */
export function formatReading(key: MeasureKey, value: number): string {
  const measure = measureOf(key)
  if (measure.kind === 'state') return measure.states?.[value] ?? `state ${value}`
  if (measure.unit === 'second' && value >= LONG_S) return formatElapsed(value * 1000)
  return formatValue(value, measure.unit, measure.decimals)
}
