import { spawn, spawnSync } from 'node:child_process'
import { chmodSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'kysely'
import pg from 'pg'
import { connect, type Db, openPool, migrate } from '#db/platform'
import { insertSource } from '#db/sources'
import { freePort, installPostgres, openCluster } from '../../bin/setup/postgres.mjs'
import { SEEDS } from '#protocols/seeds'

const SETTINGS =
  '-c shared_buffers=1GB -c max_wal_size=4GB -c wal_compression=lz4 -c jit=off -c checkpoint_timeout=1h -c maintenance_work_mem=512MB'

const ROWS = 'rows'

export interface BenchCluster {
  readonly db: Db
  readonly url: string
  /** Runs statements of psql (its backslash commands included) with everything durable. @returns milliseconds */
  readonly psql: (script: string) => number
  /** A second database, for rows to compare with: a long statement in there does not hold back the store's vacuum. */
  readonly rowsUrl: string
  /** The same as `psql` in that database, beside what else goes on; rejects with what psql said. */
  readonly psqlRows: (script: string) => Promise<void>
  readonly scratch: string
  /** Restarts the server and, where it may, empties the system's page cache. @returns whether it could */
  readonly chill: () => boolean
  readonly close: () => Promise<void>
}

/**
 * A private cluster with fsync and full page writes on, as one box would run it.
 * @param kept a folder that stays when the bench is over, to be asked again
 */
export async function openBenchCluster(kept?: string): Promise<BenchCluster> {
  installPostgres()
  if (kept !== undefined) mkdirSync(kept, { recursive: true })
  const scratch = kept ?? mkdtempSync(join(process.env['RACK_BENCH_DATA'] ?? tmpdir(), 'rack-bench-'))
  chmodSync(scratch, 0o755)
  const cluster = await openCluster({ folder: scratch, port: await freePort(), extra: SETTINGS })
  const db = connect(openPool(cluster.url))
  await migrate(db, SEEDS)
  const { rows: others } = await sql`select 1 from pg_database where datname = ${ROWS}`.execute(db)
  if (others.length === 0) await sql`create database ${sql.id(ROWS)}`.execute(db)
  const rowsUrl = Object.assign(new URL(cluster.url), { pathname: `/${ROWS}` }).href
  return {
    db,
    url: cluster.url,
    rowsUrl,
    scratch,
    psql(script) {
      const startedMs = performance.now()
      const done = spawnSync('psql', ['-q', '-v', 'ON_ERROR_STOP=1', cluster.url], {
        input: script,
        encoding: 'utf8',
        maxBuffer: 1 << 28,
      })
      if (done.status !== 0) throw new Error(done.stderr)
      return performance.now() - startedMs
    },
    psqlRows(script) {
      const child = spawn('psql', ['-q', '-v', 'ON_ERROR_STOP=1', rowsUrl], {
        stdio: ['pipe', 'ignore', 'pipe'],
      })
      let said = ''
      child.stderr.on('data', (data: Buffer) => (said += data.toString()))
      child.stdin.end(script)
      return new Promise((resolve, reject) => {
        child.once('error', reject)
        child.once('close', (code) => (code === 0 ? resolve() : reject(new Error(said))))
      })
    },
    chill() {
      cluster.stop()
      const isCold = spawnSync('sh', ['-c', 'sync; echo 3 > /proc/sys/vm/drop_caches']).status === 0
      cluster.start()
      return isCold
    },
    async close() {
      await db.destroy()
      if (kept !== undefined) return cluster.stop()
      cluster.kill()
      rmSync(scratch, { recursive: true, force: true })
    },
  }
}

export interface MadeSource {
  readonly sourceId: number
  readonly layout: { readonly id: number; readonly seriesIds: number[] }
}

/** Sources with so many series each and nothing read yet. */
export async function makeSources(db: Db, sources: number, seriesEach: number): Promise<MadeSource[]> {
  const made: MadeSource[] = []
  const { rows: before } = await sql<{ count: string }>`select count(*)::text as count from source`.execute(
    db,
  )
  for (let index = 0; index < sources; index += 1) {
    const sourceId = await insertSource(db, {
      name: `bench ${Number(before[0]!.count) + index}`,
      protocol: 'redfish',
      address: 'https://127.0.0.1',
      settings: {},
      intervalSeconds: 60,
      credentialId: null,
      token: null,
    })
    const { rows } = await sql<{ id: number; layout: number }>`
      with g as (insert into gear (name, kind) values (${`bench gear ${sourceId}`}, 'server') returning id),
        p as (insert into part (gear_id, key, kind, name) select g.id, n::text, 'sensor', 'part ' || n from g, generate_series(1, ${seriesEach}::int) n returning id, gear_id),
        s as (insert into series (source_id, gear_id, part_id, measure) select ${sourceId}, gear_id, id, 'hw.temperature' from p returning id),
        l as (insert into layout (source_id, series_ids) select ${sourceId}, array_agg(id order by id) from s returning id)
      select s.id, l.id as layout from s, l order by s.id`.execute(db)
    made.push({ sourceId, layout: { id: rows[0]!.layout, seriesIds: rows.map((row) => row.id) } })
  }
  return made
}

/** One connection of its own, for statements that are timed by themselves. */
export async function openClient(url: string): Promise<pg.Client> {
  const client = new pg.Client({ connectionString: url })
  await client.connect()
  return client
}

export async function walPosition(db: Db): Promise<bigint> {
  const { rows } = await sql<{
    at: string
  }>`select (pg_current_wal_insert_lsn() - '0/0')::text as at`.execute(db)
  return BigInt(rows[0]!.at)
}
