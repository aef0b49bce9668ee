import type { Findings, LinkFinding } from '#core/gear'
import { Collected, factsOf, healthOf, isThere } from './collected.ts'
import { addDrives } from './drives.ts'
import { addEnclosure, wattsOf } from './enclosure.ts'
import { consumersOf, coolingFindings, distributionFindings } from './equipment.ts'
import { gearFrom, type OneGear } from './gear.ts'
import type { Enclosure, RedfishTree, StorageTree, SystemTree } from './walk.ts'

/**
 * Gear, parts and readings of everything that a service has. What an enclosure of one system says is the system's; an
 * enclosure of several systems, or of none, is a gear of its own that contains them. Where nothing is in a place for a
 * part (`Absent`), the part is idle.
 */
export function findingsOf(tree: RedfishTree): Findings {
  const users = new Map<string, number>()
  for (const uri of [...tree.systems, ...tree.arrays].flatMap((system) => [...new Set(system.enclosures)]))
    users.set(uri, (users.get(uri) ?? 0) + 1)
  const ofItsOwn = [...tree.enclosures.values()].filter((box) => users.get(box.chassis['@odata.id']) !== 1)
  const systems = tree.systems.map((system) =>
    systemFindings(
      system,
      [...new Set(system.enclosures)]
        .filter((uri) => users.get(uri) === 1)
        .flatMap((uri) => tree.enclosures.get(uri) ?? []),
    ),
  )
  const arrays = tree.arrays.map((array) =>
    arrayFindings(
      array,
      [...new Set(array.enclosures)]
        .filter((uri) => users.get(uri) === 1)
        .flatMap((uri) => tree.enclosures.get(uri) ?? []),
    ),
  )
  const chassis = ofItsOwn.map(chassisFindings).filter(({ gear }) => gear.parts.length > 0)
  const isGear = new Set(chassis.map(({ gear }) => gear.key))
  const links = tree.systems.flatMap(({ system, enclosures }) =>
    enclosures
      .filter((uri) => isGear.has(uri))
      .map((uri): LinkFinding => ({ kind: 'contains', from: uri, to: system['@odata.id'] })),
  )
  const all = [
    ...systems,
    ...arrays,
    ...chassis,
    ...tree.distributions.map(distributionFindings),
    ...tree.cooling.map(coolingFindings),
  ]
  const farLinks = tree.distributions.flatMap(consumersOf)
  return {
    gear: all.map(({ gear }) => gear),
    links,
    ...(farLinks.length === 0 ? {} : { farLinks }),
    readings: all.flatMap(({ readings }) => readings),
  }
}

function chassisFindings(box: Enclosure): OneGear {
  const { chassis } = box
  const to = new Collected(chassis['@odata.id'])
  addEnclosure(to, box, () => false)
  const watts = wattsOf(box)
  to.own({ 'hw.status': healthOf(chassis.Status), ...(watts === null ? {} : { 'hw.power': watts }) })
  return gearFrom('chassis', chassis, { to })
}

function systemFindings(tree: SystemTree, enclosures: readonly Enclosure[]): OneGear {
  const { system } = tree
  const to = new Collected(system['@odata.id'])
  const heats = enclosures.flatMap((box) => box.thermal?.Temperatures ?? [])
  const isOf =
    (uri: string) => (sensor: { RelatedItem?: readonly { '@odata.id': string }[] | null | undefined }) =>
      sensor.RelatedItem?.some((item) => item['@odata.id'] === uri) ?? false

  for (const cpu of tree.processors) {
    const part = { key: `processor ${cpu.Id}`, kind: 'processor', name: cpu.Name ?? cpu.Id } as const
    if (!isThere(cpu.Status)) {
      to.addEmpty(part)
      continue
    }
    const heat = heats.find(isOf(cpu['@odata.id']))
    to.add(
      { ...part, facts: factsOf({ model: cpu.Model, cores: cpu.TotalCores }) },
      {
        'hw.status': healthOf(cpu.Status),
        'hw.temperature': heat === undefined ? undefined : (heat.ReadingCelsius ?? null),
      },
    )
  }
  for (const module of tree.memory) {
    const name = module.DeviceLocator ?? module.Name ?? module.Id
    const part = { key: `memory ${module.Id}`, kind: 'memory', name } as const
    if (!isThere(module.Status)) {
      to.addEmpty(part)
      continue
    }
    to.add(
      { ...part, facts: factsOf({ type: module.MemoryDeviceType, capacityMiB: module.CapacityMiB }) },
      { 'hw.status': healthOf(module.Status) },
    )
  }
  addDrives(to, tree.drives)
  for (const port of tree.ethernets) addEthernet(to, port)
  const isOfProcessor = (sensor: Parameters<ReturnType<typeof isOf>>[0]): boolean =>
    tree.processors.some((cpu) => isOf(cpu['@odata.id'])(sensor))
  for (const box of enclosures) addEnclosure(to, box, isOfProcessor)

  const watts = enclosures.map(wattsOf).find((each) => each !== null)
  to.own({ 'hw.power.state': powerState(system.PowerState), 'hw.power': watts ?? null })
  const serial = system.SerialNumber ?? enclosures[0]?.chassis.SerialNumber
  const macs = tree.ethernets.flatMap((port) => port.PermanentMACAddress ?? port.MACAddress ?? [])
  return gearFrom(
    'server',
    { ...system, SerialNumber: serial },
    {
      identities: macs.map((value) => ({ kind: 'mac', value })),
      name: system.HostName ?? null,
      facts: factsOf({
        firmware: system.BiosVersion,
        controllerFirmware: tree.managers[0]?.FirmwareVersion,
        memoryGiB: system.MemorySummary?.TotalSystemMemoryGiB,
      }),
      to,
    },
  )
}

/** A port of a system. One that nothing is plugged into is idle. */
function addEthernet(to: Collected, port: SystemTree['ethernets'][number]): void {
  const mac = port.PermanentMACAddress ?? port.MACAddress
  const isUp = port.LinkStatus == null ? null : port.LinkStatus === 'LinkUp' ? 1 : 0
  to.add(
    {
      key: `port ${port.Id}`,
      kind: 'port',
      name: port.Name ?? port.Id,
      facts: factsOf({ mac, speedMbps: port.SpeedMbps }),
      ...(port.LinkStatus === 'NoLink' || port.InterfaceEnabled === false ? { idle: 'no link' } : {}),
    },
    { 'hw.network.up': isUp },
  )
}

const shareOf = (bytes: Bytes, of: Bytes): number | undefined =>
  of == null || bytes == null || of <= 0 ? undefined : bytes / of
type Bytes = number | null | undefined

function addPool(to: Collected, pool: StorageTree['pools'][number]): void {
  const { AllocatedBytes: limit, ConsumedBytes: used, ProvisionedBytes: promised } = pool.Capacity?.Data ?? {}
  to.add(
    {
      key: `pool ${pool.Id}`,
      kind: 'pool',
      name: pool.Name ?? pool.Id,
      facts: factsOf({ redundancy: pool.SupportedRAIDTypes?.[0] }),
    },
    {
      'hw.status': healthOf(pool.Status),
      'system.filesystem.limit': limit,
      'system.filesystem.usage': used,
      'system.filesystem.utilization': shareOf(used, limit),
      'hw.pool.promise.usage': promised,
      'hw.pool.promise.utilization': shareOf(promised, limit),
    },
  )
}

/** A volume that is not thin has taken all of its room from the first day on: that says nothing of how full it is. */
function addVolume(to: Collected, volume: StorageTree['volumes'][number]): void {
  const { IsThinProvisioned: isThin, Data: data } = volume.Capacity ?? {}
  const limit = data?.ProvisionedBytes ?? volume.CapacityBytes
  const used = data?.ConsumedBytes ?? data?.AllocatedBytes
  to.add(
    {
      key: `volume ${volume.Id}`,
      kind: 'volume',
      name: volume.Name ?? volume.Id,
      facts: factsOf({ redundancy: volume.RAIDType }),
    },
    {
      'hw.status': healthOf(volume.Status),
      'system.filesystem.limit': limit,
      ...(isThin === true
        ? { 'system.filesystem.usage': used, 'system.filesystem.utilization': shareOf(used, limit) }
        : {}),
    },
  )
}

/** An array: its enclosures, drives, controllers, pools and volumes (DSP0268 Storage, StoragePool, Volume, StorageController). */
function arrayFindings(tree: StorageTree, enclosures: readonly Enclosure[]): OneGear {
  const { system } = tree
  const to = new Collected(system['@odata.id'])
  for (const controller of tree.controllers) {
    const part = {
      key: `controller ${controller.Id}`,
      kind: 'controller',
      name: controller.Name ?? controller.Id,
    } as const
    if (!isThere(controller.Status)) {
      to.addEmpty(part)
      continue
    }
    const { Model: model, SerialNumber: serial, FirmwareVersion: firmware } = controller
    to.add(
      { ...part, facts: factsOf({ model, serial, firmware }) },
      { 'hw.status': healthOf(controller.Status) },
    )
  }
  for (const pool of tree.pools) addPool(to, pool)
  for (const volume of tree.volumes) addVolume(to, volume)
  addDrives(to, tree.drives)
  for (const box of enclosures) addEnclosure(to, box, () => false)
  const watts = enclosures.map(wattsOf).find((each) => each !== null)
  to.own({ 'hw.status': healthOf(system.Status), ...(watts == null ? {} : { 'hw.power': watts }) })
  const first = enclosures[0]?.chassis
  return gearFrom(
    'array',
    {
      ...system,
      Manufacturer: system.Manufacturer ?? first?.Manufacturer,
      Model: system.Model ?? first?.Model,
      SerialNumber: system.SerialNumber ?? first?.SerialNumber,
    },
    { facts: factsOf({ firmware: tree.controllers[0]?.FirmwareVersion }), to },
  )
}

function powerState(reported: string | null | undefined): number | null {
  if (reported === 'On' || reported === 'PoweringOff') return 1
  return reported === 'Off' || reported === 'PoweringOn' ? 0 : null
}
