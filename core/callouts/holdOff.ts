import type { MessageEvent } from './callOut.ts'

/** What one step of a call-out has told, or is about to tell, of one trouble last. */
export interface LastNotified {
  readonly event: MessageEvent
  readonly atMs: number
  /** Of the same stretch, and not of an earlier one of the same trouble. */
  readonly isSameAlert: boolean
}

export type Telling =
  | { readonly kind: 'tell'; readonly atMs: number }
  /** They know already. */
  | { readonly kind: 'known'; readonly sinceMs: number }

/**
 * When a step that comes `waitMs` after now tells of a trouble, if at all. Who was told that it is there, and not that it
 * has gone, is not told again within the hold-off however often it comes back; that it got worse is told always. That it
 * has gone is told at the end of the hold-off: it may come back until then.
 */
export function whenToNotify(
  event: MessageEvent,
  nowMs: number,
  waitMs: number,
  holdOffMs: number,
  last: LastNotified | null,
): Telling {
  const dueMs = nowMs + waitMs
  if (last === null || event === 'worse') return { kind: 'tell', atMs: dueMs }
  const endMs = last.atMs + holdOffMs
  if (event === 'cleared') return { kind: 'tell', atMs: Math.max(dueMs, endMs) }
  const isKnown = last.event !== 'cleared' && (last.isSameAlert || dueMs < endMs)
  return isKnown ? { kind: 'known', sinceMs: last.atMs } : { kind: 'tell', atMs: dueMs }
}
