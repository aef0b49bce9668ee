/** The beginning of a list as it came with the page. */
export interface Beginning<Row> {
  readonly rows: readonly Row[]
  /** Whether these are all there are. */
  readonly isWhole: boolean
}

/**
 * A long list whose beginning comes with the page, and all of it right after; asked for again whenever the page is. What
 * cannot be had now leaves what stands.
 * @param pathOf where all rows are had, as JSON
 */
export class WholeList<Row> {
  #whole = $state.raw<{ readonly path: string; readonly rows: readonly Row[] } | null>(null)
  readonly #beginning: Beginning<Row>
  readonly #path: string

  constructor(beginning: () => Beginning<Row>, pathOf: () => string) {
    // Asked for again when the beginning itself is another, and not whenever anything of the page is.
    this.#beginning = $derived(beginning())
    this.#path = $derived(pathOf())
    $effect(() => {
      const path = this.#path
      if (this.#beginning.isWhole) return
      const stop = new AbortController()
      fetch(path, { signal: stop.signal, headers: { accept: 'application/json' } })
        .then(async (answer) => {
          if (answer.ok) this.#whole = { path, rows: (await answer.json()) as Row[] }
        })
        .catch(() => undefined)
      return () => stop.abort()
    })
  }

  /** All rows once they are here, before that the first of them. */
  get rows(): readonly Row[] {
    return this.#beginning.isWhole || this.#whole?.path !== this.#path
      ? this.#beginning.rows
      : this.#whole.rows
  }

  get isWhole(): boolean {
    return this.#beginning.isWhole || this.#whole?.path === this.#path
  }
}
