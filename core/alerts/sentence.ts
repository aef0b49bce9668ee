/** What the first screen has found. Taken alerts no longer need somebody *now*. */
export interface WatchCounts {
  readonly criticalUntaken: number
  readonly criticalTaken: number
  readonly warnings: number
  readonly silentSources: number
  readonly sources: number
  readonly gear: number
}

const WORDS = [
  'No',
  'One',
  'Two',
  'Three',
  'Four',
  'Five',
  'Six',
  'Seven',
  'Eight',
  'Nine',
  'Ten',
  'Eleven',
  'Twelve',
]
const inWords = (count: number): string => WORDS[count] ?? String(count)
const plural = (count: number, one: string, many: string): string => (count === 1 ? one : many)

/**
 * The screen in words: first what needs somebody now, then what can wait, then what cannot be seen.
 * @returns the headline and what follows it; together they read as one paragraph.
 */
export function watchSentence(counts: WatchCounts): { headline: string; rest: string } {
  if (counts.sources === 0)
    return { headline: 'Nothing is watched yet.', rest: 'Connect a first source to begin.' }
  const rest: string[] = []
  if (counts.criticalTaken > 0) {
    rest.push(`${inWords(counts.criticalTaken)} ${plural(counts.criticalTaken, 'is', 'are')} already taken.`)
  }
  if (counts.warnings > 0) rest.push(`${inWords(counts.warnings)} can wait for the morning.`)
  if (counts.silentSources > 0) {
    rest.push(
      counts.silentSources === counts.sources
        ? 'No source is heard: what is shown is old.'
        : `${inWords(counts.silentSources)} of ${inWords(counts.sources).toLowerCase()} sources ${plural(counts.silentSources, 'is', 'are')} silent.`,
    )
  }
  if (counts.criticalUntaken > 0) {
    const headline = `${inWords(counts.criticalUntaken)} ${plural(counts.criticalUntaken, 'thing needs', 'things need')} you now.`
    return { headline, rest: rest.join(' ') }
  }
  if (rest.length === 0) rest.push(`All ${counts.gear} gear are heard and within their lines.`)
  return { headline: 'Nothing needs you now.', rest: rest.join(' ') }
}

/** What may come of «I have it». */
export type TakeOutcome =
  | { readonly kind: 'taken' }
  | { readonly kind: 'alreadyTaken'; readonly by: string }
  | { readonly kind: 'cleared' }
  | { readonly kind: 'unknown' }

/** Why it was not taken, as a sentence about it; `null` when it was. */
export function takeProblem(outcome: TakeOutcome): string | null {
  switch (outcome.kind) {
    case 'taken':
      return null
    case 'alreadyTaken':
      return `${outcome.by} has it already.`
    case 'cleared':
      return 'It has cleared by itself meanwhile.'
    case 'unknown':
      return 'There is no such alert.'
    default:
      return outcome satisfies never
  }
}

/** What came of taking several; `null` when all were taken. */
export function takenSentence(outcomes: readonly TakeOutcome[]): string | null {
  const taken = outcomes.filter(({ kind }) => kind === 'taken').length
  const others = outcomes.filter(({ kind }) => kind === 'alreadyTaken').length
  const gone = outcomes.length - taken - others
  if (taken === outcomes.length) return null
  const why = [
    ...(others > 0 ? [`${others} ${others === 1 ? 'is' : 'are'} somebody else's already`] : []),
    ...(gone > 0 ? [`${gone} ${gone === 1 ? 'has' : 'have'} cleared meanwhile`] : []),
  ]
  return `${taken} of ${outcomes.length} taken: ${why.join(', ')}.`
}
