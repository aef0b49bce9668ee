export interface Sending {
  /** The same at every try. */
  readonly id: string
  readonly alertId: number | null
  readonly settings: unknown
  readonly secret: string | null
  /** Mail addresses, or telephone numbers. */
  readonly recipients: readonly string[]
}
