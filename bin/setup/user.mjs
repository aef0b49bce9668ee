// Whom our processes run as when root starts them: a user of their own, who owns what they write and nothing else.
import { chmodSync, chownSync, existsSync, lchownSync, lstatSync, mkdirSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { HOME, run } from './packages.mjs'
import { say, SetupError } from './say.mjs'

const NAME = 'restless-rack'

/** @typedef {{ uid: number, gid: number }} User */

/** What the processes write in the folder of an installation; all else in there is root's. @param {string} folder */
const writtenIn = (folder) => [
  'secret.key',
  'spool',
  'standins',
  ...readdirSync(folder).filter((name) => name.startsWith('spool-')),
]

/**
 * The user whom root's processes run as, made where it is missing, with what it needs of a folder. `null` when whoever
 * starts us is not root, or the user could not even read the program: then it says so, and they run as root.
 * @param {string} folder @param {string} program where what runs lies @returns {User | null}
 */
export function ownUser(folder, program = HOME) {
  if (process.getuid?.() !== 0) return null
  const words = ['--system', '--user-group', '--no-create-home', '--home-dir', '/nonexistent']
  if (idOf('-u') === null && run(['useradd', ...words, '--shell', '/usr/sbin/nologin', NAME]).status !== 0)
    throw new SetupError(
      `The user ${NAME}, as whom it runs, could not be made. Make it (useradd), or start it as another user than root.`,
    )
  const user = { uid: idOf('-u') ?? 0, gid: idOf('-g') ?? 0 }
  // Not all that is here may be open to others: a folder of root's above it, or the Node.js that runs this.
  const reads = 'test -r "$1" && test -x "$2" && "$3" --version'
  const paths = [program, folder, process.execPath]
  if (run(['runuser', '-u', NAME, '--', 'sh', '-c', reads, 'sh', ...paths], { cwd: '/' }).status !== 0) {
    say(`it runs as root: the user ${NAME} cannot reach ${program}, ${folder} or ${process.execPath}`)
    return null
  }
  for (const name of ['spool', 'standins']) mkdirSync(join(folder, name), { recursive: true, mode: 0o700 })
  for (const name of writtenIn(folder)) give(join(folder, name), user)
  // Which commands may run is root's to say, and for them to read.
  const commands = join(folder, 'commands.json')
  if (existsSync(commands)) {
    chownSync(commands, 0, user.gid)
    chmodSync(commands, 0o640)
  }
  return user
}

/** How a process is started with the rights of a user. @param {User | null} user @param {NodeJS.ProcessEnv} env */
export const asUser = (user, env) =>
  user === null ? { env } : { env: { ...env, HOME: '/nonexistent' }, uid: user.uid, gid: user.gid }

/** @param {'-u' | '-g'} which */
function idOf(which) {
  const done = run(['id', which, NAME])
  return done.status === 0 ? Number(done.stdout) : null
}

/** A file, or a folder with what is in it; a link is given itself, never what it leads to. @param {string} path @param {User} user */
function give(path, user) {
  const it = lstatSync(path, { throwIfNoEntry: false })
  if (it === undefined) return
  lchownSync(path, user.uid, user.gid)
  if (it.isDirectory()) for (const name of readdirSync(path)) give(join(path, name), user)
}
