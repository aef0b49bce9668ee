import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, statfsSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { alone } from './alone.mjs'
import { say, SetupError } from './say.mjs'

export const HOME = join(dirname(fileURLToPath(import.meta.url)), '..', '..')
/** Held by whoever installs or builds here. */
const LOCK = join(HOME, '.setup.lock')

/** @param {string[]} words @param {import('node:child_process').SpawnSyncOptions} [options] */
export function run(words, options = {}) {
  const [program = '', ...rest] = words
  return spawnSync(program, rest, {
    cwd: HOME,
    encoding: 'utf8',
    stdio: 'pipe',
    maxBuffer: 1 << 28,
    ...options,
  })
}

export function checkNode() {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number)
  if (major > 20 || (major === 20 && minor >= 19)) return
  throw new SetupError(`Node.js 20.19 or newer is needed; this is ${process.versions.node}.`)
}

/** @param {number} neededMiB @param {string} folder */
export function checkDisk(neededMiB, folder) {
  const { bavail, bsize } = statfsSync(folder)
  const freeMiB = Math.floor((bavail * bsize) / 1024 ** 2)
  if (freeMiB >= neededMiB) return
  throw new SetupError(
    `The disk of ${folder} has ${freeMiB} MiB free; ${neededMiB} MiB are needed. Make room and start again.`,
  )
}

/** Installs the npm packages when they are missing or the lock file has changed since. */
export function installPackages() {
  const stamp = join(HOME, 'node_modules', '.rack-lock')
  const wanted = createHash('sha256')
    .update(readFileSync(join(HOME, 'package-lock.json')))
    .digest('hex')
  const isDone = () => existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted
  alone({ lock: LOCK, isDone, work: () => install(stamp, wanted) })
}

/** @param {string} stamp @param {string} wanted */
function install(stamp, wanted) {
  checkDisk(1500, HOME)
  say('installing packages with npm, about a minute')
  const done = run(['npm', 'ci', '--no-audit', '--no-fund', '--loglevel=error'], {
    env: { ...process.env, PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD: '1' },
  })
  if (done.status !== 0) {
    const said = `${done.stderr}`
      .split('\n')
      .filter((line) => /^npm error ./.test(line))
      .slice(0, 6)
      .join('\n')
    throw new SetupError(
      `npm could not install the packages (is its registry reachable, may this user write here?):\n${said}`,
    )
  }
  writeFileSync(stamp, wanted)
}

/** Debian packages, only when `isThere` says that they are missing. @param {string[]} names @param {() => boolean} isThere */
export function installDebian(names, isThere) {
  if (isThere()) return
  const list = names.join(' ')
  const asRoot =
    process.getuid?.() === 0 ? [] : run(['sudo', '-n', 'true']).status === 0 ? ['sudo', '-n'] : null
  if (asRoot === null || run(['sh', '-c', 'command -v apt-get']).status !== 0) {
    throw new SetupError(
      `Debian's ${list} is missing, and this user may not install it. Ask an administrator for: apt-get install ${list}`,
    )
  }
  say(`installing Debian's ${list}`)
  // Without a run level no service is started that comes with a package.
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive', RUNLEVEL: '1' }
  // Another one that installs just now is waited for.
  const apt = [...asRoot, 'apt-get', '-qq', '-o', 'DPkg::Lock::Timeout=300']
  run([...apt, 'update'], { env })
  const done = run([...apt, 'install', '-y', '--no-install-recommends', ...names], { env })
  if (done.status !== 0 || !isThere()) {
    throw new SetupError(
      `apt-get could not install ${list}:\n${`${done.stderr}`.trim().split('\n').slice(-4).join('\n')}`,
    )
  }
}

/** Builds the web application when its sources have changed since the last build. */
export function buildWeb() {
  const stamp = join(HOME, 'build', '.rack-stamp')
  const wanted = fingerprint(['web', 'core', 'db', 'package-lock.json', 'svelte.config.js', 'vite.config.ts'])
  const isDone = () => existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted
  alone({ lock: LOCK, isDone, work: () => build(stamp, wanted) })
}

/** Builds the programs beside it (vite.programs.config.ts) when their sources have changed since. */
export function buildPrograms() {
  const stamp = join(HOME, 'programs', '.rack-stamp')
  const config = 'vite.programs.config.ts'
  const wanted = fingerprint([
    'collector',
    'core',
    'db',
    'protocols',
    'standins',
    'package-lock.json',
    config,
  ])
  const isDone = () => existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted
  const work = () => {
    checkDisk(300, HOME)
    viteBuild(['--config', config], 'The programs beside the web application')
    writeFileSync(stamp, wanted)
  }
  alone({ lock: LOCK, isDone, work })
}

/** @param {string} stamp @param {string} wanted */
function build(stamp, wanted) {
  checkDisk(300, HOME)
  say('building the web application, about a minute')
  viteBuild([], 'The web application')
  writeFileSync(stamp, wanted)
}

/** @param {string[]} words @param {string} what */
function viteBuild(words, what) {
  const env = { ...process.env, NODE_ENV: 'production' }
  const done = run(['npx', 'vite', 'build', ...words, '--logLevel', 'error'], { env })
  if (done.status !== 0) throw new SetupError(`${what} could not be built:\n${done.stdout}${done.stderr}`)
}

/** A hash over the contents of files and folders. @param {string[]} paths */
function fingerprint(paths) {
  const hash = createHash('sha256')
  /** @param {string} path */
  const add = (path) => {
    if (path === join('web', 'e2e')) return
    if (statSync(join(HOME, path)).isDirectory()) {
      for (const name of readdirSync(join(HOME, path)).sort()) add(join(path, name))
    } else if (!path.endsWith('.test.ts')) {
      hash.update(path).update(readFileSync(join(HOME, path)))
    }
  }
  paths.forEach(add)
  return hash.digest('hex')
}
