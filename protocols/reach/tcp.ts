import { lookup } from 'node:dns/promises'
import { connect, type Socket } from 'node:net'
import type { Failure } from '#core/sources'
import { errorCode, systemWords } from './words.ts'

export interface Endpoint {
  readonly host: string
  readonly port: number
}

export const addressOf = ({ host, port }: Endpoint): string =>
  `${host.includes(':') ? `[${host}]` : host}:${port}`

/** The addresses of a name, or why there are none. An address is its own. */
export async function resolveName(host: string): Promise<{ addresses: string[] } | { failure: Failure }> {
  try {
    const found = await lookup(host, { all: true })
    return { addresses: found.map((each) => each.address) }
  } catch {
    return { failure: { kind: 'unknownName', host } }
  }
}

/** Why a connection could not be made, as far as the system's own error tells it; `null` for any other error. */
export function connectFailure(code: string, { host, port }: Endpoint, waitedMs: number): Failure | null {
  const address = addressOf({ host, port })
  switch (code) {
    case 'ENOTFOUND':
    case 'EAI_AGAIN':
      return { kind: 'unknownName', host }
    case 'ECONNREFUSED':
      return { kind: 'connectionRefused', address }
    case 'EHOSTUNREACH':
    case 'ENETUNREACH':
    case 'EADDRNOTAVAIL':
    case 'EACCES':
    case 'EPERM':
      return { kind: 'unreachable', address, detail: systemWords(code) }
    case 'ETIMEDOUT':
    case 'UND_ERR_CONNECT_TIMEOUT':
      return { kind: 'filtered', address, waitedMs }
    default:
      return null
  }
}

/** One TCP connection (RFC 9293). Whoever gets it closes it. */
export function openTcp(
  endpoint: Endpoint,
  timeoutMs: number,
): Promise<{ socket: Socket } | { failure: Failure }> {
  return new Promise((resolve) => {
    const address = addressOf(endpoint)
    const socket = connect({ host: endpoint.host, port: endpoint.port })
    const give = (found: { socket: Socket } | { failure: Failure }): void => {
      clearTimeout(deadline)
      if ('failure' in found) socket.destroy()
      resolve(found)
    }
    const deadline = setTimeout(
      () => give({ failure: { kind: 'filtered', address, waitedMs: timeoutMs } }),
      timeoutMs,
    )
    socket.on('error', (error: NodeJS.ErrnoException) => {
      const code = errorCode(error)
      give({
        failure: connectFailure(code, endpoint, timeoutMs) ?? {
          kind: 'connectionLost',
          address,
          detail: code === '' ? error.message : systemWords(code),
        },
      })
    })
    socket.once('connect', () => give({ socket }))
  })
}

/** What a far side said, fit for a sentence: the first printable characters of it. */
export const printable = (text: string): string =>
  text
    .slice(0, 48)
    .replaceAll(/[\r\n\t]+/g, ' ')
    .replaceAll(/[^\x20-\x7e]/g, '·')
    .trim()

/** What a port says by itself or to a few bytes, within a short time; empty when it says nothing. */
export async function firstWords(
  endpoint: Endpoint,
  say: string | Uint8Array,
  timeoutMs: number,
): Promise<string> {
  const opened = await openTcp(endpoint, timeoutMs)
  if ('failure' in opened) return ''
  const { socket } = opened
  return new Promise((resolve) => {
    let heard = ''
    const done = (): void => {
      clearTimeout(deadline)
      socket.destroy()
      resolve(heard)
    }
    const deadline = setTimeout(done, timeoutMs)
    socket.on('data', (bytes: Buffer) => {
      heard += bytes.toString('latin1')
      if (heard.length >= 16 || heard.includes('\n')) done()
    })
    socket.once('end', done)
    socket.once('close', done)
    socket.write(say)
  })
}
