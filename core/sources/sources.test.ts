import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { backoffMs, type Failure, failureSentence, freshness, silenceSentence } from './index.ts'

const clock = (lastHeardAtMs: number | null) => ({ intervalMs: 10_000, createdAtMs: 0, lastHeardAtMs })

describe('freshness', () => {
  test.each([
    { heard: null, now: 30_000, state: 'starting' },
    { heard: null, now: 30_001, state: 'silent' },
    { heard: 100_000, now: 130_000, state: 'fresh' },
    { heard: 100_000, now: 130_001, state: 'silent' },
  ])('heard at $heard, now $now: $state', ({ heard, now, state }) => {
    expect(freshness(clock(heard), now)).toBe(state)
  })
  test('silence in words', () => {
    expect(silenceSentence('petrel-07 controller', clock(0), 22 * 60_000)).toMatch(
      /^petrel-07 controller has said nothing for 22.min$/,
    )
    expect(silenceSentence('x', clock(null), 5)).toBe('x has never been heard')
  })
})

test('back-off: the interval for the first retries, then doubling, never beyond ten intervals or five minutes', () => {
  expect([0, 1, 2, 3, 4, 5].map((failures) => backoffMs(10_000, failures) / 1000)).toEqual([
    10, 10, 10, 20, 40, 80,
  ])
  fc.assert(
    fc.property(fc.integer({ min: 1000, max: 86_400_000 }), fc.nat(200), (interval, failures) => {
      const wait = backoffMs(interval, failures)
      expect(wait).toBeGreaterThanOrEqual(interval)
      expect(wait).toBeLessThanOrEqual(Math.max(interval * 10, 60_000))
      expect(backoffMs(interval, failures + 1)).toBeGreaterThanOrEqual(wait)
    }),
  )
})

test('every failure says where, and ends as a sentence', () => {
  const address = '192.0.2.10:443'
  const failures: Failure[] = [
    { kind: 'unknownName', host: address },
    { kind: 'connectionRefused', address },
    { kind: 'connectionLost', address, detail: 'reset' },
    { kind: 'timedOut', address, waitedMs: 3000 },
    { kind: 'unreachable', address, detail: 'EHOSTUNREACH' },
    { kind: 'filtered', address, waitedMs: 3000 },
    { kind: 'plainOnly', address, seen: 'HTTP/1.1 200 OK' },
    { kind: 'tlsOnly', address },
    { kind: 'otherProtocol', address, asked: 'Redfish', seen: '220 mail' },
    { kind: 'untrusted', address, detail: 'it has expired' },
    ...(
      ['unknownAuthority', 'signedByItself', 'expired', 'notYetValid', 'wrongName', 'wrongSignature'] as const
    ).map((reason): Failure => ({ kind: 'untrusted', address, detail: 'it is so', reason })),
    { kind: 'credentialsRefused', address, detail: 'HTTP 401' },
    { kind: 'sealedShut', address },
    { kind: 'elsewhere', address, detail: 'it may go nowhere yet' },
    { kind: 'notAllowed', address, what: '/redfish/v1/Systems' },
    { kind: 'malformed', address, detail: 'no JSON' },
    { kind: 'tooLarge', address, limitBytes: 4 * 1024 ** 2 },
    { kind: 'unsupported', address, detail: 'it has no UPS tree' },
  ]
  for (const failure of failures) {
    expect(failureSentence(failure)).toContain(address)
    expect(failureSentence(failure)).toMatch(/\.$/)
  }
})
