import { runMigrations } from 'graphile-worker'
import type { Pool } from 'pg'
import { join } from 'node:path'
import { setOwnMeasures } from '#core/catalogue'
import {
  connect,
  type Db,
  isServerAway,
  listen,
  type LiveEvent,
  migrate,
  oneAtATime,
  openPool,
} from '#db/platform'
import { listOwnMeasures } from '#db/readings'
import { openKeyFile } from '#db/sources'
import { SEEDS } from '#protocols/seeds'
import { Intake } from './intake/intake.ts'
import { startJobs } from './jobs/jobs.ts'
import { AlertWriter } from './judging/alertWriter.ts'
import { Judging } from './judging/judging.ts'
import { startOwnHealth } from './judging/ownHealth.ts'
import { Allowance } from './notify/allowance.ts'
import { Notifier } from './notify/notifier.ts'
import { startQueue } from './notify/queue.ts'
import { log } from './platform/log.ts'
import { waitForDatabase } from './platform/waiting.ts'

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

/** The queue has its own, for a message does not wait behind what is stored. Two of them only listen. */
const QUEUE_CONNECTIONS = 6

/** Everything that listens, asks, stores, judges and notifies. One a process. */
export async function startCollector(options: CollectorOptions): Promise<{ close(): Promise<void> }> {
  const { databaseUrl, dataFolder, name: collector } = options
  const pool = openPool(databaseUrl)
  const db = connect(pool)
  await waitForDatabase(() => makeTables(db, pool))
  await waitForDatabase(() => learnOwnMeasures(db))
  const key = openKeyFile(join(dataFolder, 'secret.key'))
  const allowance = new Allowance(db, join(dataFolder, 'commands.json'), collector)
  await waitForDatabase(() => allowance.look().then(() => undefined))
  const notifier = new Notifier(key, undefined, allowance)
  const alerts = new AlertWriter(db, notifier)
  const isFirst = (): Promise<boolean> => intake.leases.isFirst()
  const judging = new Judging({ db, databaseUrl, alerts, notifier, isFirst })
  const intake: Intake = new Intake({
    db,
    key,
    dataFolder,
    collector,
    receiverPort: options.receiverPort,
    address: options.listenAddress ?? '127.0.0.1',
    syslogPort: options.syslogPort ?? null,
    trapPort: options.trapPort ?? null,
    onStored: async (stored) => {
      await judging.judgeMoment(stored)
      ownHealth.judged(Date.now() - stored.taken.heardAtMs)
    },
    onTexts: (stored) => judging.judgeTexts(stored),
    onForeign: (sourceId) => judging.forget(sourceId),
  })
  const ownHealth = startOwnHealth({ db, key, collector, dataFolder, intake })
  const sources = await intake.start()
  const live = listen(
    databaseUrl,
    (event) => react(event, { db, intake, judging }),
    () => {
      relearn(db, () => undefined)
      judging.forget()
      intake.catchUp()
    },
  )
  judging.start(Date.now())
  const queuePool = openPool(databaseUrl, QUEUE_CONNECTIONS)
  const queue = await startQueue({ db, pool: queuePool, collector, notifier, allowance, isFirst })
  const jobs = startJobs({ databaseUrl, dataFolder })
  log.info({ sources, receiverPort: options.receiverPort }, 'the collector is at work')
  return {
    async close() {
      ownHealth.stop()
      await Promise.all([judging.close(), intake.close()])
      await Promise.all([queue.close(), jobs.close()])
      await live.close()
      await Promise.all([queuePool.end(), db.destroy()])
    },
  }
}

/** Measures of the site are known to the whole process. */
const learnOwnMeasures = async (db: Db): Promise<void> => setOwnMeasures(await listOwnMeasures(db))

/** Somebody has changed a measure, or may have while nothing was heard. */
function relearn(db: Db, then: () => void): void {
  learnOwnMeasures(db)
    .then(then)
    .catch((error: unknown) => {
      if (!isServerAway(error)) log.error({ reason: String(error) }, 'own measures could not be read')
    })
}

/** Several collectors that start together make the tables one after the other. */
const makeTables = (db: Db, pool: Pool): Promise<void> =>
  oneAtATime(db, 'start', async () => {
    await migrate(db, SEEDS)
    await runMigrations({ pgPool: pool })
  })

interface Parts {
  readonly db: Db
  readonly intake: Intake
  readonly judging: Judging
}

/** What somebody changed elsewhere. */
function react(event: LiveEvent, { db, intake, judging }: Parts): void {
  switch (event.topic) {
    case 'sources':
      return void intake.lookForSources()
    case 'items':
      intake.forget(event.sourceId)
      return judging.forget(event.sourceId)
    case 'measures':
      return relearn(db, () => {
        void intake.lookForSources()
        judging.refresh()
      })
    case 'rules':
    case 'places':
      return judging.refresh()
    case 'series':
      return judging.refreshSoon()
    case 'checks':
      return intake.lookForChecks()
    case 'rehearsals':
      return void judging.lookForRehearsals().catch((error: unknown) => {
        if (!isServerAway(error)) log.error({ reason: String(error) }, 'rehearsals could not be looked for')
      })
    case 'check':
      return intake.checkNow(event.sourceId)
    default:
  }
}
