import { sql } from 'kysely'
import { type Db, within } from '../platform/connect.ts'

/** So long a collector counts as alive after it was seen. Its sources are free then, well within one interval: the shortest is 5 s. */
export const LEASE_MS = 4000
/** Collectors share the work one at a time: each sees what the others have. */
const LEASE_LOCK = 7_302
/**
 * Seen within a lease. A collector that died before the clock was set back would otherwise count as alive until it is
 * that late again.
 */
const isAlive = (leaseMs: number) => sql`abs(extract(epoch from now() - seen_at)) * 1000 < ${leaseMs}`
/** After the server came up, whoever held a lease before gets the chance to renew it. */
const GRACE_S = 5

/**
 * Says that a collector is alive, renews the leases of the sources that it asks, takes those that nobody holds, and
 * gives away what is more than its share.
 * @param leaseMs for how long nobody else asks them
 * @returns the sources that it holds from now on
 */
export async function keepLeases(db: Db, collector: string, leaseMs: number): Promise<number[]> {
  const until = sql`now() + ${leaseMs} * interval '1 millisecond'`
  return within(db, async (trx) => {
    await sql`select pg_advisory_xact_lock(${LEASE_LOCK})`.execute(trx)
    await sql`insert into collector (name) values (${collector})
      on conflict (name) do update set seen_at = now(),
        started_at = case when abs(extract(epoch from now() - collector.seen_at)) * 1000 < ${leaseMs}
          then collector.started_at else now() end`.execute(trx)
    const { rows: counts } = await sql<{ share: number }>`
      select ceil((select count(*) from source where protocol <> 'otlp') / greatest(1, count(*))::numeric)::int as share
      from collector where ${isAlive(leaseMs)}`.execute(trx)
    const { share } = counts[0]!
    await sql`
      update source set lease_holder = null, lease_until = null where id in (
        select id from source where lease_holder = ${collector} order by id offset ${share}
      )`.execute(trx)
    await sql`update source set lease_until = ${until} where lease_holder = ${collector}`.execute(trx)
    await sql`
      update source set lease_holder = ${collector}, lease_until = ${until} where id in (
        select id from source
        where protocol <> 'otlp' and lease_holder is distinct from ${collector} and (
          lease_holder is null
          or (
            (lease_until < now() or lease_until > now() + ${2 * leaseMs} * interval '1 millisecond')
            and pg_postmaster_start_time() < now() - make_interval(secs => ${GRACE_S})
          )
        )
        order by id
        limit greatest(0, ${share} - (select count(*) from source where lease_holder = ${collector}))
      )`.execute(trx)
    const { rows } = await sql<{ id: number }>`
      select id from source where lease_holder = ${collector} order by id`.execute(trx)
    return rows.map((row) => row.id)
  })
}

/** A pool of workers of the job queue, under whose name jobs are locked, says whose it is. */
export async function ownWorker(db: Db, collector: string, worker: string): Promise<void> {
  await sql`insert into collector (name, workers) values (${collector}, array[${worker}])
    on conflict (name) do update set workers = array_append(collector.workers, ${worker})`.execute(db)
}

/**
 * Gives back the jobs that dead collectors had begun: of those not seen within a lease, and of an earlier life of this
 * one. A job may be done twice then, and is never left undone.
 */
export async function releaseJobs(db: Db, leaseMs: number, formerLife: string | null): Promise<number> {
  return within(db, async (trx) => {
    const { rows } = await sql<{ workers: string[] }>`
      with dead as (
        select name, workers from collector
        where workers <> '{}' and (name = ${formerLife} or not (${isAlive(leaseMs)})) for update)
      update collector set workers = '{}' from dead where collector.name = dead.name
      returning dead.workers`.execute(trx)
    // One that died before it could say whose it was.
    const { rows: unknown } = await sql<{ worker: string }>`
      select distinct locked_by as worker from graphile_worker.jobs
      where locked_at < now() - interval '1 minute'
        and (task_identifier in ('notify', 'tell', 'mail') or task_identifier like 'command %')
        and not exists (select from collector where locked_by = any(workers))`.execute(trx)
    const workers = [...rows.flatMap((row) => row.workers), ...unknown.map(({ worker }) => worker)]
    if (workers.length === 0) return 0
    await sql`select graphile_worker.force_unlock_workers(${workers}::text[])`.execute(trx)
    return workers.length
  })
}

/** Gives everything up at once, so that the others need not wait. */
export async function giveUpLeases(db: Db, collector: string): Promise<void> {
  await sql`update source set lease_holder = null, lease_until = null where lease_holder = ${collector}`.execute(
    db,
  )
  await db.deleteFrom('collector').where('name', '=', collector).execute()
}

/** The first, by name, of the collectors that were seen within a lease. */
export async function firstCollector(db: Db, leaseMs: number): Promise<string | null> {
  const { rows } = await sql<{ name: string }>`
    select name from collector where ${isAlive(leaseMs)} order by name limit 1`.execute(db)
  return rows[0]?.name ?? null
}

/**
 * How many sources were heard since collectors began to ask; `null` when that is longer ago than `withinMs`, or when no
 * collector is there.
 */
export async function heardSinceStart(db: Db, leaseMs: number, withinMs: number): Promise<number | null> {
  const { rows } = await sql<{ heard: number }>`
    select (select count(*)::int from source where last_heard_at >= began.at) as heard
    from (select min(started_at) as at from collector where ${isAlive(leaseMs)}) began
    where began.at > now() - ${withinMs} * interval '1 millisecond'`.execute(db)
  return rows[0]?.heard ?? null
}
