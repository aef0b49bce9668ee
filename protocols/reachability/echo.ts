import { execFile } from 'node:child_process'
import type { Failure } from '#core/sources'

export interface Echoes {
  /** `null`: at least one came back. */
  readonly failure: Failure | null
  /** 0..1 */
  readonly lost: number
  /** Mean of those that came back. */
  readonly tookMs: number | null
}

const COUNT = 3

/**
 * ICMP echo (RFC 792; for IPv6 RFC 4443 §4) by the system's own program: sending it takes a right that only that has.
 */
export function echo(host: string, timeoutMs: number): Promise<Echoes> {
  const seconds = Math.max(1, Math.floor(timeoutMs / 1000) - 1)
  const words = ['-n', '-q', '-c', String(COUNT), '-i', '0.2', '-w', String(seconds), '--', host]
  return new Promise((resolve) => {
    execFile(
      'ping',
      words,
      { timeout: timeoutMs, env: { ...process.env, LC_ALL: 'C' } },
      (error, stdout, stderr) =>
        resolve(echoesOf({ stdout, stderr, isMissing: error?.code === 'ENOENT' }, host, timeoutMs)),
    )
  })
}

/** What the program's words mean. */
export function echoesOf(
  said: { readonly stdout: string; readonly stderr: string; readonly isMissing: boolean },
  host: string,
  timeoutMs: number,
): Echoes {
  const failed = (failure: Failure): Echoes => ({ failure, lost: 1, tookMs: null })
  const unsupported = (detail: string, hint: string) =>
    failed({ kind: 'unsupported', address: host, detail, hint })
  if (said.isMissing)
    return unsupported(
      'the collector has no program that sends ICMP echo',
      "Install Debian's iputils-ping there.",
    )
  if (/not permitted|missing cap_net_raw/i.test(said.stderr))
    return unsupported(
      'the collector may not send ICMP echo',
      'Let its group do so (net.ipv4.ping_group_range), or ask by tcp://.',
    )
  if (/not known|name resolution|unknown host/i.test(said.stderr))
    return failed({ kind: 'unknownName', host })
  if (/unreachable/i.test(said.stderr))
    return failed({ kind: 'unreachable', address: host, detail: 'the network is not reached' })
  const [, sent, received] = /(\d+) packets transmitted, (\d+) (?:packets )?received/.exec(said.stdout) ?? []
  if (sent === undefined || Number(received) === 0)
    return failed({ kind: 'filtered', address: host, waitedMs: timeoutMs })
  const mean = /= [\d.]+\/([\d.]+)\//.exec(said.stdout)?.[1]
  // Asked for fewer than were sent: the time was over.
  const count = Math.max(COUNT, Number(sent))
  const lost = (count - Number(received)) / count
  return { failure: null, lost, tookMs: mean === undefined ? null : Number(mean) }
}
