import { join } from 'node:path'
import type { MeasureKey } from '#core/catalogue'
import type { Findings } from '#core/gear'
import { type Failure, thin } from '#core/sources'
import { hearBeat } from '#db/callouts'
import { forecastSoon } from '#db/forecast'
import { type Db, isServerAway } from '#db/platform'
import {
  deliverClaimed,
  keepPending,
  type OpenSource,
  recordFailure,
  type SecretKey,
  tokenHash,
} from '#db/sources'
import { whyNotThere } from '#protocols/reach'
import { DRIVERS } from '#protocols/registry'
import { log } from '../platform/log.ts'
import { Again } from '../platform/again.ts'
import { every, type Repeating } from '../platform/repeating.ts'
import { waitForDatabase } from '../platform/waiting.ts'
import { Batteries } from './batteries.ts'
import { Checks } from './checks.ts'
import { Clusters, CLUSTERS_MS } from './clusters.ts'
import { Delivery, type StoredMoment, type Taken } from './delivery.ts'
import { type EarOptions, type Ears, openEars } from './ears.ts'
import { KnownSources } from './known.ts'
import { Leases } from './leases.ts'
import { Rates } from './rates.ts'
import { startReceiver } from './receiver.ts'
import { Recognitions } from './recognitions.ts'
import { Scheduler } from './scheduler.ts'
import { Spool } from './spool.ts'
import { Strips } from './strips.ts'
import { type StoredText, Texts } from './texts.ts'
import { TurnedAwayCounts } from './turnedAway.ts'

const SPOOL_LIMIT_BYTES = 2 * 1024 ** 3

export interface IntakeOptions extends EarOptions {
  readonly db: Db
  readonly key: SecretKey
  readonly dataFolder: string
  readonly receiverPort: number
  readonly collector: string
  /** After a moment is safe, and before the next of its source is stored. */
  readonly onStored: (stored: StoredMoment) => Promise<void>
  readonly onTexts: (stored: readonly StoredText[]) => Promise<void>
  /** What was known of a source while another collector asked it is out of date. */
  readonly onForeign: (sourceId: number) => void
}

/** Everything that asks, listens and stores. One a process. */
export class Intake {
  readonly leases: Leases
  readonly spool: Spool<Taken>
  readonly #db: Db
  readonly #options: IntakeOptions
  readonly #rates = new Rates()
  readonly #batteries: Batteries
  readonly #strips: Strips
  readonly #keptLast = new Map<number, Map<MeasureKey, number>>()
  readonly #delivery: Delivery
  readonly #scheduler: Scheduler
  readonly #checks: Checks
  readonly #recognitions: Recognitions
  readonly #known: KnownSources
  readonly #texts: Texts
  readonly #turnedAway: TurnedAwayCounts
  /** Many sources may come at once, and each of them says so. */
  readonly #sources = new Again(async () => {
    await this.leases.look()
    await this.reload()
  })
  #ears: Ears | null = null
  /** Sources whose credential is not used, as they were found last. */
  #barred: ReadonlySet<number> = new Set()
  #closers: (() => void | Promise<void>)[] = []

  constructor(options: IntakeOptions) {
    const { db, key, collector } = options
    this.#db = db
    this.#options = options
    this.spool = new Spool<Taken>(
      join(options.dataFolder, spoolFolder(collector)),
      SPOOL_LIMIT_BYTES,
      (bytes) => log.error({ bytes }, 'a part of the spool on disk is damaged and is passed over'),
    )
    this.#delivery = new Delivery(db, this.spool, options.onStored)
    this.#batteries = new Batteries(db)
    this.#strips = new Strips(db)
    this.#checks = new Checks(db, key, DRIVERS)
    this.#recognitions = new Recognitions(db, key)
    this.#texts = new Texts(db, options.onTexts, (from, reason) =>
      this.#turnedAway.count(from, 'notification', reason),
    )
    this.#turnedAway = new TurnedAwayCounts(db)
    this.leases = new Leases(db, collector, ({ came, went }) => this.#shareAnew([...came, ...went]))
    this.#scheduler = new Scheduler(DRIVERS, {
      mayRead: (sourceId) => this.leases.mayRead(sourceId),
      found: (source, at, findings) =>
        this.take({ sourceId: source.id, ...at, findings: this.#thinned(source, at.atMs, findings) }),
      failed: (source, failure) => this.#failed(source.id, failure),
    })
    this.#known = new KnownSources(db, key, (sources) => {
      const held = sources.filter(({ id }) => this.leases.held.has(id))
      this.#scheduler.setSources(held.filter((source) => barredBy(source) === null))
      this.#sayBarred(held)
      this.#ears?.setSources(sources)
    })
  }

  /** @returns how many sources there are */
  async start(): Promise<number> {
    await this.spool.open()
    this.#delivery.drainSoon(0)
    const ears = await openEars(this.#options, this.#texts)
    this.#ears = ears
    await waitForDatabase(() => this.leases.start())
    await this.reload()
    const receiver = await this.#receive()
    this.lookForChecks()
    this.#closers = [
      ...this.#repeat().map((tick) => () => tick.stop()),
      () => ears.close(),
      () => this.#texts.close(),
      () => {
        receiver.close()
        receiver.closeAllConnections()
      },
    ]
    return this.#known.all.length
  }

  #repeat(): Repeating[] {
    const clusters = new Clusters(this.#db, {
      isFirst: () => this.leases.isFirst(),
      take: (taken) => this.take(taken),
      // It has a past then, and is forecast, at once.
      onFirst: () => forecastSoon(this.#db),
    })
    return [
      every(15_000, () => this.reload()),
      every(5000, () => this.#checks.look()),
      every(5000, () => this.#recognitions.look()),
      every(1000, () => this.#bringIn()),
      every(5000, () => this.#turnedAway.write()),
      every(CLUSTERS_MS, () => clusters.look(Date.now())),
    ]
  }

  take(taken: Taken): Promise<void> {
    return this.#delivery.take(taken)
  }

  /** What is told beside findings first: what is asked from now on is told with it. */
  async reload(): Promise<void> {
    await Promise.all([this.#batteries.look(), this.#strips.look(Date.now())])
    await this.#known.reload()
  }

  /** Sources were added, changed or taken away. */
  lookForSources(): Promise<void> {
    return this.#sources.run()
  }

  checkNow(sourceId: number): void {
    this.#scheduler.checkNow(sourceId)
  }

  lookForChecks(): void {
    void Promise.all([this.#checks.look(), this.#recognitions.look()]).catch((error: unknown) => {
      // Nobody waits for this: what is thrown here would end the process.
      if (!isServerAway(error)) log.error({ reason: String(error) }, 'checks could not be looked for')
    })
  }

  /** What is watched of a source has changed. */
  forget(sourceId: number): void {
    this.#delivery.forget(sourceId)
  }

  /** The database was away: what waits on disk is brought in. */
  catchUp(): void {
    this.#delivery.drainSoon(0)
    void this.reload()
  }

  async close(): Promise<void> {
    for (const close of this.#closers) await close()
    await Promise.all([this.#scheduler.close(), this.#checks.close(), this.#recognitions.close()])
    await this.leases.close()
    await this.#delivery.close()
    await this.spool.close()
  }

  #shareAnew(sourceIds: readonly number[]): void {
    for (const id of sourceIds) {
      this.#delivery.forget(id)
      this.#rates.forget(id)
      this.#options.onForeign(id)
    }
    void this.reload()
  }

  #receive() {
    const { address, receiverPort: port } = this.#options
    return startReceiver(
      { port, address },
      {
        sourceOf: (token) => this.#known.byToken(token),
        beat: (token) => hearBeat(this.#db, token),
        claimedBy: (keys) => this.#known.byKeys(keys),
        wait: (token, from, moments) =>
          keepPending(this.#db, {
            tokenHash: tokenHash(token),
            address: from,
            heardAt: new Date(),
            moments,
          }),
        take: (sourceId, moments) => this.#takePushed(sourceId, Date.now(), moments),
        failed: (sourceId, failure) => this.#failed(sourceId, failure),
        turnedAway: (from, what, reason) => this.#turnedAway.count(from, what, reason),
      },
    )
  }

  async #takePushed(
    sourceId: number,
    heardAtMs: number,
    moments: readonly { readonly atMs: number; readonly findings: Findings }[],
  ): Promise<void> {
    for (const { atMs, findings } of moments) {
      const settled = this.#rates.settle(sourceId, atMs, findings)
      const whole = this.#completed(sourceId, atMs, settled)
      await this.take({ sourceId, atMs, heardAtMs, durationMs: null, findings: whole })
    }
  }

  /** What senders pushed before they were claimed. */
  async #bringIn(): Promise<void> {
    const one = (): Promise<boolean> =>
      deliverClaimed(this.#db, (sourceId, heardAt, moments) =>
        this.#takePushed(sourceId, heardAt.getTime(), moments),
      )
    while (await one());
  }

  async #failed(sourceId: number, failure: Parameters<typeof recordFailure>[3]): Promise<void> {
    await recordFailure(this.#db, sourceId, new Date(), failure).catch((error: unknown) => {
      if (!isServerAway(error)) throw error
    })
  }

  /** Of a source it is said once why its credential is not used, and not at each look. */
  #sayBarred(held: readonly OpenSource[]): void {
    const barred = held.flatMap((source) => {
      const failure = barredBy(source)
      return failure === null ? [] : [{ source, failure }]
    })
    for (const { source, failure } of barred)
      if (!this.#barred.has(source.id) && source.failure?.kind !== failure.kind)
        void this.#failed(source.id, failure)
    this.#barred = new Set(barred.map(({ source }) => source.id))
  }

  /** With what is known here of what its devices cannot tell by themselves. */
  #completed(sourceId: number, atMs: number, findings: Findings): Findings {
    return this.#strips.add(sourceId, atMs, this.#batteries.add(sourceId, atMs, findings))
  }

  /** Without what is kept less often than its source is asked. */
  #thinned(source: OpenSource, atMs: number, found: Findings): Findings {
    const settled = this.#rates.settle(source.id, atMs, found)
    const findings = this.#completed(source.id, atMs, settled)
    if (Object.keys(source.slower).length === 0) return findings
    const last = this.#keptLast.get(source.id) ?? new Map<MeasureKey, number>()
    this.#keptLast.set(source.id, last)
    return thin(findings, { atMs, intervalMs: source.intervalSeconds * 1000, slower: source.slower, last })
  }
}

/** Why a source is not asked though it is there: what is kept of its credential cannot be opened, or is not for there. */
function barredBy({ isShut, destinations, address }: OpenSource): Failure | null {
  if (isShut) return { kind: 'sealedShut', address }
  const detail = destinations === null ? null : whyNotThere(destinations, destinations.kind, address)
  return detail === null ? null : { kind: 'elsewhere', address, detail }
}

/** Each collector of an installation keeps what waits in a folder of its own. */
const spoolFolder = (name: string): string => (name === 'collector-1' ? 'spool' : `spool-${name}`)
