import { BLIND_RULE, openAlertsOfRule, silenceByReader, type ReaderSilence } from '#db/alerts'
import type { Db } from '#db/platform'
import type { AlertWriter } from './alertWriter.ts'

/** Fewer silent sources than this are troubles of their own. */
const LEAST = 4
/** From this share of what a collector reads on, it is the collector, or its way there, that is the trouble. */
const SHARE = 0.5

/** Nothing at all for so long, of so many, is no accident: it is known before the first of them counts as silent. */
const DEAF_MS = 25_000
const DEAF_INTERVALS = 2.5

const subjectOf = (reader: string): string => `collector ${reader}`

/**
 * Notices that a collector hears most of its sources no more: one alert, “blind here”, in the place of one for each.
 * What is pushed to us counts as read by one collector.
 */
export class Blindness {
  /** Since when it has been looked without a break: what was not heard before nobody listened to. */
  #sinceMs: number | null = null

  constructor(
    private readonly db: Db,
    private readonly alerts: AlertWriter,
  ) {}

  /** The clock was set: how long ago anything was is not known. */
  clockSet(): void {
    this.#sinceMs = null
  }

  #isDeaf({ total, newestMs, shortestMs }: ReaderSilence, nowMs: number): boolean {
    if (total < LEAST || newestMs === null || this.#sinceMs === null) return false
    const longestMs = Math.max(DEAF_MS, DEAF_INTERVALS * shortestMs)
    return nowMs - Math.max(newestMs, this.#sinceMs) > longestMs
  }

  async look(nowMs: number): Promise<void> {
    const [readers, open] = await Promise.all([
      silenceByReader(this.db),
      openAlertsOfRule(this.db, BLIND_RULE),
    ]).catch((error: unknown) => {
      this.#sinceMs = null
      throw error
    })
    this.#sinceMs ??= nowMs
    for (const { id, subject, title } of open) {
      const reader = readers.find((each) => subject === subjectOf(each.reader))
      // It stays for as long as a quarter is silent: half of them may come back one after the other.
      const isMany = reader !== undefined && reader.silent.length >= Math.max(2, reader.total * (SHARE / 2))
      if (isMany || (reader !== undefined && this.#isDeaf(reader, nowMs))) continue
      const total = reader?.total ?? 0
      const reason = `${total - (reader?.silent.length ?? 0)} of ${total} sources are heard again.`
      await this.alerts.clear(id, { title, reason, atMs: nowMs })
    }
    for (const reader of readers) {
      const isMost = reader.silent.length >= LEAST && reader.silent.length >= reader.total * SHARE
      if (!isMost && !this.#isDeaf(reader, nowMs)) continue
      if (open.some((alert) => alert.subject === subjectOf(reader.reader))) continue
      await this.#open(reader, nowMs)
    }
  }

  async #open({ reader, total, silent, sinceMs, newestMs }: ReaderSilence, nowMs: number): Promise<void> {
    const isDeaf = silent.length < total * SHARE
    const who = reader === 'pushes' ? 'What is pushed to us' : `The collector ${reader}`
    await this.alerts.open({
      ruleKey: BLIND_RULE,
      subject: subjectOf(reader),
      severity: 'critical',
      title: isDeaf
        ? `Blind here: none of ${total} sources is heard`
        : `Blind here: ${silent.length} of ${total} sources are not heard`,
      reason: `${who} hears ${isDeaf ? 'none' : total - silent.length} of ${total}; its own network, or it, is the likeliest cause. Nothing is known of what they watch.`,
      line: `${Math.round(SHARE * 100)} % of the sources of a collector, at least ${LEAST}`,
      value: isDeaf ? total : silent.length,
      sinceMs: sinceMs ?? newestMs ?? nowMs,
      atMs: nowMs,
    })
  }
}
