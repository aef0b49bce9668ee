import type { ExportRequest } from '#protocols/otlp'

export const MACHINES = 48
/** Of each machine: so many cores, and their mean. */
export const CORES = 20

type Attribute = ExportRequest['resourceMetrics'][number]['resource']['attributes'][number]
const attributes = (entries: Readonly<Record<string, string>>): Attribute[] =>
  Object.entries(entries).map(([key, stringValue]) => ({ key, value: { stringValue } }))

/** One instant of all machines of a sender, each core as busy as said. */
export function payload(sender: number, atMs: number, use: number): ExportRequest {
  return {
    resourceMetrics: Array.from({ length: MACHINES }, (_, machine) => ({
      resource: {
        attributes: attributes({
          'rack.kind': 'machine',
          'host.id': `6f1c2a4e-0b7d-4c55-9e10-${String(sender * 1000 + machine).padStart(12, '0')}`,
          'host.name': `calm-${sender}-${machine}`,
        }),
      },
      scopeMetrics: [
        {
          metrics: [
            {
              name: 'system.cpu.utilization',
              unit: '1',
              gauge: {
                dataPoints: Array.from({ length: CORES }, (__, core) => ({
                  timeUnixNano: `${BigInt(atMs) * 1_000_000n}`,
                  asDouble: use,
                  attributes: attributes({ 'cpu.logical_number': String(core) }),
                })),
              },
            },
          ],
        },
      ],
    })),
  }
}

export const tokenOf = (sender: number): string => `rr_bench_attack_sender_${sender}_of_ours`
