import type { Facts } from '#core/callouts'

export interface Sending {
  readonly settings: unknown
  readonly secret: string | null
  /** Mail addresses, or telephone numbers. */
  readonly recipients: readonly string[]
  /** At least one message, each with the id that it has at every try; a hook has one. */
  readonly parts: readonly { readonly id: string; readonly alertId: number | null; readonly facts: Facts }[]
}

/** A sending has the id of its first message. */
export const idOf = ({ parts }: Sending): string => parts[0]!.id
