import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { MOST_HOSTS, parseRanges } from './range.ts'

describe('addresses to look at', () => {
  test.each<[string, readonly string[]]>([
    ['192.0.2.7', ['192.0.2.7']],
    ['192.0.2.0/30', ['192.0.2.1', '192.0.2.2']],
    ['192.0.2.5/31', ['192.0.2.4', '192.0.2.5']],
    ['192.0.2.9/32', ['192.0.2.9']],
    ['192.0.2.254-192.0.3.1', ['192.0.2.254', '192.0.2.255', '192.0.3.0', '192.0.3.1']],
    [
      '192.0.2.8-10, PIER-3.example\n2001:DB8::7',
      ['192.0.2.8', '192.0.2.9', '192.0.2.10', 'pier-3.example', '2001:db8::7'],
    ],
    ['192.0.2.8 192.0.2.8', ['192.0.2.8']],
    ['255.255.255.255', ['255.255.255.255']],
  ])('%s', (text, hosts) => expect(parseRanges(text)).toEqual({ hosts, problem: null }))
  test.each<[string, RegExp]>([
    ['', /Enter an address/],
    ['192.0.2.256', /“192\.0\.2\.256” is not an address/],
    ['192.0.2.0/33', /not a network/],
    ['10.0.0.0/8', /16777216 addresses.*\/22/],
    ['192.0.2.40-10', /ends before it begins/],
    ['192.0.2.1-192.0.9.1', /more than 1024/],
    ['192.0.2.0/23 192.0.4.0/23 192.0.6.0/23', /more than 1024 addresses; look at a part/],
    ['-rf', /neither an address nor a name/],
    ['http://192.0.2.1', /is not a network|not an address/],
  ])('%s is refused', (text, problem) => expect(parseRanges(text).problem).toMatch(problem))
  test('never more than are allowed, whatever is given', () => {
    const word = fc.stringMatching(/^[0-9./,\- a:]{0,24}$/)
    fc.assert(
      fc.property(word, (text) => {
        const { hosts, problem } = parseRanges(text)
        if (hosts === null) expect(problem.length).toBeGreaterThan(10)
        else expect(hosts.length > 0 && hosts.length <= MOST_HOSTS).toBe(true)
      }),
      { numRuns: 2000 },
    )
  })
})
