import { describe, expect, test } from 'vitest'
import { clientAddress, doorsFrom, hasNul, mostBytes, originProblem } from './doors.ts'

const bare = doorsFrom({})
const behind = doorsFrom({
  RACK_ORIGIN: 'https://rack.example, https://rack.example:8443',
  RACK_PROXIES: '192.0.2.0/28 2001:db8::7',
})

describe('an origin', () => {
  test.each([
    ['http://127.0.0.1:8460/', bare, true],
    ['http://[::1]:8460/', bare, true],
    ['http://localhost:8460/', bare, true],
    ['http://10.0.0.7/', bare, true],
    ['http://rack.example/', bare, false],
    ['http://127.0.0.1.evil.example/', bare, false],
    ['https://rack.example/', behind, true],
    ['https://rack.example:8443/', behind, true],
    ['http://rack.example/', behind, false],
    ['https://evil.example/', behind, false],
    ['http://127.0.0.1:8460/', behind, false],
  ])('%s', (url, doors, isOurs) => {
    expect(originProblem(doors, new URL(url)) === null).toBe(isOurs)
  })
  test('what was written wrongly is said at the start', () => {
    expect(() => doorsFrom({ RACK_ORIGIN: 'rack.example' })).toThrow(/“rack.example”, which is no origin/)
    expect(() => doorsFrom({ RACK_ORIGIN: 'https://rack.example/path' })).toThrow(/without a path/)
    expect(() => doorsFrom({ RACK_PROXIES: '192.0.2.300' })).toThrow(
      /RACK_PROXIES cannot be used: “192.0.2.300”/,
    )
  })
})

describe('where a request came from', () => {
  test.each([
    ['nobody is believed who is not known', bare, '192.0.2.1', '203.0.113.9', '192.0.2.1'],
    ['a known proxy is', behind, '192.0.2.1', '203.0.113.9', '203.0.113.9'],
    [
      'by its own end of the list: what a client has put there itself is not',
      behind,
      '::ffff:192.0.2.1',
      '198.51.100.1, 203.0.113.9',
      '203.0.113.9',
    ],
    ['through two of them', behind, '2001:db8::7', '203.0.113.9, 192.0.2.2', '203.0.113.9'],
    ['that says nothing is itself', behind, '192.0.2.1', null, '192.0.2.1'],
    ['that says no address is itself', behind, '192.0.2.1', 'unknown', '192.0.2.1'],
  ])('%s', (_, doors, socket, forwarded, expected) => {
    expect(clientAddress(doors, socket, forwarded)).toBe(expected)
  })
})

test('files may be as large as their forms say, everything else is small', () => {
  expect(mostBytes('/(app)/gear/inventory')).toBeGreaterThan(20 * 1024 * 1024)
  expect(mostBytes('/(app)/sources/many')).toBeGreaterThan(8 * 1024 * 1024)
  expect(mostBytes('/(app)/gear/[id]')).toBe(512 * 1024)
  expect(mostBytes(null)).toBe(512 * 1024)
})

test('a NUL in an address is seen wherever it stands', () => {
  expect(hasNul(new URL('http://a/gear?q=a%00b'))).toBe(true)
  expect(hasNul(new URL('http://a/ge%00ar'))).toBe(true)
  expect(hasNul(new URL('http://a/gear?q=a%0Ab'))).toBe(false)
})
