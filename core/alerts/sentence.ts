/** What one subject has found for the first screen. */
export interface WatchFinding {
  /** How many things of it need somebody now. */
  readonly urgent: number
  /** Whole sentences about the rest. */
  readonly clauses: readonly string[]
  /** What is said when no subject has found anything. */
  readonly well?: string
  /** What is said instead of everything, while there is nothing yet to find anything in. */
  readonly empty?: WatchSentence
}

/** A headline and what follows it; together they read as one paragraph. */
export interface WatchSentence {
  readonly headline: string
  readonly rest: string
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

/** The screen in words: first what needs somebody now, then what each subject says of the rest, in their order. */
export function watchSentence(findings: readonly WatchFinding[]): WatchSentence {
  const empty = findings.find((finding) => finding.empty !== undefined)?.empty
  if (empty !== undefined) return empty
  const urgent = findings.reduce((sum, finding) => sum + finding.urgent, 0)
  const rest = findings.flatMap(({ clauses }) => clauses)
  if (urgent > 0) {
    const headline = `${inWords(urgent)} ${plural(urgent, 'thing needs', 'things need')} you now.`
    return { headline, rest: rest.join(' ') }
  }
  if (rest.length === 0) rest.push(...findings.flatMap(({ well }) => well ?? []))
  return { headline: 'Nothing needs you now.', rest: rest.join(' ') }
}

/**
 * Of what is open and not quiet, by rows. What somebody has taken no longer needs anybody *now*.
 * @param quietCritical how many alerts are critical and quiet: nobody is told of them, so that they are always counted
 */
export function alertFinding(
  rows: readonly {
    readonly state: 'critical' | 'warning' | 'noData' | 'quiet'
    readonly takenBy: string | null
  }[],
  quietCritical = 0,
): WatchFinding {
  const critical = rows.filter(({ state }) => state === 'critical')
  const taken = critical.filter(({ takenBy }) => takenBy !== null).length
  const warnings = rows.filter(({ state }) => state === 'warning').length
  return {
    urgent: critical.length - taken,
    clauses: [
      ...(taken > 0 ? [`${inWords(taken)} ${plural(taken, 'is', 'are')} already taken.`] : []),
      ...(warnings > 0 ? [`${inWords(warnings)} can wait for the morning.`] : []),
      ...(quietCritical > 0
        ? [
            `${inWords(quietCritical)} critical ${plural(quietCritical, 'is', 'are')} quiet, and nobody is notified.`,
          ]
        : []),
    ],
  }
}

/**
 * Of what cannot be seen.
 * @param counts `heard`: how many sources were heard since the collectors began, within their first minute
 */
export function silenceFinding(counts: {
  readonly silent: number
  readonly sources: number
  readonly gear: number
  readonly heard?: number | null
}): WatchFinding {
  const { silent, sources, gear, heard = null } = counts
  return {
    urgent: 0,
    clauses:
      heard !== null && heard < sources
        ? [`Starting: ${heard} of ${sources} sources heard.`]
        : silent === 0
          ? []
          : [
              silent === sources
                ? 'No source is heard: what is shown is old.'
                : `${inWords(silent)} of ${inWords(sources).toLowerCase()} sources ${plural(silent, 'is', 'are')} silent.`,
            ],
    well: `All ${gear} gear are heard and within their lines.`,
    ...(sources === 0
      ? { empty: { headline: 'Nothing is watched yet.', rest: 'Connect a first source to begin.' } }
      : {}),
  }
}

/** What may come of “I have it”. */
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
