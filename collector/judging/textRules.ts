import {
  type KeptRule,
  rulesInForceFor,
  textMatcher,
  textReason,
  type TextRule,
  textTitle,
  TextWindow,
} from '#core/rules'
import { formatElapsed } from '#core/units'
import { openTextAlerts, retellAlert } from '#db/alerts'
import type { Db } from '#db/platform'
import { listRules, type GearScope, listGearScopes } from '#db/rules'
import { type NewText, textsBefore } from '#db/logs'
import type { AlertWriter } from './alertWriter.ts'

/** A text rule on one gear. */
interface TextInstance {
  readonly rule: TextRule
  readonly fits: (text: string) => boolean
  readonly window: TextWindow
  readonly gear: GearScope
  alert: { id: number; openedAtMs: number; counted: number } | null
  last: string
}

type Text = Pick<NewText, 'heardAt' | 'severity' | 'body' | 'times' | 'gearId' | 'app'>

/** So many lines are looked at again after a start. */
const MOST_SEEDED = 20_000

/** The rules that a text is one for. Of two that ask for the same words the graver one has it alone: one line, one alert. */
function fitting(text: Text, instances: readonly TextInstance[]): TextInstance[] {
  const words = `${text.app ?? ''} ${text.body}`
  const fit = instances.filter(({ rule, fits }) => text.severity <= rule.atMost && fits(words))
  return fit.filter(
    ({ rule }) =>
      !fit.some(
        ({ rule: other }) =>
          other.pattern === rule.pattern && other.severity === 'critical' && rule.severity === 'warning',
      ),
  )
}

/**
 * Judges what devices say by themselves: a burst is one alert, whose count goes up, until its window has passed without
 * another line like it.
 */
export class TextRules {
  #instances = new Map<number, TextInstance[]>()
  #scopes: ReadonlyMap<number, GearScope> = new Map()
  #rules: readonly KeptRule[] = []
  #isStale = true
  #queue: Promise<void> = Promise.resolve()

  constructor(
    private readonly db: Db,
    private readonly alerts: AlertWriter,
  ) {}

  refresh(): void {
    this.#isStale = true
  }

  /** Texts as they have been stored, oldest first. */
  take(texts: readonly Text[]): Promise<void> {
    return this.#inTurn(async () => {
      await this.#makeReady(texts)
      const changed = new Set<TextInstance>()
      for (const text of texts)
        for (const instance of fitting(text, this.#rulesOn(text.gearId))) {
          instance.window.add(text.heardAt.getTime(), text.times)
          instance.last = text.body
          changed.add(instance)
        }
      for (const instance of changed) await this.#judge(instance)
    })
  }

  /** Clears what has not come again. */
  look(nowMs: number): Promise<void> {
    return this.#inTurn(async () => {
      await this.#makeReady([])
      for (const instances of this.#instances.values())
        for (const instance of instances) {
          const { alert, rule, window } = instance
          if (alert === null || nowMs - window.lastAtMs < rule.windowMs) continue
          const reason = `No line like it for ${formatElapsed(rule.windowMs)}.`
          const title = textTitle(instance.gear.gearName, instance.last)
          await this.alerts.clear(alert.id, { title, reason, atMs: nowMs })
          instance.alert = null
        }
    })
  }

  #inTurn(work: () => Promise<void>): Promise<void> {
    const next = this.#queue.then(work)
    this.#queue = next.catch(() => undefined)
    return next
  }

  #rulesOn(gearId: number | null): readonly TextInstance[] {
    if (gearId === null) return []
    const known = this.#instances.get(gearId)
    if (known !== undefined) return known
    const gear = this.#scopes.get(gearId)
    const instances =
      gear === undefined
        ? []
        : rulesInForceFor(this.#rules, gear).flatMap(({ kept: { rule } }): TextInstance[] =>
            rule.kind !== 'text'
              ? []
              : [
                  {
                    rule,
                    fits: textMatcher(rule.pattern),
                    window: new TextWindow(rule.windowMs),
                    gear,
                    alert: null,
                    last: '',
                  },
                ],
          )
    this.#instances.set(gearId, instances)
    return instances
  }

  /** Reads rules, scopes, open alerts and the texts of the last window anew, once they may have changed. */
  async #makeReady(coming: readonly Text[]): Promise<void> {
    if (!this.#isStale) return
    const [rules, scopes] = await Promise.all([listRules(this.db), listGearScopes(this.db)])
    this.#rules = rules.filter(({ rule }) => rule.kind === 'text')
    this.#scopes = scopes
    this.#instances = new Map()
    const longest = Math.max(0, ...this.#rules.map(({ rule }) => (rule.kind === 'text' ? rule.windowMs : 0)))
    const first = Math.min(Date.now(), ...coming.map(({ heardAt }) => heardAt.getTime()))
    const [past, open] = await Promise.all([
      textsBefore(this.db, { fromMs: first - longest, toMs: first, most: MOST_SEEDED }),
      openTextAlerts(this.db),
    ])
    for (const text of past)
      for (const instance of fitting(text, this.#rulesOn(text.gearId))) {
        instance.window.add(text.heardAt.getTime(), text.times)
        instance.last = text.body
      }
    for (const alert of open) {
      const instance = this.#rulesOn(alert.gearId).find(({ rule }) => rule.key === alert.ruleKey)
      if (instance === undefined)
        await this.alerts.clear(alert.id, {
          title: alert.title,
          reason: 'Its rule is not in force here any more.',
          atMs: Date.now(),
        })
      else instance.alert = { id: alert.id, openedAtMs: alert.openedAt.getTime(), counted: 0 }
    }
    this.#isStale = false
  }

  async #judge(instance: TextInstance): Promise<void> {
    const { rule, window, gear } = instance
    const atMs = window.lastAtMs
    const count = window.countAt(atMs)
    const title = textTitle(gear.gearName, instance.last)
    const reason = textReason(rule, count)
    const { alert } = instance
    if (alert !== null) {
      if (count !== alert.counted) await retellAlert(this.db, alert.id, { title, reason })
      alert.counted = count
    }
    if (alert !== null || count < rule.count) return
    const { gearId } = gear
    const id = await this.alerts.open({
      ruleKey: rule.key,
      subject: `text ${gearId}`,
      gearId,
      severity: rule.severity,
      title,
      reason,
      line: textReason(rule, rule.count),
      value: count,
      sinceMs: window.sinceMs() ?? atMs,
      atMs,
    })
    if (id === null) this.#isStale = true
    else instance.alert = { id, openedAtMs: atMs, counted: count }
  }
}
