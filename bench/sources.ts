import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { type ChildProcess, spawn } from 'node:child_process'
import { setTimeout as pause } from 'node:timers/promises'
import { sql } from 'kysely'
import { openKeyFile, insertCredential, insertSource } from '#db/sources'
import { SPARING_HEAP } from '../bin/setup/children.mjs'
import { freePort, freePorts } from '../bin/setup/postgres.mjs'
import { UPS_COMMUNITY } from '../standins/site/index.ts'
import { report } from './measure.ts'
import { openBenchCluster } from './store/cluster.ts'

// One collector with 2,000 sources each read every 60 s: UPS agents by SNMP over real sockets, on one machine with the
// agents and PostgreSQL. Minutes are measured after two of warming up.
const SOURCES = 2000
const INTERVAL_S = 60
const AGENTS = 8
const WARMING_MIN = 2
const MEASURED_MIN = 4
const HERTZ = 100

const bench = await openBenchCluster()
const children: ChildProcess[] = []
const start = (words: string[], env: NodeJS.ProcessEnv = {}): ChildProcess => {
  const child = spawn(process.execPath, words, {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  children.push(child)
  return child
}
try {
  const { db, scratch, url } = bench
  const first = await freePorts(AGENTS)
  start(['--import', 'tsx', 'bench/agents.ts', String(first), String(AGENTS)])
  const key = openKeyFile(join(scratch, 'secret.key'))
  const credentialId = await insertCredential(db, key, {
    name: 'bench',
    kind: 'snmp-v2c',
    secret: { community: UPS_COMMUNITY },
    hosts: ['127.0.0.0/8'],
  })
  for (let index = 0; index < SOURCES; index += 1)
    await insertSource(db, {
      name: `card ${index}`,
      protocol: 'snmp',
      address: `127.0.0.1:${first + (index % AGENTS)}`,
      settings: { version: 'v2c' },
      intervalSeconds: INTERVAL_S,
      credentialId,
      token: null,
    })
  const collector = start([...SPARING_HEAP, '--import', 'tsx', 'collector/main.ts'], {
    RACK_DATABASE_URL: url,
    RACK_DATA: scratch,
    RACK_RECEIVER_PORT: String(await freePort()),
    RACK_LOG: 'warn',
  })
  await pause(WARMING_MIN * 60_000)

  const [fromMs, fromTicks] = [Date.now(), ticksOf(collector.pid!)]
  let mostMiB = 0
  const lateness: number[] = []
  for (let second = 0; second < MEASURED_MIN * 60; second += 10) {
    await pause(10_000)
    mostMiB = Math.max(mostMiB, residentMiB(collector.pid!))
    // How long after its slot each reading of the last ten seconds was there.
    const { rows } = await sql<{ ms: number }>`
      select (extract(epoch from last_heard_at - slot.ts) * 1000)::float8 as ms from source
      cross join lateral (select ts from hot where hot.source_id = source.id order by ts desc limit 1) slot
      where last_heard_at > now() - interval '10 seconds'`.execute(db)
    lateness.push(...rows.map((row) => row.ms))
  }
  const seconds = (Date.now() - fromMs) / 1000
  const share = (ticksOf(collector.pid!) - fromTicks) / HERTZ / seconds
  lateness.sort((a, b) => a - b)
  const p99 = lateness[Math.floor(lateness.length * 0.99)] ?? Infinity
  const expected = (SOURCES * seconds) / INTERVAL_S
  const { rows: failing } = await sql<{ count: string }>`
    select count(*)::text as count from source where failure is not null`.execute(db)
  report(`${SOURCES} sources each ${INTERVAL_S} s`, [
    {
      what: 'the collector, of one core',
      measured: `${(share * 100).toFixed(0)} %`,
      limit: '< 60 %',
      isMet: share < 0.6,
    },
    {
      what: 'lateness, 99th percentile',
      measured: `${(p99 / 1000).toFixed(2)} s (of ${lateness.length} readings; expected about ${expected.toFixed(0)}; ${failing[0]!.count} sources fail)`,
      limit: '< 5 s',
      isMet: p99 < 5000 && lateness.length > expected * 0.9,
    },
    {
      what: 'memory, resident',
      measured: `${mostMiB.toFixed(0)} MiB`,
      limit: '< 400 MiB',
      isMet: mostMiB < 400,
    },
  ])
} finally {
  for (const child of children) child.kill('SIGKILL')
  await bench.close()
}

/** Processor time of a process, all of its threads, in ticks (proc(5), utime and stime). */
function ticksOf(pid: number): number {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]!.split(' ')
  return Number(fields[11]) + Number(fields[12])
}

function residentMiB(pid: number): number {
  return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]) / 1024
}
