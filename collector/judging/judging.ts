import type { Db } from '#db/platform'
import type { StoredMoment } from '../intake/delivery.ts'
import type { StoredText } from '../intake/texts.ts'
import { log } from '../platform/log.ts'
import { every, type Repeating } from '../platform/repeating.ts'
import { WallClock } from '../platform/wallClock.ts'
import type { AlertWriter } from './alertWriter.ts'
import type { Notifier } from '../notify/notifier.ts'
import { AHEAD_LOOK_MS, AheadRules } from './aheadRules.ts'
import { Blindness } from './blindness.ts'
import { Causes } from './causes.ts'
import { Counts, LOOK_MS } from './counts.ts'
import { Judgement } from './judgement.ts'
import { Quieting } from './quieting.ts'
import { Rehearsals } from './rehearsals.ts'
import { SenderClocks } from './senderClocks.ts'
import { Silence } from './silence.ts'
import { TextRules } from './textRules.ts'

/** Rules look for so long at the series they know, while new ones come. */
const NEW_SERIES_MS = 5000

export interface JudgingOptions {
  readonly db: Db
  readonly databaseUrl: string
  readonly alerts: AlertWriter
  readonly notifier: Notifier
  /** Whether this collector does what is done once among all. */
  readonly isFirst: () => Promise<boolean>
}

/** Everything that holds rules against what is stored: moments, texts, silence, counts; causes and quiets of what is open. */
export class Judging {
  readonly #judgement: Judgement
  readonly #textRules: TextRules
  readonly #counts: Counts
  readonly #causes: Causes
  readonly #rehearsals: Rehearsals
  readonly #clocks: SenderClocks
  #newSeries: NodeJS.Timeout | undefined
  #ticks: readonly Repeating[] = []

  constructor(private readonly options: JudgingOptions) {
    const { db, alerts, notifier, isFirst, databaseUrl } = options
    this.#judgement = new Judgement(db, alerts)
    this.#textRules = new TextRules(db, alerts)
    this.#counts = new Counts(db, alerts, isFirst)
    this.#causes = new Causes(db, notifier)
    this.#rehearsals = new Rehearsals(db, databaseUrl)
    this.#clocks = new SenderClocks(db, alerts)
  }

  start(nowMs: number): void {
    const { db, alerts, notifier, isFirst } = this.options
    const silence = new Silence(db, alerts, nowMs)
    const clock = new WallClock()
    const quieting = new Quieting(db, notifier)
    const blindness = new Blindness(db, alerts)
    const ahead = new AheadRules(db, alerts, isFirst)
    this.#ticks = [
      every(1000, () => {
        if (clock.wasSet()) {
          silence.clockSet(Date.now())
          blindness.clockSet()
        }
        return silence.look(Date.now())
      }),
      every(LOOK_MS, () => this.#counts.look(Date.now())),
      every(2000, async () => {
        if (!(await isFirst())) return
        const atMs = Date.now()
        await blindness.look(atMs)
        await this.#causes.look(atMs)
        await quieting.look(atMs)
      }),
      every(AHEAD_LOOK_MS, () => ahead.look(Date.now())),
      every(5000, () => this.#textRules.look(Date.now())),
      every(5000, () => this.#rehearsals.look()),
    ]
  }

  /** A moment is safe before it is judged. Should judging fail, the next moment judges again from what is stored. */
  async judgeMoment(stored: StoredMoment): Promise<void> {
    await this.#judgement.judgeMoment(stored).catch((error: unknown) => {
      log.error({ sourceId: stored.taken.sourceId, reason: String(error) }, 'a moment could not be judged')
    })
    await this.#clocks.heard(stored.taken).catch((error: unknown) => {
      log.error({ sourceId: stored.taken.sourceId, reason: String(error) }, 'a clock could not be judged')
    })
  }

  async judgeTexts(stored: readonly StoredText[]): Promise<void> {
    await this.#textRules.take(stored).catch((error: unknown) => {
      this.#textRules.refresh()
      log.error({ reason: String(error) }, 'what devices said could not be judged')
    })
  }

  /** What was judged of a source, or of all, is not known any more. */
  forget(sourceId?: number): void {
    this.#judgement.forget(sourceId)
  }

  /** What rules are on has changed: the rules, where gear is, or what is compared with it. */
  refresh(): void {
    clearTimeout(this.#newSeries)
    this.#newSeries = undefined
    this.#judgement.refresh()
    this.#textRules.refresh()
    this.#counts.refresh()
    this.#causes.refresh()
  }

  /** There are new series. At a first start every source brings its own, one after the other. */
  refreshSoon(): void {
    this.#newSeries ??= setTimeout(() => this.refresh(), NEW_SERIES_MS)
  }

  lookForRehearsals(): Promise<void> {
    return this.#rehearsals.look()
  }

  async close(): Promise<void> {
    for (const tick of this.#ticks) tick.stop()
    clearTimeout(this.#newSeries)
    await this.#rehearsals.close()
  }
}
