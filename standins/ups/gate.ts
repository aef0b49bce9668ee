import { createSocket, type Socket } from 'node:dgram'
import type { FaultBoard } from '../model/faults.ts'

/**
 * Stands between a UDP client and an agent on loopback and spoils the way as its faults say:
 * `before` is done before a message goes on. `silent` drops, `garbage` answers bytes that are no message, `slow` answers after a minute.
 */
export async function startGate(
  port: number,
  agentPort: number,
  faults: FaultBoard,
  { host = '127.0.0.1', before }: { readonly host?: string; readonly before?: () => void } = {},
): Promise<{ close(): void }> {
  const front = createSocket('udp4')
  const backs = new Map<string, Socket>()
  let isClosed = false
  // What was still to come when it was closed stays away.
  const later = (ms: number, act: () => void): void =>
    void setTimeout(() => (isClosed ? undefined : act()), ms).unref()
  front.on('message', (message, client) => {
    if (faults.has('silent') || faults.has('die')) return
    if (faults.has('garbage')) {
      front.send(Buffer.from('this is not a message of the protocol'), client.port, client.address)
      return
    }
    const key = `${client.address}:${client.port}`
    let back = backs.get(key)
    if (back === undefined) {
      back = createSocket('udp4')
      backs.set(key, back)
      back.on('message', (reply) => {
        const delayMs = faults.has('slow') ? 60_000 : 0
        later(delayMs, () => front.send(reply, client.port, client.address, () => undefined))
      })
      later(90_000, () => {
        backs.delete(key)
        back?.close()
      })
      back.unref()
    }
    before?.()
    back.send(message, agentPort, host)
  })
  await new Promise<void>((resolve, reject) => {
    front.once('error', reject)
    front.bind(port, host, () => resolve())
  })
  front.on('error', () => undefined)
  return {
    close() {
      isClosed = true
      front.close()
      for (const back of backs.values()) back.close()
      backs.clear()
    },
  }
}
