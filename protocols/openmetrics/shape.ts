/** Types of metrics with the label that is part of their form and none of the metric's own. */
export const LABEL_OF_TYPE = {
  counter: null,
  gauge: null,
  histogram: 'le',
  gaugehistogram: 'le',
  stateset: 'itself',
  info: null,
  summary: 'quantile',
  unknown: null,
} as const
export type FamilyType = keyof typeof LABEL_OF_TYPE

/** `openmetrics`: OpenMetrics 1.0. `plain`: the plain text form, version 0.0.4, that came before it. */
export type DocumentForm = 'openmetrics' | 'plain'

export type Labels = ReadonlyMap<string, string>

/** Where a value came from, for one example (OpenMetrics 1.0, “Exemplars”). */
export interface Exemplar {
  readonly labels: Labels
  readonly value: number
  /** ms since the epoch. */
  readonly atMs: number | null
}

export interface DocumentSample {
  /** With the suffix: `requests_total`. */
  readonly name: string
  readonly labels: Labels
  readonly value: number
  /** ms since the epoch. */
  readonly atMs: number | null
  readonly exemplar: Exemplar | null
  readonly line: number
}

export interface Family {
  readonly name: string
  readonly type: FamilyType
  /** Empty where none is said. */
  readonly unit: string
  readonly help: string
  readonly samples: readonly DocumentSample[]
}
