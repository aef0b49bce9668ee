// What every command asks before it touches the folder of an installation, and how it runs our programs.
import { existsSync, readFileSync } from 'node:fs'
import { run } from './packages.mjs'
import { SetupError } from './say.mjs'
import { asUser } from './user.mjs'

/** Stands in the lock beside the process while that ends. */
export const STOPPING = 'stopping'

/**
 * Runs one of our built programs to its end.
 * @param {string} program @param {Record<string, string>} env @param {string} failure
 * @param {import('./user.mjs').User | null} user whose rights it has, ours when nobody is given
 */
export function runToEnd(program, env, failure, user = null) {
  const done = run([process.execPath, program], {
    ...asUser(user, { ...process.env, ...env }),
    stdio: ['ignore', 'inherit', 'inherit'],
  })
  if (done.status !== 0) throw new SetupError(`${failure}; the lines above say why.`)
}

/** @param {string} lock the file that a running installation has in its folder */
export function refuseSecondRun(lock) {
  if (!existsSync(lock)) return
  const [first = '', doing] = readFileSync(lock, 'utf8').split(' ')
  const pid = Number(first)
  const words = `/proc/${pid}/cmdline`
  if (existsSync(words) && readFileSync(words, 'utf8').match(/(start|rack)\.mjs/) !== null) {
    if (doing === STOPPING)
      throw new SetupError(
        `It is stopping, as process ${pid}; that takes a few seconds. Start it again then.`,
      )
    throw new SetupError(
      `It is running already, as process ${pid}. Stop that one first (Ctrl-C there, or kill ${pid}).`,
    )
  }
}
