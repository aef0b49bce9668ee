import { spawn } from 'node:child_process'
import { mkdirSync, rmSync, writeFileSync } from 'node:fs'
import { isIP } from 'node:net'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { keep, SPARING_HEAP } from './children.mjs'
import { buildPrograms, buildWeb, checkDisk, checkNode, HOME, installPackages, run } from './packages.mjs'
import { refuseSecondRun, runToEnd, STOPPING } from './running.mjs'
import { checkPort, installPostgres, openCluster, urlAs } from './postgres.mjs'
import { ownUser } from './user.mjs'
import { command, say, SetupError } from './say.mjs'

const MOST_COLLECTORS = 8
const MOST_WEBS = 4
const HELP = `bin/start [--no-demo] [--port N] [--collectors N] [--webs N] [--hear ADDRESS]

Starts Restless Rack on this machine, and installs first what is missing: its npm packages and Debian's PostgreSQL.
Ctrl-C stops everything.

  --no-demo   an empty installation for real gear; it asks for its first administrator
  --port N    the port of the web application, ${8460} if not given; the ports after it are used, too
  --collectors N   how many collectors share the sources, 1 if not given, at most ${MOST_COLLECTORS};
              should one die, the others take over what it asked
  --webs N    how many web processes show it, 1 if not given, at most ${MOST_WEBS}, for a proxy in front that shares
              the requests among them; the second is at port N+16, the third at N+17
  --hear ADDRESS   where pushes (port N+2), syslog (UDP and TCP, N+12) and SNMP notifications (UDP, N+13) are
              listened for, 127.0.0.1 if not given; 0.0.0.0 hears the whole network
  --help      this text

Everything it keeps lies in data/ (or where RACK_DATA points): the database, the key that seals credentials, and the
logs. The demo and the real installation keep theirs apart.`

await command(async () => {
  const { values } = parseArgs({
    options: {
      'no-demo': { type: 'boolean', default: false },
      port: { type: 'string', default: process.env['RACK_PORT'] ?? '8460' },
      collectors: { type: 'string', default: process.env['RACK_COLLECTORS'] ?? '1' },
      webs: { type: 'string', default: process.env['RACK_WEBS'] ?? '1' },
      hear: { type: 'string', default: process.env['RACK_HEAR'] ?? '127.0.0.1' },
      help: { type: 'boolean', default: false },
    },
  })
  if (values.help) return console.log(HELP)
  const isDemo = !values['no-demo']
  const base = Number(values.port)
  if (!Number.isInteger(base) || base < 1024 || base > 65_400) {
    throw new SetupError(`--port takes a number from 1024 to 65400; “${values.port}” is none.`)
  }
  const collectors = Number(values.collectors)
  if (!Number.isInteger(collectors) || collectors < 1 || collectors > MOST_COLLECTORS)
    throw new SetupError(
      `--collectors takes a number from 1 to ${MOST_COLLECTORS}; “${values.collectors}” is none.`,
    )
  const webs = Number(values.webs)
  if (!Number.isInteger(webs) || webs < 1 || webs > MOST_WEBS)
    throw new SetupError(`--webs takes a number from 1 to ${MOST_WEBS}; “${values.webs}” is none.`)
  if (isIP(values.hear) === 0)
    throw new SetupError(`--hear takes an address of this machine, as 0.0.0.0; “${values.hear}” is none.`)
  const folder = join(process.env['RACK_DATA'] ?? join(HOME, 'data'), isDemo ? 'demo' : 'real')
  const lock = join(folder, 'running')
  checkNode()
  makeFolder(folder)
  refuseSecondRun(lock)
  checkDisk(500, folder)
  for (const [port, what] of ports(base, { isDemo, collectors, webs })) await checkPort(port, what)
  writeFileSync(lock, String(process.pid))

  installPackages()
  installPostgres()
  buildWeb()
  buildPrograms()

  say('starting PostgreSQL')
  const cluster = await openCluster({ folder, port: base + 1, extra: '-c shared_buffers=256MB' })
  const letGo = cluster.keep()
  /** Who asks, stores and shows; they end side by side. @type {{ stop(): Promise<void> }[]} */
  const children = []
  /** Whom they ask: they end after them. @type {{ stop(): Promise<void> }[]} */
  const asked = []
  const stopAll = async () => {
    writeFileSync(lock, `${process.pid} ${STOPPING}`)
    letGo()
    await Promise.all(children.map((child) => child.stop()))
    await Promise.all(asked.map((child) => child.stop()))
    cluster.stop()
    rmSync(lock, { force: true })
  }
  let isStopping = false
  for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM', 'SIGHUP'])) {
    process.on(signal, () => {
      if (isStopping) return
      isStopping = true
      say('stopping')
      void stopAll().then(() => {
        say('stopped; nothing of it is running any more')
        process.exit(0)
      })
    })
  }

  const env = {
    // The collector owns the tables; what else fills them works as it does.
    RACK_DATABASE_URL: urlAs(cluster.url, cluster.roles, 'rack_collector'),
    RACK_DATA: folder,
    RACK_PORT: String(base),
    RACK_RECEIVER_PORT: String(base + 2),
    RACK_HEAR: values.hear,
    NODE_ENV: 'production',
  }
  const logFolder = join(folder, 'logs')
  try {
    const asAdministrator = {
      RACK_DATABASE_URL: cluster.url,
      RACK_ROLE_PASSWORDS: JSON.stringify(cluster.roles),
    }
    runToEnd(
      'programs/migrateNow.mjs',
      { ...env, ...asAdministrator },
      'The database could not be brought up to date',
    )
    const user = ownUser(folder)
    if (isDemo) {
      runToEnd('programs/load.mjs', env, 'The demo could not be loaded', user)
      say('starting the stand-ins')
      asked.push(keep({ name: 'standins', words: ['programs/standins.mjs'], env, logFolder, user }))
    }
    say('starting the collector and the web application')
    for (let index = 0; index < collectors; index += 1) {
      const name = `collector-${index + 1}`
      children.push(
        keep({
          name,
          words: [...SPARING_HEAP, 'bin/setup/child.mjs', 'programs/collector.mjs'],
          env: {
            ...env,
            RACK_COLLECTOR: name,
            RACK_RECEIVER_PORT: String(base + 2 + index),
            // The first has the ears of the installation.
            ...(index === 0
              ? { RACK_SYSLOG_PORT: String(base + 12), RACK_TRAP_PORT: String(base + 13) }
              : {}),
          },
          logFolder,
          user,
        }),
      )
    }
    for (let index = 0; index < webs; index += 1) {
      const name = index === 0 ? 'web' : `web-${index + 1}`
      const port = webPort(base, index)
      const health = `http://127.0.0.1:${port}/healthz`
      children.push(
        keep({
          name,
          words: ['bin/setup/child.mjs', 'bin/setup/web.mjs'],
          env: {
            ...env,
            RACK_PORT: String(port),
            RACK_DATABASE_URL: urlAs(cluster.url, cluster.roles, 'rack_web'),
          },
          logFolder,
          user,
          health,
        }),
      )
      await answers(health, () => isStopping)
    }
    if (isDemo && !isStopping) {
      const words = ['bin/setup/child.mjs', 'programs/layPast.mjs']
      children.push(keep({ name: 'past', words, env, logFolder, user, isOnce: true }))
    }
  } catch (error) {
    await stopAll()
    throw error
  }
  const isNew = !isDemo && (await hasNobody(base))
  if (isStopping) return
  say('ready')
  console.log(`\n  Restless Rack   http://127.0.0.1:${base}/\n`)
  if (isDemo) {
    console.log('  Sign in as      asta@kittiwake.example   administers')
    console.log('                  bo@kittiwake.example     operates')
    console.log('                  cleo@kittiwake.example   sees')
    console.log('  Password        kittiwake-demo\n')
    console.log('  Cause a fault   bin/standin cause petrel-07 stop-fan 3')
    console.log(
      `  What was told   http://127.0.0.1:${base + 14}/  (the stand-ins for mail, text messages and hooks)\n`,
    )
  } else {
    if (isNew) console.log('  The first to open it becomes its administrator.\n')
  }
  console.log('  Ctrl-C stops everything.\n')
  if (
    process.stdout.isTTY &&
    process.env['DISPLAY'] &&
    run(['sh', '-c', 'command -v xdg-open']).status === 0
  ) {
    spawn('xdg-open', [`http://127.0.0.1:${base}/`], { stdio: 'ignore', detached: true }).unref()
  }
})

/** Whether it asks for its first administrator. @param {number} base */
async function hasNobody(base) {
  const reply = await fetch(`http://127.0.0.1:${base}/`, {
    redirect: 'manual',
    headers: { accept: 'text/html' },
  }).catch(() => null)
  return reply?.headers.get('location') === '/setup'
}

/** @param {string} folder */
function makeFolder(folder) {
  try {
    mkdirSync(folder, { recursive: true })
    writeFileSync(join(folder, '.probe'), '')
    rmSync(join(folder, '.probe'))
  } catch (error) {
    const code = error instanceof Error && 'code' in error ? error.code : error
    throw new SetupError(
      `This user may not write to ${folder} (${code}). Set RACK_DATA to a folder that it may write to.`,
    )
  }
}

/** @param {number} base @param {number} index */
function webPort(base, index) {
  return index === 0 ? base : base + 15 + index
}

/** @param {number} base @param {{ isDemo: boolean, collectors: number, webs: number }} what @returns {[number, string][]} */
function ports(base, { isDemo, collectors, webs }) {
  /** @type {[number, string][]} */
  const own = [
    [base, 'the web application'],
    [base + 12, 'syslog'],
  ]
  for (let index = 1; index < webs; index += 1) own.push([webPort(base, index), `web-${index + 1}`])
  for (let index = 0; index < collectors; index += 1)
    own.push([
      base + 2 + index,
      index === 0 ? 'the receiver of pushes' : `the receiver of collector-${index + 1}`,
    ])
  return isDemo
    ? [
        ...own,
        [base + 10, "the stand-ins' control"],
        [base + 11, 'the mail sink'],
        [base + 14, 'the stand-ins for text messages and hooks'],
        [base + 15, 'the stand-in for a directory of people'],
      ]
    : own
}

/** @param {string} url @param {() => boolean} isOver */
async function answers(url, isOver) {
  const deadline = Date.now() + 60_000
  while (Date.now() < deadline && !isOver()) {
    const reply = await fetch(url).catch(() => null)
    if (reply?.ok) return
    await new Promise((resolve) => setTimeout(resolve, 150))
  }
  if (!isOver())
    throw new SetupError(
      `The web application did not answer at ${url} within a minute; its log lies in data/.`,
    )
}
