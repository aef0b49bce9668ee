import { run, runMigrations, type TaskList, type WorkerEvents } from 'graphile-worker'
import { sql } from 'kysely'
import { EventEmitter } from 'node:events'
import type { Server } from 'node:http'
import { join } from 'node:path'
import { z } from 'zod'
import type { MeasureKey } from '#core/catalogue'
import { thin } from '#core/sources'
import type { Findings } from '#core/gear'
import { connect, type Db, isServerAway, openPool, listen, migrate } from '#db/platform'
import {
  ownWorker,
  releaseJobs,
  openKeyFile,
  tokenHash,
  type OpenSource,
  openSources,
  recordFailure,
  deliverClaimed,
  keepWaiting,
} from '#db/sources'
import { commandTask, hearBeat } from '#db/callouts'
import type { Driver } from '#protocols/driver'
import { modbus } from '#protocols/modbus'
import { scrape } from '#protocols/openmetrics'
import { reachability } from '#protocols/reachability'
import { redfish } from '#protocols/redfish'
import { snmpAgent, snmpTarget, type TrapUser } from '#protocols/snmp'
import { Allowance } from './notify/allowance.ts'
import { Blindness } from './judging/blindness.ts'
import { Causes } from './judging/causes.ts'
import { Checks } from './intake/checks.ts'
import { Counts, LOOK_MS } from './judging/counts.ts'
import { Delivery, type Taken } from './intake/delivery.ts'
import { startHousekeeper } from './jobs/housekeeper.ts'
import { Judgement } from './judging/judgement.ts'
import { Leases } from './intake/leases.ts'
import { log } from './platform/log.ts'
import { OwnHealth } from './judging/ownHealth.ts'
import { Quieting } from './judging/quieting.ts'
import { Rates } from './intake/rates.ts'
import { startReceiver } from './intake/receiver.ts'
import { Recognitions } from './intake/recognitions.ts'
import { Rehearsals } from './judging/rehearsals.ts'
import { every, keepRunning } from './platform/repeating.ts'
import { Scheduler } from './intake/scheduler.ts'
import { Silence } from './judging/silence.ts'
import { Spool } from './intake/spool.ts'
import { Teller } from './notify/notifier.ts'
import { TextRules } from './judging/textRules.ts'
import { startSyslog, startTraps, Texts } from './intake/texts.ts'

const DRIVERS: ReadonlyMap<string, Driver> = new Map(
  [redfish, snmpAgent, scrape, modbus, reachability].map((driver) => [driver.protocol, driver]),
)
const SPOOL_LIMIT_BYTES = 2 * 1024 ** 3
const messageJob = z.object({ id: z.string() })
/** Rules look for so long at the series they know, while new ones come. */
const NEW_SERIES_MS = 5000
/** A collector that was not seen for so long is dead; its jobs are given to others. */
const DEAD_MS = 8000

export interface CollectorOptions {
  readonly databaseUrl: string
  readonly dataFolder: string
  readonly receiverPort: number
  /** Where pushes, syslog and notifications are listened for. */
  readonly listenAddress?: string
  /** Of a collector without one syslog or notifications are not heard. */
  readonly syslogPort?: number | null
  readonly trapPort?: number | null
  /** Unlike that of any other; the same after a restart. */
  readonly name: string
}

/** Everything that listens, asks, stores, judges and tells. One a process. */
export async function startCollector(options: CollectorOptions): Promise<{ close(): Promise<void> }> {
  const pool = openPool(options.databaseUrl)
  const db = connect(pool)
  await waitForDatabase(() =>
    oneAtATime(db, async () => {
      await migrate(db)
      await runMigrations({ pgPool: pool })
    }),
  )
  const key = openKeyFile(join(options.dataFolder, 'secret.key'))
  const allowance = new Allowance(db, join(options.dataFolder, 'commands.json'), options.name)
  await waitForDatabase(() => allowance.look().then(() => undefined))
  const teller = new Teller(key, undefined, allowance)
  const judgement = new Judgement(db, teller)
  const spool = new Spool<Taken>(join(options.dataFolder, spoolFolder(options.name)), SPOOL_LIMIT_BYTES)
  await spool.open()
  const delivery = new Delivery(db, spool, async (stored) => {
    // A moment is safe before it is judged. Should judging fail, the next moment judges again from what is stored.
    await judgement.judgeMoment(stored).catch((error: unknown) => {
      log.error({ sourceId: stored.taken.sourceId, reason: String(error) }, 'a moment could not be judged')
    })
    ownHealth.judged(Date.now() - stored.taken.heardAtMs)
  })
  const ownHealth: OwnHealth = new OwnHealth(db, key, {
    collector: options.name,
    sources: () => leases.held.size,
    spoolBytes: () => spool.bytes,
    isFirst: () => leases.isFirst(),
    take: (taken) => delivery.take(taken),
  })
  delivery.drainSoon(0)

  const failed = async (sourceId: number, failure: Parameters<typeof recordFailure>[3]): Promise<void> => {
    await recordFailure(db, sourceId, new Date(), failure).catch((error: unknown) => {
      if (!isServerAway(error)) throw error
    })
  }
  const rates = new Rates()
  const keptLast = new Map<number, Map<MeasureKey, number>>()
  const thinned = (source: OpenSource, atMs: number, findings: Findings): Findings => {
    if (Object.keys(source.slower).length === 0) return findings
    const last = keptLast.get(source.id) ?? new Map<MeasureKey, number>()
    keptLast.set(source.id, last)
    return thin(findings, { atMs, intervalMs: source.intervalSeconds * 1000, slower: source.slower, last })
  }
  const checks = new Checks(db, key, DRIVERS)
  const recognitions = new Recognitions(db, key)
  const rehearsals = new Rehearsals(db, options.databaseUrl)
  const scheduler = new Scheduler(DRIVERS, {
    mayRead: (sourceId) => leases.mayRead(sourceId),
    found: (source, at, findings) =>
      delivery.take({
        sourceId: source.id,
        ...at,
        findings: thinned(source, at.atMs, rates.settle(source.id, at.atMs, findings)),
      }),
    failed: (source, failure) => failed(source.id, failure),
  })

  const leases = new Leases(db, options.name, ({ came, went }) => {
    // What was known of a source while another asked it is out of date.
    for (const id of [...came, ...went]) {
      judgement.forget(id)
      delivery.forget(id)
      rates.forget(id)
    }
    log.info({ came: came.length, went: went.length, held: leases.held.size }, 'sources are shared anew')
    void reload()
  })
  let sources: readonly OpenSource[] = []
  let tokens = new Map<string, number>()
  let senders = new Map<string, number>()
  let ears: readonly [Ear | null, TrapEar | null] | null = null
  const reload = async (): Promise<void> => {
    try {
      sources = await openSources(db, key)
      tokens = new Map(
        sources.flatMap(({ id, tokenHash: hash }) => (hash === null ? [] : [[hash.toString('hex'), id]])),
      )
      const seen = await db
        .selectFrom('sighting')
        .innerJoin('source', 'source.id', 'sighting.sourceId')
        .select(['sighting.key', 'sighting.sourceId'])
        .where('source.protocol', '=', 'otlp')
        .execute()
      senders = new Map(seen.map((row) => [row.key, row.sourceId]))
      ears?.[1]?.setUsers(trapUsers(sources))
      scheduler.setSources(sources.filter((source) => leases.held.has(source.id)))
    } catch (error) {
      log.warn({ reason: String(error) }, 'sources could not be read again')
    }
  }
  const textRules = new TextRules(db, teller)
  const texts = new Texts(db, (stored) =>
    textRules.take(stored).catch((error: unknown) => {
      textRules.refresh()
      log.error({ reason: String(error) }, 'what devices said could not be judged')
    }),
  )
  const address = options.listenAddress ?? '127.0.0.1'
  ears = await Promise.all([
    options.syslogPort == null
      ? null
      : startSyslog({ port: options.syslogPort, address }, (said) => texts.take(said)).catch(deaf('syslog')),
    options.trapPort == null
      ? null
      : startTraps({ port: options.trapPort, address }, (said) => texts.take(said)).catch(
          deaf('SNMP notifications'),
        ),
  ])
  await waitForDatabase(() => leases.start())
  await reload()

  const receiver: Server = await startReceiver(
    { port: options.receiverPort, address },
    {
      sourceOf: (token) => tokens.get(tokenHash(token).toString('hex')) ?? null,
      beat: (token) => hearBeat(db, token),
      claimedBy: (keys) => keys.map((each) => senders.get(each)).find((id) => id !== undefined) ?? null,
      wait: (token, address, moments) =>
        keepWaiting(db, { tokenHash: tokenHash(token), address, heardAt: new Date(), moments }),
      take: async (sourceId, moments) => {
        const heardAtMs = Date.now()
        for (const { atMs, findings } of moments) {
          const settled = rates.settle(sourceId, atMs, findings)
          await delivery.take({ sourceId, atMs, heardAtMs, durationMs: null, findings: settled })
        }
      },
      failed,
    },
  )

  /** What senders pushed before they were claimed. */
  const bringIn = async (): Promise<void> => {
    const one = () =>
      deliverClaimed(db, async (sourceId, heardAt, moments) => {
        for (const { atMs, findings } of moments) {
          const settled = rates.settle(sourceId, atMs, findings)
          const heardAtMs = heardAt.getTime()
          await delivery.take({ sourceId, atMs, heardAtMs, durationMs: null, findings: settled })
        }
      })
    while (await one());
  }

  /** What rules are on has changed: the rules, where gear is, or what is compared with it. */
  const judgeAnew = (): void => {
    clearTimeout(newSeries)
    newSeries = undefined
    judgement.refresh()
    textRules.refresh()
    counts.refresh()
    causes.refresh()
  }
  let newSeries: NodeJS.Timeout | undefined
  const live = listen(
    options.databaseUrl,
    (event) => {
      if (event.topic === 'sources') void leases.look().then(reload)
      if (event.topic === 'items') {
        delivery.forget(event.sourceId)
        judgement.forget(event.sourceId)
      }
      if (event.topic === 'rules' || event.topic === 'places') judgeAnew()
      // At a first start every source brings its own, one after the other.
      if (event.topic === 'series') newSeries ??= setTimeout(judgeAnew, NEW_SERIES_MS)
      if (event.topic === 'checks' || event.topic === 'rehearsals') lookForChecks()
      if (event.topic === 'check') scheduler.checkNow(event.sourceId)
    },
    () => {
      judgement.forget()
      delivery.drainSoon(0)
      void reload()
    },
  )
  const lookForChecks = (): void =>
    void Promise.all([checks.look(), recognitions.look(), rehearsals.look()]).catch((error: unknown) => {
      if (!isServerAway(error)) log.error({ reason: String(error) }, 'checks could not be looked for')
    })
  lookForChecks()
  const silence = new Silence(db, teller, Date.now())
  const quieting = new Quieting(db, teller)
  const causes = new Causes(db, teller)
  const blindness = new Blindness(db, teller)
  const counts = new Counts(db, teller, () => leases.isFirst())
  const ticks = [
    every(1000, () => silence.look(Date.now())),
    every(LOOK_MS, () => counts.look(Date.now())),
    every(2000, async () => {
      if (!(await leases.isFirst())) return
      const nowMs = Date.now()
      await releaseJobs(db, DEAD_MS, null)
      await blindness.look(nowMs)
      await causes.look(nowMs)
      await quieting.look(nowMs)
    }),
    every(5000, () => textRules.look(Date.now())),
    every(15_000, reload),
    every(5000, () => checks.look()),
    every(5000, () => recognitions.look()),
    every(5000, () => rehearsals.look()),
    every(5000, async () => {
      if (await allowance.look()) await doer.again()
    }),
    every(1000, bringIn),
    every(10_000, () => ownHealth.look(Date.now())),
    every(1000, () => ownHealth.beat(Date.now())),
  ]
  await waitForDatabase(() => releaseJobs(db, DEAD_MS, options.name).then(() => undefined))
  const events: WorkerEvents = new EventEmitter()
  events.on('pool:create', ({ workerPool }) => {
    void ownWorker(db, options.name, workerPool.id).catch((error: unknown) => {
      log.error({ reason: String(error) }, 'a worker of the job queue could not say whose it is')
    })
  })
  const send: TaskList[string] = async (payload, helpers) =>
    teller.send(db, messageJob.parse(payload).id, helpers)
  const work = (taskList: TaskList, concurrency: number) =>
    run({
      pgPool: pool,
      concurrency,
      noHandleSignals: true,
      pollInterval: 1000,
      parsedCronItems: [],
      events,
      taskList,
    })
  // Three means that do not answer leave nobody else waiting. `mail` is what was written before there were call-outs.
  const sender = keepRunning(() => work({ tell: send, mail: send }, 12))
  const doer = keepRunning(() =>
    // A queue wants one task at least; no command is without a name.
    work(
      Object.fromEntries(
        ['', ...allowance.list.map(({ name }) => name)].map((name) => [commandTask(name), send]),
      ),
      4,
    ),
  )
  const housekeeper = startHousekeeper({ databaseUrl: options.databaseUrl, dataFolder: options.dataFolder })
  log.info({ sources: sources.length, receiverPort: options.receiverPort }, 'the collector is at work')

  return {
    async close() {
      for (const tick of ticks) tick.stop()
      clearTimeout(newSeries)
      for (const ear of ears ?? []) ear?.close()
      await texts.close()
      receiver.close()
      receiver.closeAllConnections()
      await Promise.all([scheduler.close(), checks.close(), recognitions.close(), rehearsals.close()])
      await leases.close()
      await delivery.close()
      await spool.close()
      await Promise.all([sender.stop(), doer.stop(), housekeeper.close()])
      await live.close()
      await db.destroy()
    },
  }
}

/** Who asks sources does not stop for a port that another program has. */
const deaf =
  (what: string) =>
  (error: unknown): null => {
    log.error({ reason: String(error) }, `${what} cannot be listened for; free the port and start anew`)
    return null
  }

type Ear = Awaited<ReturnType<typeof startSyslog>>
type TrapEar = Awaited<ReturnType<typeof startTraps>>

/** The users of sources that are asked by SNMP v3 may send notifications, too. */
function trapUsers(sources: readonly OpenSource[]): TrapUser[] {
  const users = sources.flatMap(({ protocol, settings, secret }) => {
    const parsed = protocol === 'snmp' ? snmpTarget.safeParse({ address: 'any', settings, secret }) : null
    if (parsed?.success !== true || !('username' in parsed.data.secret)) return []
    const { authentication, privacy } = parsed.data.settings
    return [{ ...parsed.data.secret, authentication, privacy }]
  })
  return [...new Map(users.map((user) => [user.username, user])).values()]
}

/** Several collectors that start together make the tables of the queue one after the other. */
const START_LOCK = 7_303

async function oneAtATime(db: Db, work: () => Promise<void>): Promise<void> {
  await db.connection().execute(async (held) => {
    await sql`select pg_advisory_lock(${START_LOCK})`.execute(held)
    try {
      await work()
    } finally {
      await sql`select pg_advisory_unlock(${START_LOCK})`.execute(held)
    }
  })
}

/** Each collector of an installation keeps what waits in a folder of its own. */
const spoolFolder = (name: string): string => (name === 'collector-1' ? 'spool' : `spool-${name}`)

async function waitForDatabase(work: () => Promise<void>): Promise<void> {
  for (;;) {
    try {
      return await work()
    } catch (error) {
      if (!isServerAway(error)) throw error
      log.warn('the database is not there yet')
      await new Promise((resolve) => setTimeout(resolve, 1000))
    }
  }
}
