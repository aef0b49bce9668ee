/**
 * Work that is asked for often and always does everything there is to do: what is asked for while it runs is done once
 * more after it, however often it was asked for.
 */
export class Again {
  #running: Promise<void> | null = null
  #next: Promise<void> | null = null

  constructor(private readonly work: () => Promise<void>) {}

  /** Resolves when everything is done that there was to do when it was called. Rejects as the work does. */
  run(): Promise<void> {
    if (this.#running === null) {
      this.#running = this.work().finally(() => {
        this.#running = null
      })
      return this.#running
    }
    const after = (): Promise<void> => {
      this.#next = null
      return this.run()
    }
    this.#next ??= this.#running.then(after, after)
    return this.#next
  }
}
