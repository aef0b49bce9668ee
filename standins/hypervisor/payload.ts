import type { ExportRequest } from '#protocols/otlp'
import type { MachineSpec, SimHypervisor, StoreSpec } from '../model/hypervisor.ts'
import type { SimServer } from '../model/server.ts'
import type { SimVolumes } from '../model/volumes.ts'
import { ARRAYS } from '../site/servers.ts'
import { ataSmartSectors, nvmeHealthPage } from './drivePages.ts'
import { type Count, type Gauge, type Resource, resource } from './resource.ts'

const GIB = 1024 ** 3

/** The pages of the drives of a host that reads them, as they are. */
function drivePages(server: SimServer, atMs: number): Gauge[] {
  const { spec, driveModel } = server
  return spec.driveLifePercent.map((_, bay) => {
    const drive = server.drive(bay, atMs)
    const counted = spec.counted?.[bay] ?? { reallocated: 0, cable: 0 }
    const page =
      driveModel.protocol === 'SATA'
        ? { kind: 'ata-smart', ...ataSmartSectors(drive, counted) }
        : { kind: 'nvme-health', data: nvmeHealthPage(drive), thresholds: null }
    return {
      name: 'rack.drive.page',
      value: 1,
      attributes: {
        'hw.id': String(bay),
        'hw.name': `d${bay}`,
        'hw.model': drive.model,
        'hw.serial_number': drive.serial,
        'hw.firmware_version': drive.firmware,
        'rack.page.kind': page.kind,
        'rack.page.data': page.data.toString('base64'),
        ...(page.thresholds === null ? {} : { 'rack.page.thresholds': page.thresholds.toString('base64') }),
      },
    }
  })
}

/** What the network adapter of a machine has counted. */
const ioCounts = (sim: SimHypervisor, machine: MachineSpec, atMs: number): Count[] =>
  (['receive', 'transmit'] as const).map((direction) => ({
    name: 'system.network.io',
    attributes: { 'network.interface.name': 'net0', 'network.io.direction': direction },
    value: sim.machineOctets(machine, direction, atMs),
    sinceMs: sim.startMs,
  }))

/** What a machine has written, over all its disks: no device is named. */
const writeCount = (sim: SimHypervisor, machine: MachineSpec, atMs: number): Count => ({
  name: 'system.disk.io',
  attributes: { 'disk.io.direction': 'write' },
  value: sim.machineOctets(machine, 'write', atMs),
  sinceMs: sim.startMs,
})

function hostResource(sim: SimHypervisor, atMs: number, server: SimServer | null): Resource {
  const { spec } = sim
  const guests = sim.guestRatio(atMs)
  const memory = sim.memoryRatio(atMs)
  return resource(
    atMs,
    {
      'rack.kind': 'server',
      'host.id': spec.uuid,
      'host.name': spec.name,
      'hw.serial_number': spec.serial,
      'hw.vendor': 'Norrvik',
      'hw.model': spec.model,
      'rack.cluster': spec.cluster,
      'rack.store.ids': spec.storesOn.join(','),
    },
    {
      'system.cpu.utilization': Number((guests + sim.hypervisorRatio(atMs)).toFixed(4)),
      'host.cpu.guests': guests,
      'host.cpu.hypervisor': sim.hypervisorRatio(atMs),
      'system.memory.utilization': memory,
      'system.memory.usage': Math.round(memory * spec.memoryGiB) * GIB,
      'system.memory.limit': spec.memoryGiB * GIB,
    },
    { gauges: server?.spec.tellsPages === true ? drivePages(server, atMs) : [] },
  )
}

const machineResource = (sim: SimHypervisor, machine: MachineSpec, atMs: number): Resource =>
  resource(
    atMs,
    {
      'rack.kind': 'machine',
      'host.id': machine.uuid,
      'host.name': machine.name,
      'rack.host.id': sim.spec.uuid,
      'rack.store.ids': sim.spec.storeIds[machine.store] ?? '',
      'rack.processors': String(machine.processors),
    },
    {
      'hw.power.state': 1,
      'system.cpu.utilization': sim.machineRatio(machine, atMs),
      'system.memory.usage': sim.machineMemoryUsedBytes(machine, atMs),
      'system.memory.limit': sim.machineMemoryBytes(machine),
      'system.filesystem.usage': sim.machineStoredBytes(machine, atMs),
    },
    { counts: [...ioCounts(sim, machine, atMs), writeCount(sim, machine, atMs)] },
  )

function storeResource(sim: SimHypervisor, store: StoreSpec, atMs: number): Resource {
  const ratio = sim.storeRatio(store, atMs)
  const capacity = sim.storeCapacityBytes(store)
  const array = ARRAYS.find(({ name }) => name === sim.spec.arrayOf[store.name])
  return resource(
    atMs,
    {
      'rack.kind': 'store',
      'host.id': store.uuid,
      'host.name': store.name,
      ...(array === undefined ? {} : { 'rack.array.serials': array.serial }),
    },
    {
      'system.filesystem.utilization': Number(ratio.toFixed(5)),
      'system.filesystem.usage': Math.round(ratio * capacity),
      'system.filesystem.limit': capacity,
    },
  )
}

/** Everything the host, its machines and its stores measure at one instant, as an OTLP metrics request. */
export function hypervisorPayload(
  sim: SimHypervisor,
  atMs: number,
  server: SimServer | null = null,
): ExportRequest {
  return {
    resourceMetrics: [
      hostResource(sim, atMs, server),
      ...sim.spec.machines.map((machine) => machineResource(sim, machine, atMs)),
      ...sim.spec.stores.map((store) => storeResource(sim, store, atMs)),
    ],
  }
}

/** What a container cluster tells of its volumes and their claims at one instant. */
export function volumesPayload(sim: SimVolumes, storeIds: readonly string[], atMs: number): ExportRequest {
  return {
    resourceMetrics: sim.spec.volumes
      .filter((volume) => sim.exists(volume, atMs))
      .map((volume) => {
        const used = sim.usedRatio(volume, atMs)
        return resource(
          atMs,
          {
            'rack.kind': 'volume',
            'host.id': volume.uuid,
            'host.name': `${volume.namespace}/${volume.name}`,
            'k8s.namespace.name': volume.namespace,
            'rack.cluster': sim.spec.name,
            ...(used === null ? {} : { 'rack.store.ids': storeIds.join(',') }),
          },
          {
            'system.volume.claim': sim.claim(volume),
            'system.filesystem.utilization': used,
            'system.filesystem.usage': used === null ? null : Math.round(used * volume.capacityBytes),
            'system.filesystem.limit': used === null ? null : volume.capacityBytes,
            'system.filesystem.inodes.utilization': sim.inodesRatio(volume, atMs),
          },
        )
      }),
  }
}
