import type { GearKind } from '../catalogue/index.ts'

/** What a gear must be to get a tag by rule; what is `null` does not matter. */
export interface TagMatch {
  /** With `*` for any run of characters, in any case: `tide-model-*`. */
  readonly name: string | null
  readonly kind: GearKind | null
  readonly roomId: number | null
  readonly rackId: number | null
  readonly sourceId: number | null
}

export interface TagRule {
  readonly tag: string
  readonly match: TagMatch
}

export interface Taggable {
  readonly name: string
  readonly kind: GearKind
  readonly roomId: number | null
  readonly rackId: number | null
  readonly sourceIds: readonly number[]
  readonly tags: readonly string[]
}

const pieces = new Map<string, readonly string[]>()

/** A pattern taken apart at its stars; the same few patterns are held against thousands of names. */
function piecesOf(pattern: string): readonly string[] {
  const known = pieces.get(pattern)
  if (known !== undefined) return known
  if (pieces.size > 1000) pieces.clear()
  const made = pattern.toLowerCase().split('*')
  pieces.set(pattern, made)
  return made
}

/** Whether a name fits a pattern in which `*` stands for any run of characters. */
export function fitsPattern(name: string, pattern: string): boolean {
  const [first = '', ...rest] = piecesOf(pattern)
  const text = name.toLowerCase()
  if (rest.length === 0) return text === first
  if (!text.startsWith(first)) return false
  const last = rest.pop()!
  let at = first.length
  for (const piece of rest) {
    const found = text.indexOf(piece, at)
    if (found < 0) return false
    at = found + piece.length
  }
  return text.length - last.length >= at && text.endsWith(last)
}

export const fitsTagMatch = (gear: Taggable, match: TagMatch): boolean =>
  (match.kind === null || gear.kind === match.kind) &&
  (match.roomId === null || gear.roomId === match.roomId) &&
  (match.rackId === null || gear.rackId === match.rackId) &&
  (match.sourceId === null || gear.sourceIds.includes(match.sourceId)) &&
  (match.name === null || fitsPattern(gear.name, match.name))

/** Tags that people gave, and those that rules give, in order and each once. */
export function tagsOf(gear: Taggable, rules: readonly TagRule[]): string[] {
  const given = rules.filter(({ match }) => fitsTagMatch(gear, match))
  if (given.length === 0 && gear.tags.length < 2) return [...gear.tags]
  return [...new Set([...gear.tags, ...given.map(({ tag }) => tag)])].sort()
}
