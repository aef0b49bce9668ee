import type { ExportRequest } from '#protocols/otlp'

export type Resource = ExportRequest['resourceMetrics'][number]

/** A count that has run since `sinceMs`, with the attributes that say of what. */
export interface Count {
  readonly name: string
  readonly attributes: Readonly<Record<string, string>>
  readonly value: number
  readonly sinceMs: number
}

/** A value with the attributes that say of what. */
export interface Gauge {
  readonly name: string
  readonly attributes: Readonly<Record<string, string>>
  readonly value: number
}

/** One gear as a resource, with its gauges and counts at one instant. */
export function resource(
  atMs: number,
  attributes: Record<string, string>,
  values: Record<string, number | null>,
  {
    counts = [],
    gauges = [],
  }: { readonly counts?: readonly Count[]; readonly gauges?: readonly Gauge[] } = {},
): Resource {
  const timeUnixNano = nanos(atMs)
  return {
    resource: { attributes: attributeList(attributes) },
    scopeMetrics: [
      {
        metrics: [
          ...Object.entries(values).flatMap(([name, asDouble]) =>
            asDouble === null
              ? []
              : [{ name, unit: '', gauge: { dataPoints: [{ timeUnixNano, asDouble, attributes: [] }] } }],
          ),
          ...gauges.map(({ name, value, attributes: of }) => ({
            name,
            unit: '1',
            gauge: { dataPoints: [{ timeUnixNano, asDouble: value, attributes: attributeList(of) }] },
          })),
          ...counts.map((count) => ({
            name: count.name,
            unit: 'By',
            sum: {
              aggregationTemporality: 2,
              isMonotonic: true,
              dataPoints: [
                {
                  timeUnixNano,
                  startTimeUnixNano: nanos(count.sinceMs),
                  asInt: String(count.value),
                  attributes: attributeList(count.attributes),
                },
              ],
            },
          })),
        ],
      },
    ],
  }
}

const nanos = (atMs: number): string => (BigInt(atMs) * 1_000_000n).toString()

const attributeList = (attributes: Readonly<Record<string, string>>) =>
  Object.entries(attributes).map(([key, stringValue]) => ({ key, value: { stringValue } }))
