import type { Severity } from '../rules/index.ts'

/**
 * Worst first. `noData` stands after warning: what is known to be bad comes before what is not known. `quiet`: something
 * holds, and somebody has quieted or accepted it.
 */
export const GEAR_STATES = ['critical', 'warning', 'noData', 'quiet', 'well'] as const
export type GearState = (typeof GEAR_STATES)[number]

export const worstState = (states: Iterable<GearState>): GearState => {
  const seen = new Set(states)
  return GEAR_STATES.find((state) => seen.has(state)) ?? 'well'
}

/** The state of a gear from its open alerts, those that are quiet as such, and whether one of its sources is silent. */
export function rollUp(open: Iterable<Severity | 'quiet'>, hasSilentSource: boolean): GearState {
  return worstState([...open, ...(hasSilentSource ? (['noData'] as const) : [])])
}

/** A state by itself, as a label: “no data”. */
export const STATE_WORDS: Readonly<Record<GearState, string>> = {
  critical: 'critical',
  warning: 'warning',
  noData: 'no data',
  quiet: 'quieted',
  well: 'well',
}

/** A state as what somebody is said to be: “petrel-07 is without data”. */
export const STATE_PREDICATES: Readonly<Record<GearState, string>> = {
  ...STATE_WORDS,
  warning: 'in warning',
  noData: 'without data',
}
