import { describe, expect, test } from 'vitest'
import { DocumentError, parseDocument } from './document.ts'
import type { DocumentForm, Family } from './shape.ts'

// Documents written from the grammar of OpenMetrics 1.0 (ABNF) and the rules of its types.

const parse = (text: string, form: DocumentForm = 'openmetrics'): Family[] =>
  parseDocument(Buffer.from(text), form)
const flat = (families: Family[]) =>
  families.flatMap(({ type, samples }) =>
    samples.map(({ name, labels, value, atMs }) => [type, name, Object.fromEntries(labels), value, atMs]),
  )

describe('valid documents', () => {
  const cases: [string, string, unknown[]][] = [
    ['nothing but the end mark', '# EOF\n', []],
    ['the end mark without its line feed', '# EOF', []],
    ['a sample without a word on it', 'a 1\n# EOF\n', [['unknown', 'a', {}, 1, null]]],
    [
      'escapes in labels',
      'a{b="line\\nfeed",c="quote\\"and\\\\slash",d="other \\q pair"} 1\n# EOF\n',
      [['unknown', 'a', { b: 'line\nfeed', c: 'quote"and\\slash', d: 'other \\q pair' }, 1, null]],
    ],
    [
      'a brace, a comma and a hash in a label',
      'a{b="},# {"} 2\n# EOF\n',
      [['unknown', 'a', { b: '},# {' }, 2, null]],
    ],
    ['empty braces', 'a{} 3\n# EOF\n', [['unknown', 'a', {}, 3, null]]],
    [
      'other alphabets in a label',
      'a{b="Brandung 🌊 прибой"} 1\n# EOF\n',
      [['unknown', 'a', { b: 'Brandung 🌊 прибой' }, 1, null]],
    ],
    [
      'infinities and what is no number',
      'a{i="1"} +Inf\na{i="2"} -Inf\na{i="3"} inf\na{i="4"} Infinity\na{i="5"} NaN\na{i="6"} nan\n# EOF\n',
      [
        ['unknown', 'a', { i: '1' }, Infinity, null],
        ['unknown', 'a', { i: '2' }, -Infinity, null],
        ['unknown', 'a', { i: '3' }, Infinity, null],
        ['unknown', 'a', { i: '4' }, Infinity, null],
        ['unknown', 'a', { i: '5' }, Number.NaN, null],
        ['unknown', 'a', { i: '6' }, Number.NaN, null],
      ],
    ],
    [
      'numbers in each spelling',
      'a{i="1"} 1e3\na{i="2"} -.5\na{i="3"} 7.\na{i="4"} +2E-2\na{i="5"} 00.1\n# EOF\n',
      [
        ['unknown', 'a', { i: '1' }, 1000, null],
        ['unknown', 'a', { i: '2' }, -0.5, null],
        ['unknown', 'a', { i: '3' }, 7, null],
        ['unknown', 'a', { i: '4' }, 0.02, null],
        ['unknown', 'a', { i: '5' }, 0.1, null],
      ],
    ],
    [
      'times in seconds with decimals, rising for one metric',
      '# TYPE a gauge\na 1 1700000000.125\na 2 1700000001\n# EOF\n',
      [
        ['gauge', 'a', {}, 1, 1_700_000_000_125],
        ['gauge', 'a', {}, 2, 1_700_000_001_000],
      ],
    ],
    [
      'a unit that its name ends with',
      '# TYPE inlet_celsius gauge\n# UNIT inlet_celsius celsius\n# HELP inlet_celsius At the \\"front\\".\ninlet_celsius 21.5\n# EOF\n',
      [['gauge', 'inlet_celsius', {}, 21.5, null]],
    ],
    [
      'a counter with when it began and an example',
      '# TYPE q counter\nq_total{p="x"} 7 # {trace="ab"} 0.5 1700000000.5\nq_created{p="x"} 1690000000\n# EOF\n',
      [
        ['counter', 'q_total', { p: 'x' }, 7, null],
        ['counter', 'q_created', { p: 'x' }, 1_690_000_000, null],
      ],
    ],
    [
      'a histogram',
      '# TYPE h histogram\nh_bucket{le="0.5"} 1 # {} 0.4\nh_bucket{le="+Inf"} 3\nh_count 3\nh_sum 4.5\n# EOF\n',
      [
        ['histogram', 'h_bucket', { le: '0.5' }, 1, null],
        ['histogram', 'h_bucket', { le: '+Inf' }, 3, null],
        ['histogram', 'h_count', {}, 3, null],
        ['histogram', 'h_sum', {}, 4.5, null],
      ],
    ],
    [
      'a histogram of gauges, below zero in sum',
      '# TYPE g gaugehistogram\ng_bucket{le="0"} 1\ng_bucket{le="+Inf"} 1\ng_gcount 1\ng_gsum -2\n# EOF\n',
      [
        ['gaugehistogram', 'g_bucket', { le: '0' }, 1, null],
        ['gaugehistogram', 'g_bucket', { le: '+Inf' }, 1, null],
        ['gaugehistogram', 'g_gcount', {}, 1, null],
        ['gaugehistogram', 'g_gsum', {}, -2, null],
      ],
    ],
    [
      'a summary, a set of states, information',
      '# TYPE s summary\ns{quantile="0.9"} NaN\ns_count 0\n# TYPE d stateset\nd{d="open"} 1\nd{d="shut"} 0\n# TYPE i info\ni_info{v="2"} 1\n# EOF\n',
      [
        ['summary', 's', { quantile: '0.9' }, Number.NaN, null],
        ['summary', 's_count', {}, 0, null],
        ['stateset', 'd', { d: 'open' }, 1, null],
        ['stateset', 'd', { d: 'shut' }, 0, null],
        ['info', 'i_info', { v: '2' }, 1, null],
      ],
    ],
    ['a family without samples', '# TYPE a counter\n# HELP a\n# EOF\n', []],
    [
      'labels in another order for the same metric',
      '# TYPE h histogram\nh_bucket{le="1",a="x",b="y"} 1\nh_bucket{b="y",a="x",le="+Inf"} 1\n# EOF\n',
      [
        ['histogram', 'h_bucket', { le: '1', a: 'x', b: 'y' }, 1, null],
        ['histogram', 'h_bucket', { b: 'y', a: 'x', le: '+Inf' }, 1, null],
      ],
    ],
    [
      'a label called as what every object has',
      'a{__proto__="x",constructor="y"} 1\n# EOF\n',
      [
        [
          'unknown',
          'a',
          Object.fromEntries([
            ['__proto__', 'x'],
            ['constructor', 'y'],
          ]),
          1,
          null,
        ],
      ],
    ],
  ]
  test.each(cases)('%s', (_, text, expected) => {
    expect(flat(parse(text))).toEqual(expected)
  })

  test('what is said of a family, and an example', () => {
    const [inlet, count] = parse(
      '# HELP t_celsius Back\\\\slash\\nand line.\n# UNIT t_celsius celsius\n# TYPE t_celsius gauge\nt_celsius 1\n# TYPE q counter\nq_total 7 # {trace="ab"} 0.5 1.5\n# EOF\n',
    )
    expect(inlet).toMatchObject({ type: 'gauge', unit: 'celsius', help: 'Back\\slash\nand line.' })
    expect(count!.samples[0]!.exemplar).toEqual({
      labels: new Map([['trace', 'ab']]),
      value: 0.5,
      atMs: 1500,
    })
  })
})

describe('invalid documents are refused with line and reason', () => {
  const cases: [string, string | Uint8Array, number, RegExp][] = [
    ['nothing at all', '', 1, /end mark/],
    ['no end mark', 'a 1\nb 2\n', 2, /end mark.*missing/],
    ['something after the end mark', 'a 1\n# EOF\nb 2\n', 3, /follows the end mark/],
    ['an empty line', 'a 1\n\n# EOF\n', 2, /name of a metric/],
    ['a remark', '# hello\n# EOF\n', 1, /# TYPE/],
    ['a carriage return', 'a 1\r\n# EOF\n', 1, /not a number/],
    ['a name that begins with a digit', '1a 1\n# EOF\n', 1, /name of a metric/],
    ['two blanks', 'a  1\n# EOF\n', 1, /value is expected/],
    ['a tab', 'a\t1\n# EOF\n', 1, /expected before/],
    ['no value', 'a\n# EOF\n', 1, /end of the line/],
    ['a value in hexadecimal', 'a 0x10\n# EOF\n', 1, /“0x10” is not a number/],
    ['a value with underscores', 'a 1_000\n# EOF\n', 1, /not a number/],
    ['a comma at the end of labels', 'a{b="c",} 1\n# EOF\n', 1, /name of a label/],
    ['no comma between labels', 'a{b="c"d="e"} 1\n# EOF\n', 1, /“,” is expected/],
    ['a label without quotes', 'a{b=c} 1\n# EOF\n', 1, /expected before “c\}/],
    ['a label that does not end', 'a{b="c} 1\n# EOF\n', 1, /no closing quote/],
    ['labels that do not end', 'a{b="c" 1\n# EOF\n', 1, /“,” is expected/],
    ['a label twice', 'a{b="c",b="d"} 1\n# EOF\n', 1, /label b is there twice/],
    ['a colon in a label', 'a{b:c="d"} 1\n# EOF\n', 1, /“=” is expected/],
    ['a time that is no number', 'a 1 soon\n# EOF\n', 1, /not a time in seconds/],
    ['a time without end', 'a 1 +Inf\n# EOF\n', 1, /not a time/],
    ['a time too far away', 'a 1 1e300\n# EOF\n', 1, /not a time/],
    ['something after the time', 'a 1 2 3\n# EOF\n', 1, /“3” follows|expected before/],
    ['a type that is none', '# TYPE a thing\n# EOF\n', 1, /not a type/],
    ['a type of the plain form', '# TYPE a untyped\n# EOF\n', 1, /not a type/],
    ['a type twice', '# TYPE a gauge\n# TYPE a gauge\n# EOF\n', 2, /second # TYPE/],
    ['help twice', '# HELP a x\n# HELP a y\n# EOF\n', 2, /second # HELP/],
    ['a type after samples', 'a 1\n# TYPE a gauge\n# EOF\n', 2, /after its samples/],
    [
      'a unit that its name does not end with',
      '# UNIT a celsius\na 1\n# EOF\n',
      1,
      /does not end with _celsius/,
    ],
    ['information with a unit', '# TYPE a_m info\n# UNIT a_m m\na_m_info 1\n# EOF\n', 3, /no unit/],
    [
      'families interleaved',
      '# TYPE a gauge\na{i="1"} 1\n# TYPE b gauge\nb 1\na{i="2"} 2\n# EOF\n',
      5,
      /stay together/,
    ],
    [
      'a family that comes again',
      '# TYPE a gauge\na 1\n# TYPE b gauge\nb 1\n# TYPE a gauge\n# EOF\n',
      5,
      /told of before/,
    ],
    [
      'a total after another family',
      '# TYPE a counter\na_total{i="1"} 1\nb 2\na_total{i="2"} 1\n# EOF\n',
      4,
      /stay together/,
    ],
    [
      'metrics interleaved',
      '# TYPE q counter\nq_total{i="1"} 1\nq_total{i="2"} 1\nq_created{i="1"} 1\n# EOF\n',
      4,
      /not together/,
    ],
    ['a series repeated', 'a{b="c"} 1\na{b="c"} 2\n# EOF\n', 2, /second time/],
    [
      'a series repeated with labels turned round',
      'a{b="c",d="e"} 1\na{d="e",b="c"} 2\n# EOF\n',
      2,
      /second time/,
    ],
    ['a series repeated later', 'a{b="c"} 1\na{b="d"} 1\na{b="c"} 2\n# EOF\n', 3, /not together/],
    ['a time that goes back', '# TYPE a gauge\na 1 5\na 2 4\n# EOF\n', 3, /goes back/],
    ['the same time again', '# TYPE a gauge\na 1 5\na 2 5\n# EOF\n', 3, /second time/],
    ['times for some', '# TYPE a gauge\na 1\na 2 5\n# EOF\n', 3, /others none/],
    ['a counter without _total', '# TYPE a counter\na 1\n# EOF\n', 2, /called a_total/],
    [
      'a counter with nothing but its beginning',
      '# TYPE a counter\na_created 1\n# EOF\n',
      2,
      /without a_total/,
    ],
    ['a counter below zero', '# TYPE a counter\na_total -1\n# EOF\n', 2, /not less than 0/],
    ['a counter that is no number', '# TYPE a counter\na_total NaN\n# EOF\n', 2, /not less than 0/],
    ['an example on a gauge', '# TYPE a gauge\na 1 # {} 1\n# EOF\n', 2, /may not have an exemplar/],
    ['an example without braces', '# TYPE a counter\na_total 1 # 1\n# EOF\n', 2, /labels in braces/],
    ['an example without a value', '# TYPE a counter\na_total 1 # {}\n# EOF\n', 2, /expected/],
    [
      'an example that is too long',
      `# TYPE a counter\na_total 1 # {t="${'x'.repeat(128)}"} 1\n# EOF\n`,
      2,
      /129 characters/,
    ],
    ['a bucket without its bound', '# TYPE h histogram\nh_bucket 1\n# EOF\n', 2, /label le/],
    ['buckets without the last', '# TYPE h histogram\nh_bucket{le="1"} 1\nh_count 1\n# EOF\n', 3, /\+Inf/],
    [
      'buckets out of order',
      '# TYPE h histogram\nh_bucket{le="2"} 1\nh_bucket{le="1"} 1\nh_bucket{le="+Inf"} 1\n# EOF\n',
      3,
      /rising order/,
    ],
    [
      'buckets that shrink',
      '# TYPE h histogram\nh_bucket{le="1"} 2\nh_bucket{le="+Inf"} 1\n# EOF\n',
      3,
      /less than the one before/,
    ],
    [
      'a count unlike its buckets',
      '# TYPE h histogram\nh_bucket{le="+Inf"} 1\nh_count 2\n# EOF\n',
      3,
      /\+Inf holds 1/,
    ],
    ['a quantile above one', '# TYPE s summary\ns{quantile="1.5"} 1\n# EOF\n', 2, /between 0 and 1/],
    ['a state that is neither', '# TYPE d stateset\nd{d="x"} 2\n# EOF\n', 2, /not 0 or 1/],
    ['a state without its label', '# TYPE d stateset\nd 1\n# EOF\n', 2, /no label d/],
    ['information that is two', '# TYPE i info\ni_info 2\n# EOF\n', 2, /information is 1/],
    [
      'bytes that are not UTF-8',
      Buffer.concat([Buffer.from('a 1\nb{c="'), Buffer.from([0xff, 0xfe]), Buffer.from('"} 1\n# EOF\n')]),
      2,
      /not UTF-8/,
    ],
    [
      'UTF-8 that is cut off',
      Buffer.concat([Buffer.from('a{c="'), Buffer.from([0xe2, 0x82])]),
      1,
      /not UTF-8/,
    ],
    [
      'an overlong spelling',
      Buffer.concat([Buffer.from('a{c="'), Buffer.from([0xc0, 0xaf]), Buffer.from('"} 1\n# EOF\n')]),
      1,
      /not UTF-8/,
    ],
    ['a mark of byte order', '\ufeffa 1\n# EOF\n', 1, /name of a metric/],
  ]
  test.each(cases)('%s', (_, text, line, reason) => {
    const bytes = typeof text === 'string' ? Buffer.from(text) : text
    try {
      parseDocument(bytes, 'openmetrics')
    } catch (error) {
      expect(error).toBeInstanceOf(DocumentError)
      expect({ line: (error as DocumentError).line, reason: (error as DocumentError).reason }).toEqual({
        line,
        reason: expect.stringMatching(reason) as string,
      })
      return
    }
    expect.unreachable('it was read')
  })
})

describe('the plain text form', () => {
  test('remarks, empty lines, blanks, times in ms, a comma at the end, no end mark', () => {
    const families = parse(
      `# a remark
#   TYPE   a   counter
a{b="c", }   12   1700000000123

 inlet{ n = "1" } 21.5
`,
      'plain',
    )
    expect(flat(families)).toEqual([
      ['counter', 'a', { b: 'c' }, 12, 1_700_000_000_123],
      ['unknown', 'inlet', { n: '1' }, 21.5, null],
    ])
  })
  test('what has no type, and families in turn', () => {
    const text = '# TYPE a untyped\na 1\n# TYPE h histogram\nh_bucket{le="+Inf"} 2\nb 1\nh_count 2\nh_sum 3\n'
    expect(parse(text, 'plain').map(({ name, type, samples }) => [name, type, samples.length])).toEqual([
      ['a', 'unknown', 1],
      ['h', 'histogram', 3],
      ['b', 'unknown', 1],
    ])
  })
  test.each<[string, string, number, RegExp]>([
    ['a series repeated', 'a{b="c"} 1\na{b="c"} 2\n', 2, /second time/],
    ['a time in seconds with decimals', 'a 1 1.5\n', 1, /time in ms/],
    ['a page', '<!doctype html>\n', 1, /name of a metric/],
    ['an example', 'a_total 1 # {} 1\n', 1, /time in ms/],
  ])('refuses %s', (_, text, line, reason) => {
    expect(() => parse(text, 'plain')).toThrow(reason)
    expect(() => parse(text, 'plain')).toThrow(`line ${line}:`)
  })
})
