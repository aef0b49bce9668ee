import { formatElapsed } from '../units/index.ts'
import type { TextRule } from './rule.ts'

/**
 * Whether a text has what a pattern asks for, in any case: its pieces between `*` one after the other, anywhere.
 * Takes time in proportion to the text, whatever the pattern.
 */
export function textMatcher(pattern: string): (text: string) => boolean {
  const pieces = pattern
    .toLowerCase()
    .split('*')
    .map((piece) => piece.trim())
    .filter((piece) => piece !== '')
  return (text) => {
    const within = text.toLowerCase()
    let at = 0
    for (const piece of pieces) {
      const found = within.indexOf(piece, at)
      if (found < 0) return false
      at = found + piece.length
    }
    return true
  }
}

/** Lines that came in turn, and how many lines each stands for. */
export class TextWindow {
  readonly #lines: { readonly atMs: number; readonly times: number }[] = []
  #count = 0
  lastAtMs = -Infinity

  constructor(private readonly windowMs: number) {}

  add(atMs: number, times: number): void {
    this.#lines.push({ atMs, times })
    this.#count += times
    this.lastAtMs = Math.max(this.lastAtMs, atMs)
    this.#forget(atMs)
  }

  /** How many came within the window before an instant. */
  countAt(atMs: number): number {
    this.#forget(atMs)
    return this.#count
  }

  sinceMs(): number | null {
    return this.#lines[0]?.atMs ?? null
  }

  #forget(atMs: number): void {
    while (this.#lines[0] !== undefined && this.#lines[0].atMs <= atMs - this.windowMs)
      this.#count -= this.#lines.shift()!.times
  }
}

export const textTitle = (gearName: string, body: string): string =>
  `${gearName} says “${body.length > 90 ? `${body.slice(0, 89)}…` : body}”`

export const textReason = (rule: TextRule, count: number): string =>
  rule.pattern === '*'
    ? `${count === 1 ? 'A line' : `${count} lines`} of that severity or worse within ${formatElapsed(rule.windowMs)}.`
    : `${count === 1 ? 'A line' : `${count} lines`} like “${rule.pattern}” within ${formatElapsed(rule.windowMs)}.`
