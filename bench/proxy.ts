import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { Agent, fetch as fetchBy } from 'undici'
import { connect, openPool } from '#db/platform'
import { freePort } from '../bin/setup/postgres.mjs'
import { newAuthority, newServerCertificate } from '../standins/redfish/authority.ts'
import { openDemo } from './installation.ts'
import { report } from './measure.ts'

// Two web processes and two collectors behind Debian's haproxy with TLS, by the configuration that ships: people are
// served by both, changes reach pages of both, and when one of each is killed the other does its work.

const REQUESTS = 40
/** Some are asked once a minute, and it takes some seconds to notice that nobody asks them. */
const TAKEN_OVER_MS = 80_000

const folder = mkdtempSync(join(tmpdir(), 'rack-proxy-'))
const front = await freePort()
const origin = `https://localhost:${front}`
const authority = await newAuthority('bench authority', Date.now())
const pair = await newServerCertificate(authority, 'localhost', Date.now())
writeFileSync(join(folder, 'rack.pem'), `${pair.certificatePem}\n${pair.keyPem}`, { mode: 0o600 })

const demo = await openDemo(
  { RACK_DEMO_DAYS: '2', RACK_ORIGIN: origin, RACK_PROXIES: '127.0.0.1' },
  { words: ['--webs', '2', '--collectors', '2'], isSignedIn: false },
)
const agent = new Agent({ connect: { ca: authority.certificatePem } })
let haproxy: ChildProcess | null = null
const db = connect(openPool(demo.databaseUrl, 2))

function startProxy(): void {
  const text = readFileSync(new URL('../hosts/haproxy.cfg', import.meta.url), 'utf8')
    .replace('bind :443 ssl crt /etc/haproxy/rack.pem', `bind 127.0.0.1:${front} ssl crt ${folder}/rack.pem`)
    .replace('127.0.0.1:8460', `127.0.0.1:${demo.port}`)
    .replace('127.0.0.1:8476', `127.0.0.1:${demo.port + 16}`)
  writeFileSync(join(folder, 'haproxy.cfg'), text)
  haproxy = spawn('/usr/sbin/haproxy', ['-f', join(folder, 'haproxy.cfg'), '-db'], { stdio: 'inherit' })
}

const ask = (path: string, cookie: string, how: Parameters<typeof fetchBy>[1] = {}) =>
  fetchBy(origin + path, {
    dispatcher: agent,
    redirect: 'manual',
    ...how,
    headers: { cookie, accept: 'text/html', origin },
  })

const pidsOf = (command: string): number[] =>
  execFileSync('pgrep', ['-f', command], { encoding: 'utf8' })
    .trim()
    .split('\n')
    .map(Number)
    .filter((pid) => readFileSync(`/proc/${pid}/environ`, 'utf8').includes(`RACK_DATA=${demo.folder}`))

async function signIn(): Promise<{ cookie: string; flags: string }> {
  const body = new URLSearchParams({ email: 'asta@kittiwake.example', password: 'kittiwake-demo' })
  const reply = await ask('/sign-in', '', { method: 'POST', body })
  const set = reply.headers.getSetCookie()
  return { cookie: set.map((line) => line.split(';')[0]).join('; '), flags: set.join(' | ') }
}

/** Opens pages' streams until each process has one; what each has heard. */
async function listenBy(cookie: string, streams: number, end: AbortSignal): Promise<string[]> {
  const heard = Array.from({ length: streams }, () => '')
  await Promise.all(
    heard.map(async (_, index) => {
      const reply = await ask('/live', cookie, { signal: end })
      void (async () => {
        for await (const chunk of reply.body ?? [])
          heard[index] += Buffer.from(chunk as Uint8Array).toString()
      })().catch(() => undefined)
    }),
  )
  return heard
}

async function statuses(cookie: string, count: number): Promise<number[]> {
  const found: number[] = []
  for (let request = 0; request < count; request += 1) {
    const reply = await ask('/', cookie).catch(() => null)
    found.push(reply?.status ?? 0)
    await reply?.text()
  }
  return found
}

try {
  startProxy()
  await pause(6000)
  const { cookie, flags } = await signIn()
  const all = await statuses(cookie, REQUESTS)
  const end = new AbortController()
  const heard = await listenBy(cookie, 4, end.signal)
  await pause(1000)
  const before = heard.map((text) => text.length)
  const alert = await db
    .selectFrom('alert')
    .select('id')
    .where('takenBy', 'is', null)
    .where('clearedAt', 'is', null)
    .executeTakeFirstOrThrow()
  const taken = await ask(`/alerts/${alert.id}/take`, cookie, {
    method: 'POST',
    body: new URLSearchParams(),
  })
  await pause(2000)
  const reached = heard.filter((text, index) => text.slice(before[index]).includes('alerts')).length
  end.abort()
  const address = await db
    .selectFrom('change')
    .select('address')
    .where('kind', '=', 'sign-in')
    .orderBy('id', 'desc')
    .executeTakeFirst()

  const [web] = pidsOf('setup/web.mjs')
  process.kill(web!, 'SIGKILL')
  const after = await statuses(cookie, REQUESTS)
  const [collector] = pidsOf('collector/main.ts')
  const killedMs = Date.now()
  process.kill(collector!, 'SIGKILL')
  await pause(TAKEN_OVER_MS)
  const silent = await db
    .selectFrom('source')
    .select(['name', 'lastHeardAt', 'intervalSeconds'])
    .where('protocol', '!=', 'otlp')
    .where('failure', 'is', null)
    .where('lastHeardAt', '<', new Date(killedMs))
    .execute()
  report('Two web processes and two collectors behind haproxy', [
    {
      what: 'pages by both',
      measured: `${all.filter((status) => status === 200).length} of ${REQUESTS} answered 200`,
      limit: 'all',
      isMet: all.every((status) => status === 200),
    },
    {
      what: 'cookies are for TLS alone',
      measured: /Secure/i.test(flags) ? 'yes' : flags,
      limit: 'yes',
      isMet: /Secure/i.test(flags),
    },
    {
      what: 'a change by one reaches open pages of both',
      measured: `${reached} of ${heard.length}; the change answered ${taken.status}; signed in from ${address?.address ?? 'nowhere'}`,
      limit: 'all',
      isMet: reached === heard.length && taken.status < 400,
    },
    {
      what: 'pages while one of them is killed',
      measured: `${after.filter((status) => status === 200).length} of ${REQUESTS} answered 200`,
      limit: 'all',
      isMet: after.every((status) => status === 200),
    },
    {
      what: `sources that nobody has read ${TAKEN_OVER_MS / 1000} s after a collector was killed`,
      measured: silent.length === 0 ? '0' : `${silent.length}: ${silent.map(({ name }) => name).join(', ')}`,
      limit: '0',
      isMet: silent.length === 0,
    },
  ])
} finally {
  ;(haproxy as ChildProcess | null)?.kill('SIGTERM')
  await db.destroy()
  await agent.close()
  await demo.close()
  rmSync(folder, { recursive: true, force: true })
}
