import type { Severity } from '../rules/index.ts'

/** Worst first. `noData` stands after warning: what is known to be bad comes before what is not known. */
export const GEAR_STATES = ['critical', 'warning', 'noData', 'well'] as const
export type GearState = (typeof GEAR_STATES)[number]

export const worstState = (states: Iterable<GearState>): GearState => {
  const seen = new Set(states)
  return GEAR_STATES.find((state) => seen.has(state)) ?? 'well'
}

/** The state of a gear from its open alerts and whether one of its sources is silent. */
export function rollUp(openSeverities: Iterable<Severity>, hasSilentSource: boolean): GearState {
  return worstState([...openSeverities, ...(hasSilentSource ? (['noData'] as const) : [])])
}
