import type { ExportRequest } from '#protocols/otlp'
import type { SimHypervisor } from '../model/hypervisor.ts'

type Resource = ExportRequest['resourceMetrics'][number]

/** Everything the host, its machines and its stores measure at one instant, as an OTLP metrics request. */
export function hypervisorPayload(sim: SimHypervisor, atMs: number): ExportRequest {
  const { spec } = sim
  const guests = sim.guestRatio(atMs)
  const own = sim.hypervisorRatio(atMs)
  const memory = sim.memoryRatio(atMs)
  const storeId = (name: string): string => spec.stores.find((store) => store.name === name)?.uuid ?? ''
  return {
    resourceMetrics: [
      resource(
        atMs,
        {
          'rack.kind': 'server',
          'host.id': spec.uuid,
          'host.name': spec.name,
          'hw.serial_number': spec.serial,
          'hw.vendor': 'Norrvik',
          'hw.model': spec.model,
          'rack.cluster': spec.cluster,
          'rack.store.ids': spec.stores.map((store) => store.uuid).join(','),
        },
        {
          'system.cpu.utilization': Number((guests + own).toFixed(4)),
          'host.cpu.guests': guests,
          'host.cpu.hypervisor': own,
          'system.memory.utilization': memory,
          'system.memory.usage': Math.round(memory * spec.memoryGiB) * 1024 ** 3,
          'system.memory.limit': spec.memoryGiB * 1024 ** 3,
        },
      ),
      ...spec.machines.map((machine) =>
        resource(
          atMs,
          {
            'rack.kind': 'machine',
            'host.id': machine.uuid,
            'host.name': machine.name,
            'rack.host.id': spec.uuid,
            'rack.store.ids': storeId(machine.store),
            'rack.processors': String(machine.processors),
          },
          {
            'hw.power.state': 1,
            'system.cpu.utilization': sim.machineRatio(machine, atMs),
            'system.memory.limit': sim.machineMemoryBytes(machine),
          },
        ),
      ),
      ...spec.stores.map((store) => {
        const ratio = sim.storeRatio(store, atMs)
        const capacity = sim.storeCapacityBytes(store)
        return resource(
          atMs,
          { 'rack.kind': 'store', 'host.id': store.uuid, 'host.name': store.name },
          {
            'system.filesystem.utilization': Number(ratio.toFixed(5)),
            'system.filesystem.usage': Math.round(ratio * capacity),
            'system.filesystem.limit': capacity,
          },
        )
      }),
    ],
  }
}

function resource(
  atMs: number,
  attributes: Record<string, string>,
  values: Record<string, number>,
): Resource {
  const timeUnixNano = (BigInt(atMs) * 1_000_000n).toString()
  return {
    resource: {
      attributes: Object.entries(attributes).map(([key, stringValue]) => ({ key, value: { stringValue } })),
    },
    scopeMetrics: [
      {
        metrics: Object.entries(values).map(([name, asDouble]) => ({
          name,
          unit: '',
          gauge: { dataPoints: [{ timeUnixNano, asDouble, attributes: [] }] },
        })),
      },
    ],
  }
}
