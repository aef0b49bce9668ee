import { describe, expect, test } from 'vitest'
import { decodeExport, encodeExport, type ExportRequest, momentsOf } from './index.ts'
import { placeOf } from './conventions.ts'

type Metric = ExportRequest['resourceMetrics'][number]['scopeMetrics'][number]['metrics'][number]
type Given = Record<string, string>

const attributes = (entries: Given) =>
  Object.entries(entries).map(([key, stringValue]) => ({ key, value: { stringValue } }))
const point = (value: number, given: Given, atS: number, startS?: number) => ({
  timeUnixNano: `${atS}000000000`,
  ...(startS === undefined ? {} : { startTimeUnixNano: `${startS}000000000` }),
  asDouble: value,
  attributes: attributes(given),
})
const gauge = (name: string, ...points: [value: number, given: Given][]): Metric => ({
  name,
  unit: '1',
  gauge: { dataPoints: points.map(([value, given]) => point(value, given, 100)) },
})
const request = (resource: Given, ...metrics: Metric[]): ExportRequest => ({
  resourceMetrics: [{ resource: { attributes: attributes(resource) }, scopeMetrics: [{ metrics }] }],
})
const HOST = { 'host.name': 'skerry-01' }
function read(...metrics: Metric[]) {
  const [moment] = momentsOf(request(HOST, ...metrics))
  if (moment === undefined) return { gear: [], values: {}, counters: [] }
  const { gear, readings, counters = [] } = moment.findings
  const values = Object.fromEntries(
    readings.map((each) => [`${each.part ?? ''} ${each.measure}`.trim(), each.value]),
  )
  return { gear, values, counters }
}

describe('a host by the semantic conventions alone', () => {
  test('is a gear by its name when it brings something that is read', () => {
    const { gear } = read(gauge('system.memory.utilization', [0.4, {}]))
    expect(gear).toMatchObject([{ key: 'skerry-01', kind: 'host', name: 'skerry-01' }])
    expect(momentsOf(request(HOST, gauge('http.server.active_requests', [3, {}])))).toEqual([])
  })
  test.each([
    [
      'newer names',
      { 'cpu.mode': 'idle', 'cpu.logical_number': '0' },
      { 'cpu.mode': 'user', 'cpu.logical_number': '0' },
    ],
    [
      'older names',
      { 'system.cpu.state': 'idle', 'system.cpu.logical_number': '0' },
      { 'system.cpu.state': 'user' },
    ],
    ['oldest names', { state: 'idle', cpu: '0' }, { state: 'user', cpu: '0' }],
  ])('processors are busy where they are not idle, and the host by their mean (%s)', (_, idle, user) => {
    const other = { ...idle, [Object.keys(idle)[1]!]: '1' }
    const { values, gear } = read(gauge('system.cpu.utilization', [0.9, idle], [0.05, user], [0.5, other]))
    expect(values['processor 0 system.cpu.utilization']).toBeCloseTo(0.1)
    expect(values['processor 1 system.cpu.utilization']).toBeCloseTo(0.5)
    expect(values['system.cpu.utilization']).toBeCloseTo(0.3)
    expect(gear[0]?.parts.map((part) => part.kind)).toEqual(['processor', 'processor'])
  })
  test('what is read and written counts where it is told of all disks, not of a disk and its partitions', () => {
    const io = (direction: string, device = '') =>
      placeOf(
        'system.disk.io',
        new Map(Object.entries({ 'disk.io.direction': direction, 'system.device': device })),
      )
    expect(io('write')).toEqual({ measure: 'system.disk.io.write', part: null, isCount: true })
    expect(io('read')?.measure).toBe('system.disk.io.read')
    expect(io('write', 'sda1')).toBeNull()
    expect(io('both')).toBeNull()
  })
  test('memory counts what is used, and file systems are parts', () => {
    const { values, gear } = read(
      gauge(
        'system.memory.usage',
        [6e9, { 'system.memory.state': 'used' }],
        [2e9, { 'system.memory.state': 'free' }],
      ),
      gauge(
        'system.filesystem.utilization',
        [0.7, { 'system.filesystem.mountpoint': '/var', 'system.filesystem.state': 'used' }],
        [0.3, { 'system.filesystem.mountpoint': '/var', 'system.filesystem.state': 'free' }],
      ),
    )
    expect(values).toEqual({
      'system.memory.usage': 6e9,
      'filesystem /var system.filesystem.utilization': 0.7,
    })
    expect(gear[0]?.parts).toMatchObject([{ kind: 'filesystem', name: '/var' }])
  })
  test('hardware is a part by `hw.type`, the host is the gear itself', () => {
    const { values, gear } = read(
      gauge('hw.temperature', [41, { 'hw.id': 't1', 'hw.type': 'temperature', 'hw.name': 'Inlet' }]),
      gauge('hw.fan.speed', [5200, { 'hw.id': 'f1' }]),
      gauge(
        'hw.power',
        [310, { 'hw.id': 'x', 'hw.type': 'host' }],
        [150, { 'hw.id': 'p1', 'hw.type': 'power_supply' }],
      ),
    )
    expect(values).toEqual({
      'sensor t1 hw.temperature': 41,
      'fan f1 hw.fan.speed': 5200,
      'hw.power': 310,
      'supply p1 hw.power': 150,
    })
    expect(gear[0]?.parts.find((part) => part.key === 'sensor t1')?.name).toBe('Inlet')
  })
})

describe('counts', () => {
  const io = (temporality: number, value: number, startS?: number): Metric => ({
    name: 'system.network.io',
    unit: 'By',
    sum: {
      aggregationTemporality: temporality,
      dataPoints: [
        point(value, { 'network.interface.name': 'eth0', 'network.io.direction': 'receive' }, 100, startS),
      ],
    },
  })
  test('that are cumulative stay counts, with how long they count', () => {
    const { counters, values } = read(io(2, 12_345, 40))
    expect(values).toEqual({})
    expect(counters).toEqual([
      {
        gear: 'skerry-01',
        part: 'port eth0',
        measure: 'hw.network.io.receive',
        value: '12345',
        bits: 64,
        countingMs: 60_000,
      },
    ])
  })
  test('that are deltas are rates by themselves', () => {
    expect(read(io(1, 6000, 40)).values).toEqual({ 'port eth0 hw.network.io.receive': 100 })
    expect(read(io(1, 6000)).values).toEqual({ 'port eth0 hw.network.io.receive': null })
  })
  test('a delta of something that is not counted is passed over', () => {
    const metric: Metric = {
      name: 'system.memory.usage',
      unit: 'By',
      sum: { aggregationTemporality: 1, dataPoints: [point(5, {}, 100)] },
    }
    expect(read(metric).values).toEqual({})
  })
})

test('several resources of one host are one gear with all of its parts', () => {
  const all: ExportRequest = {
    resourceMetrics: [
      ...request(HOST, gauge('hw.fan.speed', [1, { 'hw.id': 'a' }])).resourceMetrics,
      ...request(HOST, gauge('hw.fan.speed', [2, { 'hw.id': 'b' }])).resourceMetrics,
    ],
  }
  const [moment] = momentsOf(all)
  expect(moment?.findings.gear).toHaveLength(1)
  expect(moment?.findings.gear[0]?.parts.map((part) => part.key)).toEqual(['fan a', 'fan b'])
})

describe('distributions', () => {
  const spread = (count: string, sum: number | undefined) => ({
    timeUnixNano: '100000000000',
    count,
    ...(sum === undefined ? {} : { sum }),
    attributes: attributes({ 'hw.id': 'p1', 'hw.type': 'power_supply' }),
  })
  const types = ['histogram', 'exponentialHistogram', 'summary'] as const
  test.each(types)('%s, cumulative: how many and what they come to, in both encodings', (type) => {
    const metric = {
      name: 'hw.voltage',
      unit: 'V',
      [type]: { aggregationTemporality: 2, dataPoints: [spread('3', 690)] },
    }
    const sent = request(HOST, metric)
    for (const given of [sent, decodeExport(encodeExport(sent), 'protobuf', false, 1 << 20)]) {
      const [moment] = momentsOf(given)
      expect(moment!.findings.means).toEqual([
        { gear: 'skerry-01', part: 'supply p1', measure: 'hw.voltage', count: 3, sum: 690 },
      ])
    }
  })
  test('delta: the mean of each point; none of nothing, or without a sum', () => {
    const metric = (count: string, sum?: number): Metric => ({
      name: 'hw.voltage',
      unit: 'V',
      histogram: { aggregationTemporality: 1, dataPoints: [spread(count, sum)] },
    })
    expect(read(metric('2', 460)).values).toEqual({ 'supply p1 hw.voltage': 230 })
    expect(read(metric('0', 0)).values).toEqual({ 'supply p1 hw.voltage': null })
    expect(read(metric('2')).values).toEqual({})
  })
})
