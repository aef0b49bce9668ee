import { alignToSlot, slotPhaseMs } from '#core/readings'
import { backoffMs, type Failure, type Outcome } from '#core/sources'
import type { Findings } from '#core/gear'
import type { OpenSource } from '#db/sources'
import type { Driver } from '#protocols/driver'
import { log } from '../platform/log.ts'

export interface SchedulerHooks {
  /** Whether a source is this collector's to ask, at the moment before it is asked. */
  readonly mayRead: (sourceId: number) => boolean
  /** A reading of a source at its slot. Resolves when it is safe. */
  readonly found: (
    source: OpenSource,
    at: { atMs: number; heardAtMs: number; durationMs: number },
    findings: Findings,
  ) => Promise<void>
  readonly failed: (source: OpenSource, failure: Failure) => Promise<void>
}

interface Plan {
  source: OpenSource
  readonly driver: Driver
  timer: NodeJS.Timeout | undefined
  isRunning: boolean
  failures: number
  /** The newest slot that was read, and how far beside their slots those before it are read anew. */
  lastSlotMs: number
  besideMs: number
  /** The slot before, while the newest has not come again. */
  wentBackToMs: number | null
}

const MOST_AT_ONCE = 16
const LONGEST_READING_MS = 10_000

/**
 * Reads every polled source at its interval. Each source has a fixed phase within its interval, so that many do not
 * ask at once; a source that is still being read when its next slot comes skips that slot; failures in a row are
 * retried with growing pauses. At most `MOST_AT_ONCE` are read at a time, the others wait their turn.
 */
export class Scheduler {
  readonly #plans = new Map<number, Plan>()
  readonly #waiting: (() => void)[] = []
  #running = 0
  #closed = false

  constructor(
    private readonly drivers: ReadonlyMap<string, Driver>,
    private readonly hooks: SchedulerHooks,
  ) {}

  /** Takes the sources as they are now; those that are gone are dropped, changed ones keep their failures. */
  setSources(sources: readonly OpenSource[]): void {
    const ids = new Set(sources.map((source) => source.id))
    for (const [id, plan] of this.#plans) {
      if (ids.has(id)) continue
      clearTimeout(plan.timer)
      this.#plans.delete(id)
    }
    for (const source of sources) {
      const driver = this.drivers.get(source.protocol)
      if (driver === undefined) continue
      const plan = this.#plans.get(source.id)
      if (plan !== undefined) {
        plan.source = source
        continue
      }
      const made: Plan = {
        source,
        driver,
        timer: undefined,
        isRunning: false,
        failures: source.failures,
        lastSlotMs: -Infinity,
        besideMs: 0,
        wentBackToMs: null,
      }
      this.#plans.set(source.id, made)
      this.#arm(made, 0)
    }
  }

  /** Reads a source at once, whatever its slot. */
  checkNow(sourceId: number): void {
    const plan = this.#plans.get(sourceId)
    if (plan === undefined || plan.isRunning) return
    clearTimeout(plan.timer)
    void this.#read(plan, Math.floor(Date.now() / 1000) * 1000)
  }

  async close(): Promise<void> {
    this.#closed = true
    for (const plan of this.#plans.values()) clearTimeout(plan.timer)
    while (this.#running > 0) await new Promise((resolve) => setTimeout(resolve, 20))
  }

  #arm(plan: Plan, notBeforeMs: number): void {
    if (this.#closed) return
    const intervalMs = plan.source.intervalSeconds * 1000
    const phase = slotPhaseMs(plan.source.id, intervalMs)
    const nowMs = Date.now()
    const next =
      alignToSlot(Math.max(nowMs, nowMs + notBeforeMs - intervalMs), intervalMs, phase) + intervalMs
    plan.timer = setTimeout(() => void this.#read(plan, instantOf(plan, next)), next - nowMs)
  }

  async #read(plan: Plan, atMs: number): Promise<void> {
    plan.isRunning = true
    await this.#enter()
    try {
      if (!this.#closed) await this.#readOnce(plan, atMs)
    } catch (error) {
      // A bug of ours, or a database that refused: this reading is lost to us, and the next one comes.
      log.error({ source: plan.source.name, reason: String(error) }, 'a reading failed')
    } finally {
      this.#leave()
      plan.isRunning = false
      const intervalMs = plan.source.intervalSeconds * 1000
      if (this.#plans.get(plan.source.id) === plan) this.#arm(plan, backoffMs(intervalMs, plan.failures))
    }
  }

  async #readOnce(plan: Plan, atMs: number): Promise<void> {
    const { source, driver } = plan
    if (!this.hooks.mayRead(source.id)) return
    const startedMs = performance.now()
    const timeoutMs = Math.min(LONGEST_READING_MS, source.intervalSeconds * 800)
    log.debug({ source: source.name, slot: atMs }, 'a reading begins')
    let outcome: Outcome<Findings>
    try {
      outcome = await driver.collect({ target: source, timeoutMs })
    } catch (error) {
      // What a source is set to is checked at the door, but an older row may not pass a newer check.
      outcome = {
        kind: 'failed',
        failure: { kind: 'unsupported', address: source.address, detail: settingsFault(error) },
      }
    }
    if (outcome.kind === 'found') {
      plan.failures = 0
      const durationMs = Math.round(performance.now() - startedMs)
      await this.hooks.found(source, { atMs, heardAtMs: Date.now(), durationMs }, outcome.found)
      log.debug({ source: source.name, slot: atMs }, 'a reading is safe')
    } else {
      plan.failures += 1
      // The first of several in a row is worth a line; the others are in the source's state.
      const level = plan.failures === 1 ? 'warn' : 'debug'
      log[level]({ source: source.name, failure: outcome.failure.kind }, 'a source could not be read')
      await this.hooks.failed(source, outcome.failure)
    }
  }

  async #enter(): Promise<void> {
    if (this.#running >= MOST_AT_ONCE) await new Promise<void>((resolve) => this.#waiting.push(resolve))
    this.#running += 1
  }

  #leave(): void {
    this.#running -= 1
    this.#waiting.shift()?.()
  }
}

/**
 * The instant of a reading at a slot. When the clock was set back, a slot comes again that has its reading: that of now
 * stands beside it, a second later, or it would be taken for the same one, and neither be kept nor judged.
 */
function instantOf(plan: Plan, slotMs: number): number {
  if (slotMs > plan.lastSlotMs) {
    plan.lastSlotMs = slotMs
    plan.besideMs = 0
    plan.wentBackToMs = null
    return slotMs
  }
  const step = Math.min(1000, plan.source.intervalSeconds * 200)
  if (plan.wentBackToMs === null || slotMs <= plan.wentBackToMs)
    plan.besideMs = (plan.besideMs % (4 * step)) + step
  plan.wentBackToMs = slotMs
  return slotMs + plan.besideMs
}

function settingsFault(error: unknown): string {
  log.error({ reason: String(error) }, 'a driver threw')
  return 'the settings of this source cannot be used; open it and save it again'
}
