const MOST_KEPT = 10_000

/** So many of each key within a while, and no more. */
export class Few {
  readonly #taken = new Map<string, { readonly sinceMs: number; count: number }>()

  constructor(
    private readonly most: number,
    private readonly windowMs: number,
    private readonly now: () => number = Date.now,
  ) {}

  /** Whether this one is still among the few. */
  take(key: string): boolean {
    const nowMs = this.now()
    const known = this.#taken.get(key)
    if (known === undefined || nowMs - known.sinceMs >= this.windowMs) {
      this.#taken.delete(key)
      this.#taken.set(key, { sinceMs: nowMs, count: 1 })
      if (this.#taken.size > MOST_KEPT) this.#taken.delete(this.#taken.keys().next().value!)
      return true
    }
    known.count += 1
    return known.count <= this.most
  }
}
