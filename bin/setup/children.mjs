import { spawn } from 'node:child_process'
import { createWriteStream, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { HOME } from './packages.mjs'
import { say } from './say.mjs'

/**
 * For the collector: its heap is collected when it has grown by 60 %, not when it has grown to four times what is in use,
 * as V8 would let a small one.
 */
export const SPARING_HEAP = ['--heap-growing-percent=60']

/**
 * A process of ours that is kept running: it is started again when it dies, and told to stop when we stop.
 * It holds a channel to us; should we be killed, it notices and stops by itself.
 * @param {{ name: string, words: string[], env: Record<string, string>, logFolder: string, isOnce?: boolean }} options
 * `isOnce`: when it has ended well it has done its work
 */
export function keep({ name, words, env, logFolder, isOnce = false }) {
  mkdirSync(logFolder, { recursive: true })
  const log = createWriteStream(join(logFolder, `${name}.log`), { flags: 'a' })
  let isStopping = false
  /** @type {import('node:child_process').ChildProcess | null} */
  let child = null
  const start = () => {
    child = spawn(process.execPath, words, {
      cwd: HOME,
      env: { ...process.env, ...env },
      stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
      // Its own group: Ctrl-C reaches only us, and we stop the others in order.
      detached: true,
    })
    child.stdout?.pipe(log, { end: false })
    child.stderr?.pipe(log, { end: false })
    child.once('exit', (code, signal) => {
      child = null
      if (isStopping || (isOnce && code === 0)) return
      say(
        `${name} ended (${signal ?? `status ${code}`}); it is started again. Its log: ${join(logFolder, name)}.log`,
      )
      setTimeout(() => {
        if (!isStopping) start()
      }, 1000)
    })
  }
  start()
  return {
    async stop() {
      isStopping = true
      const running = child
      if (running === null) return
      const ended = new Promise((resolve) => running.once('exit', resolve))
      running.kill('SIGTERM')
      const force = setTimeout(() => {
        say(`${name} has not ended by itself in 10 s, and is killed`)
        running.kill('SIGKILL')
      }, 10_000)
      await ended
      clearTimeout(force)
    },
  }
}
