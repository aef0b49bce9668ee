import { describe, expect, test } from 'vitest'
import { echoesOf } from './echo.ts'

const said = (stdout: string, stderr = '', isMissing = false) =>
  echoesOf({ stdout, stderr, isMissing }, '192.0.2.30', 3000)

describe('what the system says of ICMP echo', () => {
  test.each([
    [
      '3 packets transmitted, 3 received, 0% packet loss, time 401ms\nrtt min/avg/max/mdev = 0.025/0.030/0.038/0.006 ms',
      { failure: null, lost: 0, tookMs: 0.03 },
    ],
    [
      '3 packets transmitted, 1 received, 66.6667% packet loss, time 401ms\nrtt min/avg/max/mdev = 12.1/12.1/12.1/0.0 ms',
      { failure: null, lost: 2 / 3, tookMs: 12.1 },
    ],
  ])('%s', (stdout, echoes) => expect(said(stdout)).toEqual(echoes))
  test.each([
    ['3 packets transmitted, 0 received, 100% packet loss, time 2042ms', '', 'filtered'],
    ['', 'ping: no-such-host.invalid: Name or service not known', 'unknownName'],
    ['', 'ping: connect: Network is unreachable', 'unreachable'],
    ['', 'ping: socktype: SOCK_RAW\nping: socket: Operation not permitted', 'unsupported'],
  ])('%s%s is %s', (stdout, stderr, kind) => expect(said(stdout, stderr).failure?.kind).toBe(kind))
  test('no program for it', () => expect(said('', '', true).failure).toMatchObject({ kind: 'unsupported' }))
})
