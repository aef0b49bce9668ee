import { spawn } from 'node:child_process'
import { closeSync, fstatSync, mkdirSync, openSync, renameSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import { HOME } from './packages.mjs'
import { say } from './say.mjs'
import { asUser } from './user.mjs'

/**
 * For the collector: its heap is collected when it has grown by 60 %, not when it has grown to four times what is in use,
 * as V8 would let a small one.
 */
export const SPARING_HEAP = ['--heap-growing-percent=60']

/**
 * A process of ours that is kept running: it is started again when it dies, and told to stop when we stop.
 * It holds a channel to us; should we be killed, it notices and stops by itself.
 * @param {{ name: string, words: string[], env: Record<string, string>, logFolder: string, user?: import('./user.mjs').User | null, isOnce?: boolean, health?: string, lookMs?: number }} options
 * `user`: whose rights it has, ours when nobody is given.
 * `isOnce`: when it has ended well it has done its work. `health`: an address that answers while it is well; when it does
 * not for half a minute, six looks, the process is killed, and so started again
 */
export function keep({ name, words, env, logFolder, user = null, isOnce = false, health, lookMs = LOOK_MS }) {
  mkdirSync(logFolder, { recursive: true })
  const log = openLog(join(logFolder, `${name}.log`))
  let isStopping = false
  /** @type {import('node:child_process').ChildProcess | null} */
  let child = null
  const start = () => {
    child = spawn(process.execPath, words, {
      cwd: HOME,
      ...asUser(user, { ...process.env, ...env }),
      stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
      // Its own group: Ctrl-C reaches only us, and we stop the others in order.
      detached: true,
    })
    child.stdout?.on('data', log)
    child.stderr?.on('data', log)
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
  const looks =
    health === undefined
      ? undefined
      : watchHealth(health, lookMs, () => {
          say(`${name} has not answered ${MOST_MISSED} times in a row, and is started again`)
          child?.kill('SIGKILL')
        })
  return {
    async stop() {
      isStopping = true
      clearInterval(looks)
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

const LOOK_MS = 5000
const MOST_MISSED = 6

/** @param {string} url @param {number} lookMs @param {() => void} dead called once for each time that it has stopped to answer */
function watchHealth(url, lookMs, dead) {
  let missed = 0
  let isAsking = false
  let hasAnswered = false
  const looks = setInterval(() => {
    if (isAsking) return
    isAsking = true
    void fetch(url, { signal: AbortSignal.timeout(lookMs * 0.9) })
      .then((reply) => reply.body?.cancel())
      .then(
        () => {
          missed = 0
          hasAnswered = true
        },
        () => {
          missed += 1
        },
      )
      .finally(() => {
        isAsking = false
        // What has not answered yet is starting.
        if (!hasAnswered || missed < MOST_MISSED) return
        missed = 0
        hasAnswered = false
        dead()
      })
  }, lookMs)
  looks.unref()
  return looks
}

const MOST_LOG_BYTES = 20 * 1024 * 1024
const KEPT_LOGS = 3

/**
 * A log that is bounded: when it is full it is kept beside the new one as `.1`, that one as `.2`, and the oldest goes.
 * @param {string} path @param {number} most
 */
export function openLog(path, most = MOST_LOG_BYTES) {
  let file = openSync(path, 'a', 0o600)
  let size = fstatSync(file).size
  /** @param {Buffer | string} data */
  return (data) => {
    try {
      if (size > most) {
        closeSync(file)
        for (let index = KEPT_LOGS - 1; index >= 1; index -= 1)
          tryRename(`${path}.${index}`, `${path}.${index + 1}`)
        tryRename(path, `${path}.1`)
        file = openSync(path, 'a', 0o600)
        size = 0
      }
      size += writeSync(file, /** @type {Buffer} */ (data))
    } catch {
      // A full disk takes no log; what is logged does not stop for it.
    }
  }
}

/** @param {string} from @param {string} to */
function tryRename(from, to) {
  try {
    renameSync(from, to)
  } catch {
    // It is not there yet.
  }
}
