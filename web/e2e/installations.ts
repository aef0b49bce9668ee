import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { setTimeout as pause } from 'node:timers/promises'
import { DEMO, EMPTY, environmentOf, type Place, SECOND_DEMO } from './places.ts'

const READY_MS = 480_000
const ENDS_MS = 30_000

/**
 * Starts all installations, as anybody would start them, and waits for them; what comes back ends them. The two demos one
 * after the other: while both gather their first readings neither is heard in time, and they tell so, rightly.
 */
export default async function start(): Promise<() => Promise<void>> {
  const started: ChildProcess[] = []
  const end = async () => void (await Promise.all(started.map(ended)))
  const bringUp = async (place: Place, ...words: string[]): Promise<void> => {
    const child = begin(place, ...words)
    started.push(child)
    await ready(child, place)
  }
  try {
    await Promise.all([bringUp(EMPTY, '--no-demo'), bringUp(DEMO).then(() => bringUp(SECOND_DEMO))])
  } catch (error) {
    await end()
    throw error
  }
  return end
}

function begin(place: Place, ...words: string[]): ChildProcess {
  return spawn('bin/start', [...words, '--port', String(place.port)], {
    env: { ...process.env, ...environmentOf(place) },
    stdio: ['ignore', 'inherit', 'inherit'],
    // A key pressed at the terminal ends the tests, and these by way of them.
    detached: true,
  })
}

async function ready(child: ChildProcess, { url }: Place): Promise<void> {
  for (const beganMs = Date.now(); Date.now() - beganMs < READY_MS; await pause(500)) {
    if (child.exitCode !== null) throw new Error(`bin/start for ${url} ended with ${child.exitCode}`)
    const reply = await fetch(`${url}/healthz`).catch(() => null)
    if (reply?.ok) return
  }
  throw new Error(`${url} was not ready within ${READY_MS / 1000} s`)
}

async function ended(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return
  const exit = once(child, 'exit')
  child.kill('SIGTERM')
  const late = setTimeout(() => child.kill('SIGKILL'), ENDS_MS)
  await exit
  clearTimeout(late)
}
