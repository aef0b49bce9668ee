import fc from 'fast-check'
import { expect, test } from 'vitest'
import { parseSample, sampleHead, sampleTime, sampleValue } from './index.ts'

// Lines of the examples in the OpenMetrics 1.0 specification, “Text Format”.
test.each([
  {
    line: 'foo_seconds_count 17.0',
    sample: { name: 'foo_seconds_count', labels: {}, value: 17, atMs: null },
  },
  {
    line: 'a{a="1",b="2"} 3 123.5',
    sample: { name: 'a', labels: { a: '1', b: '2' }, value: 3, atMs: 123_500 },
  },
  {
    line: 'a{a="x\\"y\\\\z\\n"} +Inf',
    sample: { name: 'a', labels: { a: 'x"y\\z\n' }, value: Infinity, atMs: null },
  },
  {
    line: 'foo_bucket{le="0.1"} 8 # {} 0.054',
    sample: { name: 'foo_bucket', labels: { le: '0.1' }, value: 8, atMs: null },
  },
  {
    line: 'x -1e-5 1520879607.789',
    sample: { name: 'x', labels: {}, value: -1e-5, atMs: 1_520_879_607_789 },
  },
  { line: '# TYPE foo gauge', sample: null },
  { line: '# EOF', sample: null },
  { line: '', sample: null },
])('$line', ({ line, sample }) => {
  expect(parseSample(line)).toEqual(sample)
})

test.each([
  ['1abc 3', /name of a metric/],
  ['a{b=c} 1', /labels/],
  ['a{b="c"', /labels|no value/],
  ['a', /no value/],
  ['a x', /not a number/],
  ['a 1 noon', /not a time/],
])('“%s” is refused', (line, says) => {
  expect(() => parseSample(line)).toThrow(says)
})

test('what is written is read back, bit for bit and to the millisecond', () => {
  fc.assert(
    fc.property(
      fc.string({ unit: 'binary' }),
      fc.double(),
      fc.integer({ min: -(2 ** 43), max: 2 ** 43 }),
      (label, value, atMs) => {
        const line = `${sampleHead('hw_power', { gear: label, part: 'psu 1' })} ${sampleValue(value)} ${sampleTime(atMs)}`
        expect(line.split('\n')).toHaveLength(1)
        const sample = parseSample(line)!
        expect(sample.labels).toEqual({ gear: label, part: 'psu 1' })
        expect(Object.is(sample.value, value)).toBe(true)
        expect(sample.atMs).toBe(atMs)
      },
    ),
  )
})

test('any text is a sample, nothing, or a reason', () => {
  fc.assert(
    fc.property(fc.string(), (line) => {
      try {
        parseSample(line)
      } catch (error) {
        expect(error).toBeInstanceOf(SyntaxError)
      }
    }),
  )
})
