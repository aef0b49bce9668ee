import { createSocket } from 'node:dgram'
import type { FaultBoard } from './model/faults.ts'

interface Speaker {
  readonly name: string
  readonly faults: FaultBoard
}

const LOCAL0 = 16
const LOOK_MS = 2000
const QUIET_EVERY = 45

/** Says by syslog (RFC 5424 over UDP) what happens to the site's gear: a fault when it comes and goes, else a routine now and then. */
export function startSpeaker(options: { readonly port: number; readonly speakers: readonly Speaker[] }): {
  close(): void
} {
  const { port, speakers } = options
  const socket = createSocket('udp4')
  socket.unref()
  const say = (severity: number, name: string, app: string, text: string): void => {
    const line = `<${LOCAL0 * 8 + severity}>1 ${new Date().toISOString()} ${name} ${app} - - - ${text}`
    socket.send(line, port, '127.0.0.1', () => undefined)
  }
  const known = new Map(speakers.map(({ name }) => [name, new Set<string>()]))
  let looks = 0
  const timer = setInterval(() => {
    looks += 1
    for (const { name, faults } of speakers) {
      const before = known.get(name)!
      const now = new Set(faults.list().map((fault) => [fault.name, fault.part].filter(Boolean).join(' ')))
      for (const fault of now) if (!before.has(fault)) say(3, name, 'hardware', `fault: ${fault}`)
      for (const fault of before) if (!now.has(fault)) say(5, name, 'hardware', `over: ${fault}`)
      known.set(name, now)
    }
    const quiet = speakers[Math.floor(looks / QUIET_EVERY) % speakers.length]!
    if (looks % QUIET_EVERY === 1) say(6, quiet.name, 'clock', 'synchronised, offset 0.4 ms')
  }, LOOK_MS)
  return {
    close() {
      clearInterval(timer)
      socket.close()
    },
  }
}
