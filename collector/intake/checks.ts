import { type Failure, newStages } from '#core/sources'
import { finishCheck, type OpenCheck, recordStages, takeCheck } from '#db/sources'
import type { Db } from '#db/platform'
import type { SecretKey } from '#db/sources'
import { runCheck } from '#protocols/check'
import { whyNotThere } from '#protocols/reach'
import type { Driver } from '#protocols/driver'
import { log } from '../platform/log.ts'

const MOST_AT_ONCE = 4
/** For each stage: somebody is waiting. */
const STAGE_MS = 5000

/** Does the checks that people ask for, a few at a time, and says after each stage how far it is. */
export class Checks {
  readonly #running = new Set<Promise<void>>()
  #closed = false

  constructor(
    private readonly db: Db,
    private readonly key: SecretKey,
    private readonly drivers: ReadonlyMap<string, Driver>,
  ) {}

  /** Takes up what waits. Safe to call at any time. */
  async look(): Promise<void> {
    while (!this.#closed && this.#running.size < MOST_AT_ONCE) {
      const check = await takeCheck(this.db, this.key)
      if (check === null) return
      const work = this.#do(check)
        .catch((error: unknown) => {
          log.error({ check: check.id, reason: String(error) }, 'a check could not be done')
        })
        .finally(() => {
          this.#running.delete(work)
          void this.look().catch(() => undefined)
        })
      this.#running.add(work)
    }
  }

  async close(): Promise<void> {
    this.#closed = true
    await Promise.all(this.#running)
  }

  async #do(check: OpenCheck): Promise<void> {
    const { id, protocol, address, settings, secret, destinations } = check
    const detail = destinations === null ? null : whyNotThere(destinations, destinations.kind, address)
    if (detail !== null) return this.#refuse(id, { kind: 'elsewhere', address, detail })
    const driver = this.drivers.get(protocol)
    if (driver === undefined) throw new Error(`nothing here speaks ${protocol}`)
    // Each state overwrites the one before: they are written one after the other.
    let writing = Promise.resolve()
    try {
      const result = await runCheck({
        driver,
        target: { address, settings, secret },
        timeoutMs: STAGE_MS,
        tell: (stages, certificate) => {
          writing = writing.then(() => recordStages(this.db, id, stages, certificate)).catch(() => undefined)
        },
      })
      await writing
      await finishCheck(this.db, id, result)
    } catch (error) {
      log.warn({ check: id, reason: String(error) }, 'a check was given something that its driver cannot use')
      await this.#refuse(id, {
        kind: 'unsupported',
        address,
        detail: 'what was filled in cannot be used for this kind of source',
        hint: 'Go through the fields again.',
      })
    }
  }

  /** It is not begun. */
  async #refuse(id: string, failure: Failure): Promise<void> {
    const nothing = { stages: newStages(), certificate: null, findings: null, told: null }
    await finishCheck(this.db, id, { ...nothing, failure })
  }
}
