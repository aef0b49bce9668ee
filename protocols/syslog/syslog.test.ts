import { describe, expect, test } from 'vitest'
import { FramingError, SyslogFrames } from './framing.ts'
import { parseSyslog } from './message.ts'

const parse = (text: string) => parseSyslog(Buffer.from(text))
const data = (text: string): object =>
  Object.fromEntries([...parse(text).data].map(([id, element]) => [id, Object.fromEntries(element)]))

describe('RFC 5424', () => {
  // The examples of §6.5; BOM is written out.
  test('example 1', () => {
    expect(
      parse(
        "<34>1 2003-10-11T22:14:15.003Z mymachine.example.com su - ID47 - \ufeff'su root' failed for lonvick on /dev/pts/8",
      ),
    ).toMatchObject({
      form: 'rfc5424',
      facility: 4,
      severity: 2,
      atMs: Date.UTC(2003, 9, 11, 22, 14, 15, 3),
      host: 'mymachine.example.com',
      app: 'su',
      process: null,
      messageId: 'ID47',
      text: "'su root' failed for lonvick on /dev/pts/8",
    })
  })
  test('example 2: a zone and six decimals', () => {
    expect(
      parse(
        "<165>1 2003-08-24T05:14:15.000003-07:00 192.0.2.1 myproc 8710 - - %% It's time to make the do-nuts.",
      ),
    ).toMatchObject({
      facility: 20,
      severity: 5,
      atMs: Date.UTC(2003, 7, 24, 12, 14, 15),
      process: '8710',
      text: "%% It's time to make the do-nuts.",
    })
  })
  test('examples 3 and 4: structured data', () => {
    const example =
      '<165>1 2003-10-11T22:14:15.003Z mymachine.example.com evntslog - ID47 [exampleSDID@32473 iut="3" eventSource="Application" eventID="1011"][examplePriority@32473 class="high"]'
    expect(data(example)).toEqual({
      'exampleSDID@32473': { iut: '3', eventSource: 'Application', eventID: '1011' },
      'examplePriority@32473': { class: 'high' },
    })
    expect(parse(`${example} \ufeffAn application event`).text).toBe('An application event')
  })
  test('escapes within a parameter (§6.3.3), and a wrong pair that stays', () => {
    expect(data('<13>1 - - - - - [x a="q\\"b\\\\c\\]d\\n"] t')).toEqual({ x: { a: 'q"b\\c]d\\n' } })
  })
  test('a time of seven decimals or a leap second is none (§6.2.3.1)', () => {
    expect(parse('<13>1 2003-08-24T05:14:15.000000003-07:00 h a - - - t').atMs).toBeNull()
    expect(parse('<13>1 2016-12-31T23:59:60Z h a - - - t').atMs).toBeNull()
  })
  test('nothing but nothing', () => {
    expect(parse('<0>1 - - - - - -')).toMatchObject({ form: 'rfc5424', severity: 0, host: null, text: '' })
  })
})

describe('RFC 3164', () => {
  test('the example of §5.4, and one with a process', () => {
    expect(
      parse("<34>Oct 11 22:14:15 mymachine su: 'su root' failed for lonvick on /dev/pts/8"),
    ).toMatchObject({
      form: 'rfc3164',
      facility: 4,
      severity: 2,
      atMs: null,
      host: 'mymachine',
      app: 'su',
      text: "'su root' failed for lonvick on /dev/pts/8",
    })
    expect(parse('<14>Feb  5 17:32:18 10.0.0.99 sshd[42]: hello')).toMatchObject({
      host: '10.0.0.99',
      app: 'sshd',
      process: '42',
      text: 'hello',
    })
  })
  test('without a priority, or with one that is none: a notice', () => {
    expect(parse('Use the BFG!')).toMatchObject({
      form: 'bare',
      facility: 1,
      severity: 5,
      text: 'Use the BFG!',
    })
    expect(parse('<192>x')).toMatchObject({ severity: 5, text: '<192>x' })
    expect(parse('<34>no header at all')).toMatchObject({
      form: 'bare',
      severity: 2,
      text: 'no header at all',
    })
  })
})

describe('a stream of messages (RFC 6587)', () => {
  test('counted octets, and lines, cut anywhere', () => {
    for (const stream of [
      '11 <13>1 first10 <14>second',
      '<13>1 first\n<14>second\n',
      '<13>1 first\0<14>second',
    ]) {
      for (let cut = 0; cut <= stream.length; cut += 1) {
        const frames = new SyslogFrames()
        const found = [Buffer.from(stream.slice(0, cut)), Buffer.from(stream.slice(cut))]
          .filter((piece) => piece.length > 0)
          .flatMap((piece) => frames.take(piece))
        expect([...found, ...frames.finish()].map(String)).toEqual(['<13>1 first', '<14>second'])
      }
    }
  })
  test('what never ends is refused', () => {
    const frames = new SyslogFrames()
    expect(() => {
      for (let index = 0; index < 20; index += 1) frames.take(Buffer.alloc(8000, 'x'))
    }).toThrow(FramingError)
    expect(() => new SyslogFrames().take(Buffer.from('900000 <13>'))).toThrow(/900000 octets/)
  })
})
