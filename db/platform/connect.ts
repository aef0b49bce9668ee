import { CamelCasePlugin, Kysely, PostgresDialect, sql } from 'kysely'
import pg from 'pg'
import type { Database } from './schema.ts'

export type Db = Kysely<Database>

/** A pool of connections. A connection that the server drops while idle is replaced, and is no crash of ours. */
export function openPool(url: string, most = 8): pg.Pool {
  const pool = new pg.Pool({
    connectionString: url,
    max: most,
    connectionTimeoutMillis: 5000,
    keepAlive: true,
    // Compiling a statement takes ten times as long as any of ours runs, and its cost is guessed from tables as they were.
    options: '-c jit=off',
  })
  pool.on('error', () => undefined)
  pool.on('connect', (client) => client.on('error', () => undefined))
  return pool
}

export function connect(pool: pg.Pool): Db {
  return new Kysely<Database>({
    dialect: new PostgresDialect({ pool: preparing(pool) }),
    // Keys inside JSON columns are data, not column names.
    plugins: [new CamelCasePlugin({ maintainNestedObjectKeys: true })],
  })
}

const PREPARED = /^\/\* prepared (\w+) \*\//
/** What comes so often on a connection is planned once there: planning takes as long as running it, or longer. */
const OFTEN = 4
/** So many plans a connection keeps at most: texts with a list in them differ by its length, and do not end. */
const MOST_PLANS = 200
const LONGEST_TEXT = 8000

/** The name under which a statement of a connection is prepared; `undefined` of one that is planned each time. */
function planner(): (text: string) => string | undefined {
  const seen = new Map<string, number>()
  const names = new Map<string, string>()
  return (text) => {
    const named = PREPARED.exec(text)?.[1] ?? names.get(text)
    if (named !== undefined || names.size >= MOST_PLANS || text.length > LONGEST_TEXT) return named
    const times = (seen.get(text) ?? 0) + 1
    if (times < OFTEN) {
      if (seen.size > 10 * MOST_PLANS) seen.clear()
      seen.set(text, times)
      return undefined
    }
    seen.delete(text)
    names.set(text, `often_${names.size}`)
    return names.get(text)
  }
}

/** Of lists a kept plan assumes some ten elements; for a long one it would be a bad plan. */
const LONGEST_LIST = 100

const isPlannedOnce = (text: string, values: unknown): boolean =>
  PREPARED.test(text) ||
  (/^\s*(select|with)\b/.test(text) &&
    !(Array.isArray(values) && values.some((each) => Array.isArray(each) && each.length > LONGEST_LIST)))

const areReady = new WeakSet<pg.PoolClient>()

/**
 * Statements that come often are prepared by themselves; those that begin with the comment `prepared NAME` at once, under
 * that name.
 */
function preparing(pool: pg.Pool): { connect(): Promise<pg.PoolClient>; end(): Promise<void> } {
  return {
    async connect() {
      const client = await pool.connect()
      if (areReady.has(client)) return client
      areReady.add(client)
      const query = client.query.bind(client) as (...words: unknown[]) => unknown
      const nameOf = planner()
      const withPlan = (text: unknown, values: unknown, ...rest: unknown[]): unknown => {
        const name = typeof text === 'string' && isPlannedOnce(text, values) ? nameOf(text) : undefined
        return name === undefined ? query(text, values, ...rest) : query({ name, text, values })
      }
      client.query = withPlan as typeof client.query
      return client
    },
    end: () => pool.end(),
  }
}

/** In a transaction of its own, or in the one that is under way. */
export const within = <T>(db: Db, work: (trx: Db) => Promise<T>): Promise<T> =>
  db.isTransaction ? work(db) : db.transaction().execute(work)

/** Something that may be there once is there already. */
export class AlreadyThere extends Error {
  constructor(
    /** The constraint of the database that says so. */
    readonly constraint: string,
    options: ErrorOptions,
  ) {
    super(`something is there already: ${constraint}`, options)
  }
}

/** PostgreSQL's code for a unique violation (appendix A, class 23). */
const UNIQUE_VIOLATION = '23505'

/**
 * In a transaction of its own.
 * @throws AlreadyThere when something would be there twice
 */
export async function transact<T>(db: Db, work: (trx: Db) => Promise<T>): Promise<T> {
  try {
    return await within(db, work)
  } catch (error) {
    if (!(error instanceof Error && 'code' in error && error.code === UNIQUE_VIOLATION)) throw error
    const constraint = 'constraint' in error ? String(error.constraint) : ''
    throw new AlreadyThere(constraint, { cause: error })
  }
}

/** Whether an error says that the server is away or going, as opposed to that a statement is wrong. */
export function isServerAway(error: unknown): boolean {
  if (!(error instanceof Error)) return false
  if (isServerAway(error.cause)) return true
  const code = 'code' in error && typeof error.code === 'string' ? error.code : ''
  // 57P0x: the server is stopped or starting; 08xxx: connection exceptions; 53xxx: out of disk, memory or connections.
  if (/^(57P0\d|08...|53...)$/.test(code)) return true
  if (/^(ECONNREFUSED|ECONNRESET|EPIPE|ETIMEDOUT|ENOTFOUND)$/.test(code)) return true
  return /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error/.test(
    error.message,
  )
}

/** What the clock of the database says; ms since the epoch. */
export async function databaseClock(db: Db): Promise<number> {
  const { rows } = await sql<{
    atMs: number
  }>`select extract(epoch from clock_timestamp())::float8 * 1000 as "atMs"`.execute(db)
  return rows[0]!.atMs
}

/** Rejects when the server does not answer. */
export async function ping(db: Db): Promise<void> {
  await sql`select 1`.execute(db)
}

/** What several processes may not do at the same time, each by a number of its own. */
const LOCKS = { start: 7_303 } as const

/** Waits until no other process is at it, then works. */
export async function oneAtATime(db: Db, what: keyof typeof LOCKS, work: () => Promise<void>): Promise<void> {
  await db.connection().execute(async (held) => {
    await sql`select pg_advisory_lock(${LOCKS[what]})`.execute(held)
    try {
      await work()
    } finally {
      await sql`select pg_advisory_unlock(${LOCKS[what]})`.execute(held)
    }
  })
}
