import type { Facts } from '#core/callouts'

export interface Sending {
  readonly settings: unknown
  readonly secret: string | null
  /** Mail addresses, or telephone numbers. */
  readonly recipients: readonly string[]
  /** At least one message, each with the id that it has at every try; a hook has one. */
  readonly parts: readonly { readonly id: string; readonly alertId: number | null; readonly facts: Facts }[]
}

/** What came of a sending that was taken. */
export interface Sent {
  /** What the far side answered, in a line. */
  readonly words: string
  /** Recipients that it did not take. */
  readonly refused: readonly string[]
}

/** The far side does not take it and will not: trying again would be the same. */
export class RefusedForGood extends Error {}

/** A sending has the id of its first message. */
export const idOf = ({ parts }: Sending): string => parts[0]!.id
