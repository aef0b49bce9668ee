const WINDOW_MS = 10 * 60_000
const MOST_WRONG = 30
const MOST_KEPT = 10_000

/**
 * Wrong passwords of an account, wherever they came from. Where the tries come from counts beside it, so that who guesses
 * does not lock out everybody at one place, and one account is not guessed from many.
 */
export class Tries {
  readonly #wrong = new Map<string, number[]>()

  constructor(private readonly now: () => number = Date.now) {}

  /** For how many seconds nobody may try any more; 0 when somebody may. */
  waitSeconds(account: string): number {
    const wrong = this.#recent(account)
    if (wrong.length < MOST_WRONG) return 0
    return Math.ceil((wrong[wrong.length - MOST_WRONG]! + WINDOW_MS - this.now()) / 1000)
  }

  wrong(account: string): void {
    const recent = [...this.#recent(account), this.now()]
    this.#wrong.delete(keyOf(account))
    this.#wrong.set(keyOf(account), recent.slice(-MOST_WRONG))
    // Who makes up accounts pushes out what was made up first.
    if (this.#wrong.size > MOST_KEPT) this.#wrong.delete(this.#wrong.keys().next().value!)
  }

  right(account: string): void {
    this.#wrong.delete(keyOf(account))
  }

  #recent(account: string): number[] {
    const sinceMs = this.now() - WINDOW_MS
    return (this.#wrong.get(keyOf(account)) ?? []).filter((atMs) => atMs > sinceMs)
  }
}

const keyOf = (account: string): string => account.trim().toLowerCase().slice(0, 320)
