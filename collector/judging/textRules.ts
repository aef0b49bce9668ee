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
import { clearAlert, openAlert, retellAlert } from '#db/alerts'
import type { Db } from '#db/platform'
import { listRules, type GearScope, listGearScopes } from '#db/rules'
import type { NewText } from '#db/logs'
import type { Teller } from '../notify/notifier.ts'

/** A text rule on one gear. */
interface TextPost {
  readonly rule: TextRule
  readonly fits: (text: string) => boolean
  readonly window: TextWindow
  readonly gear: GearScope
  alert: { id: number; openedAtMs: number; told: number } | null
  last: string
}

type Text = Pick<NewText, 'heardAt' | 'severity' | 'body' | 'times' | 'gearId' | 'app'>

/** So many lines are looked at again after a start. */
const MOST_SEEDED = 20_000

/**
 * Judges what devices say by themselves: a burst is one alert, whose count goes up, until its window has passed without
 * another line like it.
 */
export class TextRules {
  #posts = new Map<number, TextPost[]>()
  #scopes: ReadonlyMap<number, GearScope> = new Map()
  #rules: readonly KeptRule[] = []
  #isStale = true
  #queue: Promise<void> = Promise.resolve()

  constructor(
    private readonly db: Db,
    private readonly teller: Teller,
  ) {}

  refresh(): void {
    this.#isStale = true
  }

  /** Texts as they have been stored, oldest first. */
  take(texts: readonly Text[]): Promise<void> {
    return this.#inTurn(async () => {
      await this.#makeReady(texts)
      const changed = new Set<TextPost>()
      for (const text of texts)
        for (const post of this.#postsOf(text.gearId))
          if (text.severity <= post.rule.atMost && post.fits(`${text.app ?? ''} ${text.body}`)) {
            post.window.add(text.heardAt.getTime(), text.times)
            post.last = text.body
            changed.add(post)
          }
      for (const post of changed) await this.#judge(post)
    })
  }

  /** Clears what has not come again. */
  look(nowMs: number): Promise<void> {
    return this.#inTurn(async () => {
      await this.#makeReady([])
      for (const posts of this.#posts.values())
        for (const post of posts) {
          const { alert, rule, window } = post
          if (alert === null || nowMs - window.lastAtMs < rule.windowMs) continue
          const reason = `No line like it for ${formatElapsed(rule.windowMs)}.`
          await this.#clear(alert.id, nowMs, textTitle(post.gear.gearName, post.last), reason)
          post.alert = null
        }
    })
  }

  #inTurn(work: () => Promise<void>): Promise<void> {
    const next = this.#queue.then(work)
    this.#queue = next.catch(() => undefined)
    return next
  }

  #postsOf(gearId: number | null): readonly TextPost[] {
    if (gearId === null) return []
    const known = this.#posts.get(gearId)
    if (known !== undefined) return known
    const gear = this.#scopes.get(gearId)
    const posts =
      gear === undefined
        ? []
        : rulesInForceFor(this.#rules, gear).flatMap(({ kept: { rule } }): TextPost[] =>
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
    this.#posts.set(gearId, posts)
    return posts
  }

  /** Reads rules, scopes, open alerts and the texts of the last window anew, once they may have changed. */
  async #makeReady(coming: readonly Text[]): Promise<void> {
    if (!this.#isStale) return
    const [rules, scopes] = await Promise.all([listRules(this.db), listGearScopes(this.db)])
    this.#rules = rules.filter(({ rule }) => rule.kind === 'text')
    this.#scopes = scopes
    this.#posts = new Map()
    const longest = Math.max(0, ...this.#rules.map(({ rule }) => (rule.kind === 'text' ? rule.windowMs : 0)))
    const first = Math.min(Date.now(), ...coming.map(({ heardAt }) => heardAt.getTime()))
    const [past, open] = await Promise.all([
      this.db
        .selectFrom('deviceText')
        .select(['heardAt', 'severity', 'body', 'times', 'gearId', 'app'])
        .where('gearId', 'is not', null)
        .where('heardAt', '>', new Date(first - longest))
        .where('heardAt', '<', new Date(first))
        .orderBy('heardAt', 'desc')
        .limit(MOST_SEEDED)
        .execute(),
      this.db
        .selectFrom('alert')
        .select(['id', 'ruleKey', 'gearId', 'openedAt', 'title'])
        .where('clearedAt', 'is', null)
        .where('subject', 'like', 'text %')
        .execute(),
    ])
    for (const text of past.reverse())
      for (const post of this.#postsOf(text.gearId))
        if (text.severity <= post.rule.atMost && post.fits(`${text.app ?? ''} ${text.body}`)) {
          post.window.add(text.heardAt.getTime(), text.times)
          post.last = text.body
        }
    for (const alert of open) {
      const post = this.#postsOf(alert.gearId).find(({ rule }) => rule.key === alert.ruleKey)
      if (post === undefined)
        await this.#clear(alert.id, Date.now(), alert.title, 'Its rule is not in force here any more.')
      else post.alert = { id: alert.id, openedAtMs: alert.openedAt.getTime(), told: 0 }
    }
    this.#isStale = false
  }

  async #judge(post: TextPost): Promise<void> {
    const { rule, window, gear } = post
    const atMs = window.lastAtMs
    const count = window.countAt(atMs)
    const title = textTitle(gear.gearName, post.last)
    const reason = textReason(rule, count)
    if (post.alert !== null) {
      if (count !== post.alert.told) await retellAlert(this.db, post.alert.id, { title, reason })
      post.alert.told = count
      return
    }
    if (count < rule.count) return
    const id = await this.db.transaction().execute(async (trx) => {
      const opened = await openAlert(trx, {
        ruleKey: rule.key,
        seriesId: null,
        sourceId: null,
        gearId: gear.gearId,
        partId: null,
        measure: null,
        subject: `text ${gear.gearId}`,
        severity: rule.severity,
        title,
        reason,
        line: textReason(rule, rule.count),
        value: count,
        sinceAt: new Date(window.sinceMs() ?? atMs),
        openedAt: new Date(atMs),
      })
      if (opened !== null)
        await this.teller.tell(trx, { alertId: opened, event: 'opened', title, reason, atMs })
      return opened
    })
    if (id === null) this.#isStale = true
    else post.alert = { id, openedAtMs: atMs, told: count }
  }

  #clear(id: number, atMs: number, title: string, reason: string): Promise<void> {
    return this.db.transaction().execute(async (trx) => {
      if (await clearAlert(trx, id, new Date(atMs), reason))
        await this.teller.tellCleared(trx, { alertId: id, title, reason, atMs })
    })
  }
}
