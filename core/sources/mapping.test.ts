import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { type MappingLine, mapSeries, suggestLines, type ToldSeries } from './mapping.ts'

const told = (
  name: string,
  labels: Record<string, string>,
  value: number | null,
  rest: Partial<ToldSeries> = {},
) => ({
  name,
  labels,
  value,
  type: 'gauge',
  unit: '',
  help: '',
  countingSinceMs: null,
  ...rest,
})
const line = (rest: Partial<MappingLine>): MappingLine => ({
  metric: 'inlet_celsius',
  where: {},
  gear: '{host}',
  kind: 'server',
  part: '{sensor}',
  partKind: 'sensor',
  measure: 'hw.temperature',
  scale: 1,
  isCount: false,
  ...rest,
})
const INLETS = [
  told('inlet_celsius', { host: 'petrel-01', sensor: 'front' }, 21.5),
  told('inlet_celsius', { host: 'petrel-01', sensor: 'rear' }, 34),
  told('inlet_celsius', { host: 'petrel-02', sensor: 'front' }, null),
]

describe('a mapping', () => {
  test('gear and parts by their labels', () => {
    const { findings, lines, problems } = mapSeries(INLETS, [line({})], 0)
    expect(findings.gear.map(({ key, kind, parts }) => [key, kind, parts.map((part) => part.name)])).toEqual([
      ['petrel-01', 'server', ['front', 'rear']],
      ['petrel-02', 'server', ['front']],
    ])
    expect(findings.readings.map(({ gear, part, value }) => [gear, part, value])).toEqual([
      ['petrel-01', 'sensor front', 21.5],
      ['petrel-01', 'sensor rear', 34],
      ['petrel-02', 'sensor front', null],
    ])
    expect([lines, problems]).toEqual([[0, 0, 0], []])
  })
  test('the first line that fits counts; labels narrow it down', () => {
    const { lines } = mapSeries(
      INLETS,
      [
        line({ where: { sensor: 'rear' }, gear: 'rears', part: '{host}' }),
        line({ where: { host: 'petrel-01' } }),
      ],
      0,
    )
    expect(lines).toEqual([1, 0, null])
  })
  test('a factor, and a count with its beginning', () => {
    const count = told('rx_bytes_total', { host: 'a' }, 1234.5, { type: 'counter', countingSinceMs: 40_000 })
    const { findings } = mapSeries(
      [told('humidity_percent', { host: 'a' }, 44), count],
      [
        line({ metric: 'humidity_percent', measure: 'hw.humidity', scale: 0.01, part: '' }),
        line({ metric: 'rx_bytes_total', measure: 'hw.network.io.receive', isCount: true, part: '' }),
      ],
      100_000,
    )
    expect(findings.readings[0]!.value).toBeCloseTo(0.44, 12)
    expect(findings.counters).toEqual([
      {
        gear: 'a',
        part: null,
        measure: 'hw.network.io.receive',
        value: '1234500000',
        bits: 64,
        countingMs: 60_000,
        scale: 1e-6,
      },
    ])
  })
  test('what does not fit together is said, and nothing is there twice', () => {
    const { findings, problems } = mapSeries(INLETS, [line({ part: '' })], 0)
    expect(findings.readings).toHaveLength(2)
    expect(problems).toEqual([expect.stringMatching(/several series come to petrel-01; the first is kept/)])
    expect(mapSeries(INLETS, [line({ gear: '{rack}' })], 0).problems).toEqual([
      'inlet_celsius: a series has no label rack, so it has no place.',
    ])
    expect(mapSeries(INLETS, [line({ gear: '{constructor}' })], 0).findings.gear).toEqual([])
  })
  test('a count of +Inf is no count, and no end of the whole page', () => {
    const counted = line({ metric: 'a', gear: 'x', part: 'y', isCount: true, scale: 1 })
    const { findings } = mapSeries([told('a', {}, Infinity)], [counted], 0)
    expect(findings.counters?.map(({ value }) => value)).toEqual(['0'])
  })

  test('findings hold together whatever is told and mapped', () => {
    const word = fc.constantFrom('a', 'b', '', '__proto__')
    const series = fc
      .tuple(word, fc.dictionary(word, word), fc.double())
      .map(([name, labels, value]) => told(name, labels, value))
    const pattern = fc.constantFrom('x', '{a}', '{b} {a}', '{', '{}', '')
    const lines = fc
      .tuple(word, pattern, pattern, fc.boolean(), fc.double({ noNaN: true }))
      .map(([metric, gear, part, isCount, scale]) => line({ metric, gear, part, isCount, scale }))
    fc.assert(
      fc.property(fc.array(series, { maxLength: 12 }), fc.array(lines, { maxLength: 4 }), (all, mapping) => {
        const { findings } = mapSeries(all, mapping, 0)
        const keys = new Set(
          findings.gear.flatMap(({ key, parts }) => [key, ...parts.map((p) => `${key}\n${p.key}`)]),
        )
        const places = [...findings.readings, ...(findings.counters ?? [])].map(({ gear, part, measure }) => {
          expect(keys.has(part === null ? gear : `${gear}\n${part}`)).toBe(true)
          return JSON.stringify([gear, part, measure])
        })
        expect(new Set(places).size).toBe(places.length)
        for (const { value } of findings.counters ?? []) expect(BigInt(value)).toBeGreaterThanOrEqual(0n)
      }),
    )
  })
})

test('likely lines by the base units of names, with what tells the series apart', () => {
  const lines = suggestLines([...INLETS, told('other_thing', {}, 1), told('pump_watts', {}, 40)], 'kiosk')
  expect(lines.map(({ metric, gear, part, measure }) => [metric, gear, part, measure])).toEqual([
    ['inlet_celsius', '{host}', '{sensor}', 'hw.temperature'],
    ['pump_watts', 'kiosk', '', 'hw.power'],
  ])
})
