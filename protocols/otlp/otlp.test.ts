import fc from 'fast-check'
import { gzipSync } from 'node:zlib'
import { describe, expect, test } from 'vitest'
import { decodeExport, encodeExport, type ExportRequest, momentsOf, PayloadError } from './index.ts'

const LIMIT = 1024 * 1024
type Attribute = ExportRequest['resourceMetrics'][number]['resource']['attributes'][number]
const attributes = (entries: Record<string, string>): Attribute[] =>
  Object.entries(entries).map(([key, stringValue]) => ({ key, value: { stringValue } }))

function request(
  entries: Record<string, string>,
  points: { name: string; ms: number; value: number }[],
): ExportRequest {
  return {
    resourceMetrics: [
      {
        resource: { attributes: attributes(entries) },
        scopeMetrics: [
          {
            metrics: points.map(({ name, ms, value }) => ({
              name,
              unit: '1',
              gauge: {
                dataPoints: [{ timeUnixNano: `${BigInt(ms) * 1_000_000n}`, asDouble: value, attributes: [] }],
              },
            })),
          },
        ],
      },
    ],
  }
}
const host = {
  'rack.kind': 'server',
  'host.id': '6f1c2a4e-0b7d-4c55-9e10-000000000719',
  'host.name': 'petrel-07',
}

describe('both encodings say the same', () => {
  const points = fc.array(
    fc.record({
      name: fc.constantFrom('system.cpu.utilization', 'something.else', 'system.memory.usage'),
      ms: fc.integer({ min: 1, max: 4_000_000_000_000 }),
      value: fc.double({ noNaN: true, noDefaultInfinity: true }).map((value) => value + 0),
    }),
    { maxLength: 20 },
  )
  test('protobuf, gzip and JSON decode to one request', () => {
    fc.assert(
      fc.property(points, (given) => {
        const made = request(host, given)
        const binary = encodeExport(made)
        const json = Buffer.from(JSON.stringify(made))
        const expected = momentsOf(made)
        expect(momentsOf(decodeExport(binary, 'protobuf', false, LIMIT))).toEqual(expected)
        expect(momentsOf(decodeExport(gzipSync(binary), 'protobuf', true, LIMIT))).toEqual(expected)
        expect(momentsOf(decodeExport(json, 'json', false, LIMIT))).toEqual(expected)
      }),
    )
  })

  // Bytes laid down by hand from the protobuf wire format and metrics.proto: gauge(5) of one point, as_int(6) = 7,
  // time_unix_nano(3) = 1_000_000 ns = 1 ms.
  test('a message written byte by byte', () => {
    const point = [0x19, 0x40, 0x42, 0x0f, 0, 0, 0, 0, 0, 0x31, 7, 0, 0, 0, 0, 0, 0, 0]
    const wrap = (field: number, bytes: number[]): number[] => [(field << 3) | 2, bytes.length, ...bytes]
    const text = (field: number, value: string): number[] => wrap(field, [...Buffer.from(value)])
    const keyValue = (key: string, value: string): number[] =>
      wrap(1, [...text(1, key), ...wrap(2, text(1, value))])
    const resource = wrap(1, [...keyValue('rack.kind', 'store'), ...keyValue('host.id', 'b7')])
    const metric = wrap(2, [...text(1, 'system.filesystem.usage'), ...wrap(5, wrap(1, point))])
    const message = wrap(1, [...resource, ...wrap(2, metric)])
    const [moment] = momentsOf(decodeExport(Uint8Array.from(message), 'protobuf', false, LIMIT))
    expect(moment).toMatchObject({
      atMs: 1,
      findings: {
        gear: [{ kind: 'store', key: 'b7' }],
        readings: [{ measure: 'system.filesystem.usage', value: 7 }],
      },
    })
  })
})

describe('what cannot be read is refused with a reason', () => {
  test.each([
    {
      name: 'JSON cut short',
      body: Buffer.from('{"resourceMetrics":'),
      format: 'json',
      gzip: false,
      says: /not JSON/,
    },
    {
      name: 'JSON of another shape',
      body: Buffer.from('{"resourceMetrics":[{"scopeMetrics":3}]}'),
      format: 'json',
      gzip: false,
      says: /scopeMetrics/,
    },
    { name: 'not gzip', body: Buffer.from('plain'), format: 'protobuf', gzip: true, says: /not gzip/ },
    {
      name: 'a bomb',
      body: gzipSync(Buffer.alloc(8 * LIMIT)),
      format: 'protobuf',
      gzip: true,
      says: /unpacks to more/,
    },
    {
      name: 'not protobuf',
      body: Buffer.from([0xff, 0xff, 0xff, 0xff, 0xff]),
      format: 'protobuf',
      gzip: false,
      says: /not an OTLP protobuf/,
    },
  ] as const)('$name', ({ body, format, gzip, says }) => {
    expect(() => decodeExport(body, format, gzip, LIMIT)).toThrow(PayloadError)
    expect(() => decodeExport(body, format, gzip, LIMIT)).toThrow(says)
  })

  test('any bytes give a request or a reason, never another error', () => {
    const tries = (format: 'json' | 'protobuf') =>
      fc.assert(
        fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
          try {
            momentsOf(decodeExport(bytes, format, false, LIMIT))
          } catch (error) {
            expect(error).toBeInstanceOf(PayloadError)
          }
        }),
        { numRuns: 2000 },
      )
    tries('protobuf')
    tries('json')
  })
})

describe('resources and gear', () => {
  test('a host without a name of its own kind is no gear, and its metrics are passed over', () => {
    expect(
      momentsOf(request({ 'service.name': 'shop' }, [{ name: 'system.cpu.utilization', ms: 1, value: 1 }])),
    ).toEqual([])
  })
  test.each<{ entries: Record<string, string>; says: RegExp }>([
    { entries: { 'rack.kind': 'toaster', 'host.id': 'x' }, says: /toaster/ },
    { entries: { 'rack.kind': 'server' }, says: /no host\.id/ },
  ])('$says', ({ entries, says }) => {
    expect(() => momentsOf(request(entries, []))).toThrow(says)
  })
  // metrics.proto: a `time_unix_nano` of 0 is an unknown time, and proto3 leaves a 0 away.
  test('a point without a time is refused, in either encoding', () => {
    const made = request(host, [{ name: 'system.cpu.utilization', ms: 0, value: 1 }])
    const binary = decodeExport(encodeExport(made), 'protobuf', false, LIMIT)
    for (const each of [made, binary]) expect(() => momentsOf(each)).toThrow(/has no time/)
  })
  test('one instant is one moment; two are two, oldest first', () => {
    const moments = momentsOf(
      request(host, [
        { name: 'system.cpu.utilization', ms: 2000, value: 0.2 },
        { name: 'system.cpu.utilization', ms: 1000, value: 0.1 },
        { name: 'system.memory.usage', ms: 1000, value: 5 },
      ]),
    )
    expect(moments.map((moment) => [moment.atMs, moment.findings.readings.length])).toEqual([
      [1000, 2],
      [2000, 1],
    ])
  })
  test('what a machine runs on and stores on are links', () => {
    const [moment] = momentsOf(
      request({ ...host, 'rack.kind': 'machine', 'rack.host.id': 'h', 'rack.store.ids': 's1,s2' }, [
        { name: 'system.cpu.utilization', ms: 1, value: 1 },
      ]),
    )
    expect(
      moment?.findings.farLinks?.map(({ kind, gear, isFrom, far }) => {
        const other = far.identities[0]!.value
        return isFrom ? `${gear} ${kind} ${other}` : `${other} ${kind} ${gear}`
      }),
    ).toEqual([
      `h hosts ${host['host.id']}`,
      `${host['host.id']} stores-on s1`,
      `${host['host.id']} stores-on s2`,
    ])
  })
})
