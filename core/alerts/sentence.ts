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
