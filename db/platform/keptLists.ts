import { sql } from 'kysely'
import type { Db } from './connect.ts'

/** Lists that seldom change, by the names under which the triggers of their tables say that they have. */
export type KeptList =
  | 'site'
  | 'settings'
  | 'places'
  | 'standing'
  | 'links'
  | 'scopes'
  | 'rules'
  | 'callOuts'
  | 'tagRules'
  | 'ownFields'
  | 'groups'

/** So long what is kept is believed at most; the database that stood behind it may have been put back from a copy. */
const FOR_MS = 60_000

/**
 * Lists of the database that a process keeps until a transaction changes them. `look` asks what has changed; whatever is
 * taken after it is at least as new as the moment at which it was called.
 */
export class KeptLists {
  readonly #lists = new Map<KeptList, Map<(db: Db) => unknown, Promise<unknown>>>()
  /** What the database had done when it was asked last. */
  #snapshot: string | null = null
  #sinceMs = 0

  async look(db: Db, nowMs: number): Promise<void> {
    if (nowMs < this.#sinceMs || nowMs - this.#sinceMs > FOR_MS) {
      this.#snapshot = null
      this.#sinceMs = nowMs
    }
    const since = this.#snapshot
    // Of two that look at the same time either may be answered first: one snapshot too old makes a list be read once more.
    const { rows } = await sql<{ snapshot: string; changed: KeptList[] }>`/* prepared changed_lists */
      select pg_current_snapshot()::text as snapshot, array(
        select distinct list from list_change
        where not pg_visible_in_snapshot(changed_by, ${since}::pg_snapshot)) as changed`.execute(db)
    const { snapshot, changed } = rows[0]!
    if (since === null) this.#lists.clear()
    for (const list of changed) this.#lists.delete(list)
    this.#snapshot = snapshot
  }

  /** What some question answers, of nothing but tables of this list; nobody may change the answer. */
  take<T>(list: KeptList, ask: (db: Db) => Promise<T>, db: Db): Promise<Kept<T>> {
    let made = this.#lists.get(list)
    if (made === undefined) this.#lists.set(list, (made = new Map()))
    const kept = made.get(ask)
    if (kept !== undefined) return kept as Promise<Kept<T>>
    const asked = ask(db).then(freeze)
    made.set(ask, asked)
    asked.catch(() => made.get(ask) === asked && made.delete(ask))
    return asked as Promise<Kept<T>>
  }
}

export type Kept<T> = T extends readonly (infer Each)[]
  ? readonly Each[]
  : T extends Map<infer Key, infer Each>
    ? ReadonlyMap<Key, Each>
    : Readonly<T>

function freeze<T>(value: T): T {
  if (typeof value !== 'object' || value === null || ArrayBuffer.isView(value) || Object.isFrozen(value))
    return value
  if (value instanceof Map) value.forEach(freeze)
  Object.values(value).forEach(freeze)
  return Object.freeze(value)
}
