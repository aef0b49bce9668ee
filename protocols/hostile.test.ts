import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { readDrivePage } from '#core/disks'
import { decodeAnswer, FrameError, frameLength, ModbusException } from '#protocols/modbus'
import { DocumentError, parseDocument } from '#protocols/openmetrics'
import { decodeExport, momentsOf, PayloadError } from '#protocols/otlp'
import { findingsOf, MissingDocument, walk } from '#protocols/redfish'
import { ShapeError } from './redfish/walk.ts'
import { agentFindings } from './snmp/agent.ts'
import { SyslogFrames, FramingError, parseSyslog } from '#protocols/syslog'
import { trapOf } from '#protocols/snmp'
import type { Value } from './snmp/session.ts'
import { sized } from '../core/testing/size.ts'

// Whatever a far side sends: an answer in words or findings that hold together, never a crash, never without end.

const RUNS = sized(1000, 10_000)

describe('Redfish', () => {
  const NAMES = [
    '@odata.id',
    'Members',
    'Members@odata.nextLink',
    'Systems',
    'Chassis',
    'PowerEquipment',
    'ThermalEquipment',
    'RackPDUs',
    'CDUs',
    'Outlets',
    'Pumps',
    'Links',
    'Storage',
    'Drives',
    'Processors',
    'Memory',
    'Thermal',
    'Power',
    'Fans',
    'Temperatures',
    'ThermalSubsystem',
    'PowerSubsystem',
    'PowerSupplies',
    'Sensors',
    'Metrics',
    'Status',
    'Health',
    'State',
    'Id',
    'Name',
    'Reading',
    'ReadingType',
    'UUID',
    'SerialNumber',
    'RelatedItem',
    'LeakDetection',
    'LeakDetectors',
    'EnvironmentMetrics',
    'SpeedPercent',
    'DataSourceUri',
    'ProtocolFeaturesSupported',
  ]
  const uri = fc.constantFrom('/redfish/v1/', '/a', '/b', '/c', '/d')
  const { document } = fc.letrec((tie) => ({
    value: fc.oneof(
      { depthSize: 'small' },
      fc.constantFrom(null, '', 'OK', 'Absent', 'RPM', 'Temperature', true, 0, -1, 1e308, Number.NaN),
      uri,
      fc.record({ '@odata.id': uri }),
      fc.array(tie('document'), { maxLength: 3 }),
      tie('document'),
    ),
    document: fc.dictionary(fc.constantFrom(...NAMES), tie('value'), { maxKeys: 8 }),
  }))
  test('services of any documents, with links in circles', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(document, { minLength: 5, maxLength: 5 }), async (documents) => {
        const paths = ['/redfish/v1/', '/a', '/b', '/c', '/d']
        let asked = 0
        try {
          const found = findingsOf(
            await walk((path) => {
              asked += 1
              const given = documents[paths.indexOf(path)] as Record<string, unknown> | undefined
              return given === undefined
                ? Promise.reject(new MissingDocument(path))
                : Promise.resolve({ '@odata.id': path, Id: path, ...given })
            }),
          )
          const keys = new Set(found.gear.map((gear) => gear.key))
          for (const reading of found.readings) expect(keys.has(reading.gear)).toBe(true)
          for (const gear of found.gear)
            expect(new Set(gear.parts.map((part) => part.key)).size).toBe(gear.parts.length)
        } catch (error) {
          expect(error).toBeInstanceOf(ShapeError)
        }
        expect(asked).toBeLessThan(20_000)
      }),
      { numRuns: RUNS },
    )
  }, 120_000)
})

describe('SNMP', () => {
  const trees = [
    '1.3.6.1.2.1.1',
    '1.3.6.1.2.1.33.1.1',
    '1.3.6.1.2.1.33.1.2',
    '1.3.6.1.2.1.33.1.3.3.1',
    '1.3.6.1.2.1.33.1.4',
    '1.3.6.1.2.1.33.1.6.2.1',
    '1.3.6.1.2.1.25.1',
    '1.3.6.1.2.1.25.2.3.1',
    '1.3.6.1.2.1.25.3.3.1',
    '1.3.6.1.2.1.2.2.1',
    '1.3.6.1.2.1.31.1.1.1',
    '1.3.6.1.2.1.47.1.1.1.1',
    '1.3.6.1.2.1.99.1.1.1',
  ]
  const value: fc.Arbitrary<Value> = fc.oneof(
    fc.integer(),
    fc.double(),
    fc.constantFrom(Number.NaN, Infinity, -Infinity),
    fc.string(),
    fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }),
    fc.uint8Array({ maxLength: 12 }).map((bytes) => Buffer.from(bytes)),
    fc.constantFrom('1.3.6.1.2.1.25.2.1.2', '1.3.6.1.2.1.25.2.1.4', '1.3.6.1.2.1.33.1.6.3.1'),
  )
  const oid = fc
    .tuple(fc.constantFrom(...trees), fc.nat(22), fc.nat(3), fc.option(fc.nat(2)))
    .map(([tree, column, row, more]) => [tree, column, row, ...(more === null ? [] : [more])].join('.'))
  test('objects of any kind at any place', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(oid, value), { maxLength: 60 }), (objects) => {
        const found = agentFindings(new Map(objects))
        if (found === null) return
        const keys = new Set(
          found.gear.flatMap(({ key, parts }) => [key, ...parts.map((part) => `${key}\n${part.key}`)]),
        )
        for (const { gear, part, value: given } of [...found.readings]) {
          expect(keys.has(part === null ? gear : `${gear}\n${part}`)).toBe(true)
          expect(Number.isNaN(given)).toBe(false)
        }
        for (const { value: count } of found.counters ?? []) expect(BigInt(count)).toBeGreaterThanOrEqual(0n)
        for (const { parts } of found.gear)
          expect(new Set(parts.map((part) => part.key)).size).toBe(parts.length)
      }),
      { numRuns: RUNS },
    )
  }, 120_000)
})

describe('OTLP', () => {
  test('any bytes as protobuf, and as JSON', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 400 }),
        fc.boolean(),
        fc.boolean(),
        (bytes, isJson, isSqueezed) => {
          try {
            momentsOf(decodeExport(Buffer.from(bytes), isJson ? 'json' : 'protobuf', isSqueezed, 1 << 20))
          } catch (error) {
            expect(error).toBeInstanceOf(PayloadError)
          }
        },
      ),
      { numRuns: RUNS },
    )
  }, 120_000)
  test('JSON of nearly the right shape', () => {
    const scalar = fc.oneof(fc.string(), fc.integer(), fc.double(), fc.constant(null), fc.boolean())
    const point = fc.dictionary(
      fc.constantFrom('timeUnixNano', 'asDouble', 'asInt', 'attributes', 'x'),
      scalar,
    )
    const metric = fc.record({
      name: fc.constantFrom('hw.power', 'system.cpu.utilization', 'other'),
      gauge: fc.oneof(scalar, fc.record({ dataPoints: fc.oneof(scalar, fc.array(point, { maxLength: 3 })) })),
    })
    const attribute = fc.record({
      key: fc.constantFrom('rack.kind', 'host.id', 'host.name', 'rack.store.ids'),
      value: fc.oneof(scalar, fc.record({ stringValue: scalar })),
    })
    const body = fc.record({
      resourceMetrics: fc.array(
        fc.record({
          resource: fc.record({ attributes: fc.oneof(scalar, fc.array(attribute, { maxLength: 4 })) }),
          scopeMetrics: fc.array(fc.record({ metrics: fc.array(metric, { maxLength: 3 }) }), {
            maxLength: 2,
          }),
        }),
        { maxLength: 2 },
      ),
    })
    fc.assert(
      fc.property(body, (given) => {
        try {
          momentsOf(decodeExport(Buffer.from(JSON.stringify(given)), 'json', false, 1 << 20))
        } catch (error) {
          expect(error).toBeInstanceOf(PayloadError)
        }
      }),
      { numRuns: RUNS },
    )
  }, 120_000)
})

describe('OpenMetrics', () => {
  const PIECES = [
    ...[
      'a',
      'b',
      '_total',
      '_bucket',
      '_created',
      '_count',
      '_info',
      '{',
      '}',
      '="',
      '"',
      '\\',
      '\\n',
      ',',
      ' ',
      '\n',
    ],
    ...[
      '# TYPE a counter\n',
      '# TYPE a histogram\n',
      '# TYPE b summary\n',
      '# UNIT a a\n',
      '# HELP b x\n',
      '# EOF\n',
    ],
    ...[
      '1',
      '-1',
      '.5',
      'NaN',
      '+Inf',
      '1e9',
      'le="1"',
      'le="+Inf"',
      'quantile="0.5"',
      ' # {} 1',
      '\u00e9',
      '\t',
      '\r',
    ],
  ]
  const text = fc
    .array(fc.constantFrom(...PIECES), { maxLength: 60 })
    .map((pieces) => Buffer.from(pieces.join('')))
  test('pieces of the grammar in any order, and any bytes', () => {
    fc.assert(
      fc.property(
        fc.oneof(text, fc.uint8Array({ maxLength: 300 })),
        fc.constantFrom('openmetrics' as const, 'plain' as const),
        (bytes, form) => {
          try {
            for (const { samples } of parseDocument(bytes, form))
              for (const { value, line } of samples) {
                expect(typeof value).toBe('number')
                expect(line).toBeGreaterThan(0)
              }
          } catch (error) {
            expect(error).toBeInstanceOf(DocumentError)
          }
        },
      ),
      { numRuns: RUNS },
    )
  }, 120_000)
  test('a document of long lines is read in time that grows with its length', () => {
    // Of the processor, the least of three: what else the machine does at the same time does not count.
    const time = (length: number): number => {
      const body = Buffer.from(`a{b="${'x\\\\'.repeat(length)}"} 1\n`)
      const once = (): number => {
        const before = process.cpuUsage()
        for (let round = 0; round < 5; round += 1) parseDocument(body, 'plain')
        const { user, system } = process.cpuUsage(before)
        return (user + system) / 1000
      }
      return Math.min(once(), once(), once())
    }
    time(50_000)
    // Twenty times as long: far from four hundred times as slow. What is long no longer lies in the caches of a processor.
    expect(time(400_000)).toBeLessThan(200 * Math.max(1, time(20_000)))
  })
})

describe('Modbus', () => {
  test('any bytes as an answer', () => {
    const header = fc.constantFrom('150100000005ff04', '15010000', '150100000003ff84', '1501000000fdff01')
    fc.assert(
      fc.property(
        header,
        fc.uint8Array({ maxLength: 260 }),
        fc.constantFrom('coil' as const, 'input' as const),
        fc.integer({ min: 1, max: 125 }),
        fc.boolean(),
        (head, rest, table, count, isCounted) => {
          const frame = Buffer.concat([Buffer.from(head, 'hex'), rest])
          // As if it had as many octets as were asked for.
          if (isCounted && rest.length > 0) frame[8] = table === 'coil' ? Math.ceil(count / 8) : count * 2
          try {
            const length = frameLength(frame)
            const whole = length === null ? frame : frame.subarray(0, length)
            const values = decodeAnswer(whole, { transaction: 0x1501, unit: 0xff, table, address: 0, count })
            expect(values).toHaveLength(count)
          } catch (error) {
            expect(error instanceof FrameError || error instanceof ModbusException).toBe(true)
          }
        },
      ),
      { numRuns: RUNS },
    )
  }, 120_000)
})

describe('syslog', () => {
  const PIECES = [
    '<13>',
    '<999>',
    '1 ',
    '- ',
    '[a b="',
    '"]',
    '\\',
    ']',
    ' ',
    '2024-02-30T00:00:00Z ',
    'Oct 11 22:14:15 ',
    'host ',
    'app[1]: ',
    '\ufeff',
    '\u0000',
    '11 ',
  ]
  test('pieces of both forms in any order, and any bytes, also cut into a stream', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc
            .array(fc.constantFrom(...PIECES), { maxLength: 24 })
            .map((pieces) => Buffer.from(pieces.join(''))),
          fc.uint8Array({ maxLength: 300 }).map((bytes) => Buffer.from(bytes)),
        ),
        fc.nat(300),
        (bytes, cut) => {
          const { severity, facility, text } = parseSyslog(bytes)
          expect(severity >= 0 && severity <= 7 && facility >= 0 && facility <= 23).toBe(true)
          expect(text.length).toBeLessThanOrEqual(bytes.length)
          const frames = new SyslogFrames()
          try {
            for (const piece of [bytes.subarray(0, cut), bytes.subarray(cut)]) frames.take(piece)
            frames.finish()
          } catch (error) {
            expect(error).toBeInstanceOf(FramingError)
          }
        },
      ),
      { numRuns: RUNS },
    )
  }, 120_000)
})

test('SNMP notifications of any content', () => {
  const oid = fc.constantFrom('1.3.6.1.6.3.1.1.4.1.0', '1.3.6.1.2.1.1.3.0', '1.3.6.1.2.1.2.2.1.2.3', '', 'x')
  const value = fc.oneof(
    fc.string(),
    fc.integer(),
    fc.constantFrom(null, undefined, '1.3.6.1.2.1.33.2.1', '1.3.6.1.6.3.1.1.5.3'),
    fc.uint8Array({ maxLength: 40 }).map((bytes) => Buffer.from(bytes)),
  )
  const pdu = fc.record(
    {
      varbinds: fc.oneof(value, fc.array(fc.record({ oid: fc.oneof(oid, value), value }), { maxLength: 30 })),
      enterprise: value,
      generic: value,
      specific: value,
    },
    { requiredKeys: [] },
  )
  fc.assert(
    fc.property(pdu, (given) => {
      const { severity, text } = trapOf(given)
      expect(severity >= 0 && severity <= 7).toBe(true)
      expect(text.length).toBeLessThan(5000)
    }),
    { numRuns: RUNS },
  )
}, 120_000)

test('pages of drives of any content and length', () => {
  const sector = fc.uint8Array({ minLength: 512, maxLength: 512 })
  // As an ATA drive closes it: the sum of all octets is a multiple of 256.
  const summed = sector.map((octets) => {
    const sum = octets.subarray(0, 511).reduce((all, octet) => all + octet, 0)
    return octets.with(511, (256 - (sum % 256)) % 256)
  })
  const page = fc.oneof(summed, sector, fc.uint8Array({ maxLength: 600 }))
  fc.assert(
    fc.property(page, fc.option(page), fc.boolean(), (data, thresholds, isNvme) => {
      try {
        const { readings, facts } = readDrivePage(
          isNvme ? { kind: 'nvme-health', data } : { kind: 'ata-smart', data, thresholds },
        )
        for (const { value } of readings) expect(value === null || Number.isFinite(value)).toBe(true)
        for (const words of Object.values(facts)) expect(words.length).toBeLessThan(2000)
      } catch (error) {
        expect(error).toBeInstanceOf(RangeError)
      }
    }),
    { numRuns: RUNS },
  )
}, 120_000)
