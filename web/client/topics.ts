import type { Change } from './stream'

// What a page hears of is named the same on both sides: a load says what it was made from (`hears` on the server), and
// what has changed decides which loads are asked again.

/** The key of a topic, of one source where it is about one. */
export const topicKey = (topic: string, sourceId?: number): `rack:${string}` =>
  sourceId === undefined ? `rack:${topic}` : `rack:${topic}/${sourceId}`

/** Asked again every now and then, whatever has changed: whether the server can still gather a page. */
export const CLOCK = 'clock'
/** What has changed is not known: events may have been missed. */
export const GAP = 'gap'

/** The keys that a change is about; `null` when everything may have changed. */
export function keysOf({ topics, sourceIds }: Change): ReadonlySet<string> | null {
  if (topics.includes(GAP)) return null
  return new Set(topics.flatMap((topic) => [topicKey(topic), ...sourceIds.map((id) => topicKey(topic, id))]))
}

/** What is to be asked again: gathered until it is, as every key or all. */
export class Stale {
  #keys: Set<string> | 'all' = new Set()

  add(keys: ReadonlySet<string> | null): void {
    if (keys === null) this.#keys = 'all'
    else if (this.#keys !== 'all') for (const key of keys) this.#keys.add(key)
  }

  get isEmpty(): boolean {
    return this.#keys !== 'all' && this.#keys.size === 0
  }

  /** Takes all that was gathered. @returns whether a dependency is to be asked again */
  take(): (key: string) => boolean {
    const keys = this.#keys
    this.#keys = new Set()
    return (key) => key.startsWith('rack:') && (keys === 'all' || keys.has(key))
  }
}
