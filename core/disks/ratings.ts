import { AmountError, parseAmount } from '../units/index.ts'

/** What a maker promises of a model: so many bytes may be written to it. */
export interface Rating {
  readonly model: string
  readonly ratedBytes: number
  /** Where it was found. */
  readonly origin: string
}

export interface RatingLine {
  readonly model: string
  readonly endurance: string
  readonly source: string
}

const LEAST_BYTES = 1e12
const MOST_BYTES = 1e18

/** @returns bytes, or what is wrong with the words: “3504 TBW”, “3.5 PB” */
export function enduranceIn(text: string): number | string {
  const given = text.trim()
  if (given === '') return 'The endurance is missing: write the bytes that its maker promises, as in 3504 TB.'
  let bytes: number
  try {
    bytes = parseAmount(given.replace(/([kmgtp]i?b)w$/i, '$1'), 'byte')
  } catch (error) {
    if (error instanceof AmountError)
      return `“${given}” is not an endurance: write the bytes that its maker promises, as in 3504 TB.`
    throw error
  }
  return bytes >= LEAST_BYTES && bytes <= MOST_BYTES
    ? bytes
    : `“${given}” is not an endurance of a drive: it lies between 1 TB and 1,000 PB.`
}

/**
 * Reads ratings line by line.
 * @param known models that drives here have: others are named, since a rating of a model that nobody has is a slip
 * @returns what can be kept, and what is wrong with each other line, by its number
 */
export function readRatings(
  lines: readonly (RatingLine & { readonly line: number })[],
  known: ReadonlySet<string>,
): { good: (Rating & { readonly line: number })[]; bad: { line: number; why: string }[] } {
  const good: (Rating & { readonly line: number })[] = []
  const bad: { line: number; why: string }[] = []
  const firstOf = new Map<string, number>()
  for (const { line, model: given, endurance, source } of lines) {
    const model = given.trim()
    const origin = source.trim()
    const bytes = enduranceIn(endurance)
    const before = firstOf.get(model)
    const why =
      model === ''
        ? 'The model is missing.'
        : before !== undefined
          ? `“${model}” is given twice, first in line ${before}.`
          : !known.has(model)
            ? `No drive here is a “${model}”. Models are written as the drives tell them.`
            : typeof bytes === 'string'
              ? bytes
              : origin === '' || origin.length > 200
                ? 'The source is missing: say where it was read, as in “data sheet of March 2025”.'
                : null
    if (model !== '' && before === undefined) firstOf.set(model, line)
    if (why !== null) bad.push({ line, why })
    else good.push({ line, model, ratedBytes: bytes as number, origin })
  }
  return { good, bad }
}
