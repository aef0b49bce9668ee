import { nextLags, skewOf, skewSeverity } from '#core/sources'
import { formatElapsed } from '#core/units'
import { openAlertsOfRule } from '#db/alerts'
import type { Db } from '#db/platform'
import { findSource, firstGearOf } from '#db/sources'
import type { Taken } from '../intake/delivery.ts'
import type { AlertWriter } from './alertWriter.ts'

export const SENDER_CLOCK_RULE = 'sender-clock'

/** A push, as far as its clock is concerned. */
type Heard = Pick<Taken, 'sourceId' | 'atMs' | 'heardAtMs' | 'durationMs'>

interface Seen {
  heardAtMs: number
  /** Between its last two pushes. */
  gapMs: number
  /** Of the pushes before this one. */
  before: readonly number[]
  lags: readonly number[]
  severity: 'critical' | 'warning' | null | undefined
}

/**
 * Notices senders whose clock is off: their readings stand beside those of others at the wrong time. One alert a sender,
 * with both clocks. What we read ourselves has our own time.
 */
export class SenderClocks {
  readonly #seen = new Map<number, Seen>()

  constructor(
    private readonly db: Db,
    private readonly alerts: AlertWriter,
  ) {}

  async heard({ sourceId, atMs, heardAtMs, durationMs }: Heard): Promise<void> {
    if (durationMs !== null) return
    const seen = this.#seen.get(sourceId) ?? {
      heardAtMs,
      gapMs: 0,
      before: [],
      lags: [],
      severity: undefined,
    }
    this.#seen.set(sourceId, seen)
    if (seen.heardAtMs !== heardAtMs) {
      seen.before = seen.lags
      seen.gapMs = Math.abs(heardAtMs - seen.heardAtMs)
      seen.heardAtMs = heardAtMs
    }
    // A push may bring several moments; its newest says what its clock shows.
    const lagMs = Math.min(
      heardAtMs - atMs,
      seen.lags.length > seen.before.length ? seen.lags.at(-1)! : Infinity,
    )
    seen.lags = nextLags(seen.before, lagMs)
    const skewMs = skewOf(seen.lags, seen.gapMs)
    const severity = skewMs === null ? undefined : skewSeverity(skewMs)
    if (skewMs === null || severity === undefined || severity === seen.severity) return
    await this.#judge(sourceId, { severity, skewMs, heardAtMs })
    seen.severity = severity
  }

  async #judge(
    sourceId: number,
    found: { severity: 'critical' | 'warning' | null; skewMs: number; heardAtMs: number },
  ): Promise<void> {
    const subject = `sender ${sourceId}`
    const source = await findSource(this.db, sourceId)
    if (source === undefined) return
    const gearId = await firstGearOf(this.db, sourceId)
    await this.db.transaction().execute(async (trx) => {
      const open = (await openAlertsOfRule(trx, SENDER_CLOCK_RULE)).find((each) => each.subject === subject)
      const { severity, skewMs, heardAtMs: atMs } = found
      if (severity === null) {
        const ending = {
          title: `The clock of ${source.name} is right again`,
          reason: 'Its readings have the right time.',
          atMs,
        }
        if (open !== undefined) await this.alerts.clear(open.id, ending, trx)
        return
      }
      const words = { severity, atMs, ...clockWords(source.name, skewMs, atMs) }
      if (open === undefined)
        await this.alerts.open(
          { ...words, ruleKey: SENDER_CLOCK_RULE, subject, gearId, sinceMs: atMs, value: skewMs / 1000 },
          trx,
        )
      else if (open.severity !== severity) await this.alerts.change(open.id, words, trx)
    })
  }
}

const showing = (atMs: number): string => `${new Date(atMs).toISOString().slice(0, 19).replace('T', ' ')} UTC`

function clockWords(
  name: string,
  skewMs: number,
  atMs: number,
): { title: string; reason: string; line: string } {
  const by = formatElapsed(Math.abs(skewMs))
  const [title, also] =
    skewMs > 0
      ? [`The clock of ${name} is ${by} ahead`, '']
      : [`The clock of ${name} is ${by} behind`, ', or it holds every push back for as long']
  return {
    title,
    reason: `It showed ${showing(atMs + skewMs)} when it was ${showing(atMs)} here${also}. Its readings stand at the wrong time: set its clock.`,
    line: 'off by 30 s',
  }
}
