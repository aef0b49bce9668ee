import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { answers, DEMO, EMPTY, environmentOf, type Place, SECOND_DEMO } from './places.ts'

const ENDS_MS = 30_000

/**
 * Starts all installations, as anybody would start them; what comes back ends them. The two demos one after the other: while
 * both gather their first readings neither is heard in time, and they tell so, rightly. Whoever signs in at the second one
 * waits for it, while the tests of the first run already.
 */
export default async function start(): Promise<() => Promise<void>> {
  const started: ChildProcess[] = []
  const end = async () => void (await Promise.all(started.map(ended)))
  const bringUp = async (place: Place, ...words: string[]): Promise<void> => {
    const child = begin(place, ...words)
    started.push(child)
    await Promise.race([answers(place.url), died(child, place)])
  }
  try {
    await Promise.all([bringUp(EMPTY, '--no-demo'), bringUp(DEMO)])
  } catch (error) {
    await end()
    throw error
  }
  const second = bringUp(SECOND_DEMO).catch((error: unknown) => console.error(error))
  return async () => {
    // Half started it cannot be ended in order.
    await second
    await end()
  }
}

function begin(place: Place, ...words: string[]): ChildProcess {
  return spawn('bin/start', [...words, '--port', String(place.port)], {
    env: { ...process.env, ...environmentOf(place) },
    stdio: ['ignore', 'inherit', 'inherit'],
    // A key pressed at the terminal ends the tests, and these by way of them.
    detached: true,
  })
}

async function died(child: ChildProcess, { url }: Place): Promise<never> {
  await once(child, 'exit')
  throw new Error(`bin/start for ${url} ended with ${child.exitCode}`)
}

async function ended(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return
  const exit = once(child, 'exit')
  child.kill('SIGTERM')
  const late = setTimeout(() => child.kill('SIGKILL'), ENDS_MS)
  await exit
  clearTimeout(late)
}
