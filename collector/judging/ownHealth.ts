import type { MeasureKey, PartKind } from '#core/catalogue'
import type { Findings } from '#core/gear'
import {
  listCallOuts,
  channelHealth,
  listCollectors,
  listHeartbeats,
  missedBeats,
  recordBeat,
  untriedSeconds,
  sayHealth,
} from '#db/callouts'
import { databaseClock, type Db, ping, readSite } from '#db/platform'
import { diskUnder } from '#db/readings'
import { ourSource, type SecretKey, unseal } from '#db/sources'
import type { Taken } from '../intake/delivery.ts'
import type { Intake } from '../intake/intake.ts'
import { log } from '../platform/log.ts'
import { every } from '../platform/repeating.ts'
import { post } from '../notify/channels/http.ts'

const INTERVAL_MS = 10_000
/** A collector says every second that it lives. */
const DEAD_MS = 8000
const KEY = 'restless-rack'
const MIB = 1024 ** 2
const MOST_DELAYS = 20_000
/** Who sends nothing for so long does not live for those who rely on it. */
const UNTRIED_S = 120

/**
 * The tool watches itself as it watches any gear: its collectors, its database, its channels and its heartbeats
 * are parts with readings, and rules hold on them. It begins with the first call-out: what nobody is told of needs no
 * self-monitoring.
 */
export class OwnHealth {
  #delays: number[] = []

  constructor(
    private readonly db: Db,
    private readonly key: SecretKey,
    private readonly own: {
      readonly collector: string
      readonly dataFolder: string
      readonly sources: () => number
      readonly spoolBytes: () => number
      readonly isFirst: () => Promise<boolean>
      readonly take: (taken: Taken) => Promise<void>
    },
  ) {}

  /** A reading was judged so long after it was heard. */
  judged(afterMs: number): void {
    if (this.#delays.length < MOST_DELAYS) this.#delays.push(afterMs)
  }

  /** Says how this collector is; the first one puts together how all are. */
  async look(nowMs: number): Promise<void> {
    const delays = this.#delays.sort((a, b) => a - b)
    this.#delays = []
    await sayHealth(this.db, this.own.collector, {
      sources: this.own.sources(),
      delayMs: delays[Math.min(delays.length - 1, Math.floor(delays.length * 0.99))] ?? null,
      spoolBytes: this.own.spoolBytes(),
      skewMs: await this.#skew(),
    })
    if (!(await this.own.isFirst())) return
    if ((await listCallOuts(this.db)).length === 0) return
    const { sourceId } = await ourSource(this.db, 'own', INTERVAL_MS / 1000)
    const findings = await this.#findings(nowMs)
    await this.own.take({ sourceId, atMs: nowMs, heardAtMs: nowMs, durationMs: null, findings })
  }

  /** By how much the clock of this machine is ahead of the database's; ms. Over 30 s both are said in the log. */
  async #skew(): Promise<number> {
    const askedMs = Date.now()
    const theirsMs = await databaseClock(this.db)
    const oursMs = (askedMs + Date.now()) / 2
    if (Math.abs(oursMs - theirsMs) > 30_000)
      log.warn(
        { here: new Date(oursMs).toISOString(), database: new Date(theirsMs).toISOString() },
        'the clock of this machine and that of the database differ',
      )
    return Math.round(oursMs - theirsMs)
  }

  async #findings(nowMs: number): Promise<Findings> {
    const askedMs = performance.now()
    await ping(this.db)
    const answerMs = performance.now() - askedMs
    const [disk, collectors, channels, beats, untried] = await Promise.all([
      diskUnder(this.own.dataFolder),
      listCollectors(this.db),
      channelHealth(this.db, new Date(nowMs)),
      listHeartbeats(this.db),
      untriedSeconds(this.db),
    ])
    const parts: { key: string; kind: PartKind; name: string; facts: Record<string, string> }[] = []
    const readings: { gear: string; part: string; measure: MeasureKey; value: number | null }[] = []
    const add = (
      kind: PartKind,
      name: string,
      values: Partial<Record<MeasureKey, number | null>>,
      key = `${kind} ${name}`,
    ): void => {
      parts.push({ key, kind, name, facts: {} })
      for (const [measure, value] of Object.entries(values))
        readings.push({ gear: KEY, part: key, measure: measure as MeasureKey, value })
    }
    for (const { name, health, silentMs } of collectors) {
      const isAlive = silentMs < DEAD_MS
      add('collector', name, {
        'watch.collector': isAlive ? 1 : 0,
        'watch.sources': isAlive ? (health?.sources ?? null) : 0,
        'watch.delay': isAlive ? (health?.delayMs ?? null) : null,
        'watch.clock': isAlive && health?.skewMs != null ? Math.abs(health.skewMs) / 1000 : null,
        'watch.spool': isAlive ? (health?.spoolBytes ?? null) : null,
      })
    }
    add('database', 'Database', { 'watch.answer': answerMs, ...diskReadings(disk) })
    add('messages', 'Messages', { 'watch.untried': untried })
    for (const { id, name, stuck, stuckSince } of channels)
      add(
        'channel',
        name,
        {
          'watch.stuck': stuckSince === null ? 0 : Math.max(0, (nowMs - stuckSince.getTime()) / 1000),
          'watch.messages': stuck,
        },
        `channel ${id}`,
      )
    for (const beat of beats)
      add(
        'heartbeat',
        `${beat.direction === 'out' ? 'Heartbeat to' : 'Heartbeat from'} ${beat.name}`,
        { 'watch.heartbeat': missedBeats(beat, nowMs) },
        `heartbeat ${beat.id}`,
      )
    return {
      gear: [{ key: KEY, kind: 'selfMonitoring', name: 'Restless Rack', identities: [], facts: {}, parts }],
      links: [],
      readings,
    }
  }

  /** Says to others that this installation lives, to each at its own interval: not while nobody would be told of anything. */
  async beat(nowMs: number): Promise<void> {
    if (!(await this.own.isFirst())) return
    const due = (await listHeartbeats(this.db)).filter(
      ({ direction, triedAt, intervalSeconds }) =>
        direction === 'out' &&
        (triedAt === null || nowMs - triedAt.getTime() >= intervalSeconds * 1000 - 500),
    )
    if (due.length === 0 || (await untriedSeconds(this.db)) >= UNTRIED_S) return
    const site = await readSite(this.db)
    await Promise.all(due.map((beat) => this.#beatOnce(beat, site.name, new Date(nowMs))))
  }

  async #beatOnce(
    { id, url, sealedSecret }: Awaited<ReturnType<typeof listHeartbeats>>[number],
    from: string,
    at: Date,
  ): Promise<void> {
    const token = sealedSecret === null ? null : (unseal(this.key, sealedSecret)['password'] ?? null)
    try {
      const answer = await post(url ?? '', JSON.stringify({ from, at: at.toISOString() }), {
        'content-type': 'application/json',
        ...(token === null ? {} : { authorization: `Bearer ${token}` }),
      })
      await recordBeat(this.db, id, { at, isThrough: true, answer })
    } catch (error) {
      const answer = error instanceof Error ? error.message : String(error)
      await recordBeat(this.db, id, { at, isThrough: false, answer })
    }
  }
}

/** What the disk that readings are kept on tells, to the mebibyte: what is written meanwhile would change it at each look. */
function diskReadings(
  disk: Awaited<ReturnType<typeof diskUnder>>,
): Partial<Record<MeasureKey, number | null>> {
  if (disk === null) return { 'watch.disk': null, 'watch.disk.usage': null, 'watch.disk.limit': null }
  const used = Math.round(disk.usedBytes / MIB) * MIB
  return {
    'watch.disk': used / disk.sizeBytes,
    'watch.disk.usage': used,
    'watch.disk.limit': disk.sizeBytes,
  }
}

/** Looks after itself for as long as it is wanted. */
export function startOwnHealth(given: {
  readonly db: Db
  readonly key: SecretKey
  readonly collector: string
  readonly dataFolder: string
  readonly intake: Intake
}): { judged(afterMs: number): void; stop(): void } {
  const { db, key, collector, dataFolder, intake } = given
  const own = new OwnHealth(db, key, {
    collector,
    dataFolder,
    sources: () => intake.leases.held.size,
    spoolBytes: () => intake.spool.bytes,
    isFirst: () => intake.leases.isFirst(),
    take: (taken) => intake.take(taken),
  })
  const ticks = [every(INTERVAL_MS, () => own.look(Date.now())), every(1000, () => own.beat(Date.now()))]
  return {
    judged: (afterMs) => own.judged(afterMs),
    stop() {
      for (const tick of ticks) tick.stop()
    },
  }
}
