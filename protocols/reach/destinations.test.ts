import { describe, expect, test } from 'vitest'
import { hostIn, hostsProblem, whyNotThere } from './destinations.ts'

test.each([
  ['https://petrel-07.example:8443/redfish', 'petrel-07.example'],
  ['192.0.2.7:161', '192.0.2.7'],
  ['HTTP://Gateway.Example/metrics', 'gateway.example'],
  ['[2001:db8::7]:161', '2001:db8::7'],
  ['2001:db8::7', '2001:db8::7'],
  ['https://[2001:DB8::7]/x', '2001:db8::7'],
  ['petrel-07', 'petrel-07'],
])('the host of %s is %s', (address, host) => {
  expect(hostIn(address)).toBe(host)
})

describe('where a credential may go', () => {
  const to = (hosts: string[], inClear: string | null = null) => ({ hosts, inClear })

  test('to a name as it is written, and to addresses within its networks', () => {
    expect(whyNotThere(to(['petrel-07.example']), 'basic', 'https://Petrel-07.example')).toBeNull()
    expect(whyNotThere(to(['192.0.2.0/24']), 'basic', 'https://192.0.2.77')).toBeNull()
    expect(whyNotThere(to(['2001:db8::/32']), 'basic', 'https://[2001:db8::9]')).toBeNull()
    expect(whyNotThere(to(['192.0.2.0/24']), 'basic', 'https://192.0.3.1')).toContain('this is 192.0.3.1')
    expect(
      whyNotThere(to(['petrel-07.example']), 'basic', 'https://petrel-07.example.evil.example'),
    ).not.toBeNull()
    expect(whyNotThere(to(['192.0.2.0/24']), 'basic', 'https://192.0.2.7.evil.example')).not.toBeNull()
    expect(whyNotThere(to([]), 'basic', 'https://192.0.2.7')).toBe('it may go nowhere yet')
  })

  test('not in the open, unless somebody says why', () => {
    expect(whyNotThere(to(['192.0.2.7']), 'basic', 'http://192.0.2.7')).toContain('without TLS')
    expect(whyNotThere(to(['192.0.2.7']), 'bearer', 'http://192.0.2.7')).toContain('without TLS')
    expect(whyNotThere(to(['192.0.2.7'], 'a wire of its own'), 'basic', 'http://192.0.2.7')).toBeNull()
    expect(whyNotThere(to(['192.0.2.7']), 'snmp-v2c', '192.0.2.7:161')).toBeNull()
  })

  test('what is no host is said', () => {
    expect(hostsProblem(['petrel-07', 'a.b-c.example', '192.0.2.0/24', '2001:db8::7'])).toBeNull()
    for (const bad of ['192.0.2.0/99', 'a b', '-x', 'https://x', '*', ''])
      expect(hostsProblem([bad]), bad).toContain('is no host')
  })
})
