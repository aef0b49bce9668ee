import type { Findings, LinkFinding } from '#core/topology'
import { Collected, factsOf, healthOf, isThere } from './collected.ts'
import { addEnclosure, wattsOf } from './enclosure.ts'
import { coolingFindings, distributionFindings } from './equipment.ts'
import { gearFrom, type OneGear } from './gear.ts'
import type { Enclosure, RedfishTree, SystemTree } from './walk.ts'

/**
 * Gear, parts and readings of everything that a service has. What an enclosure of one system says is the system's; an
 * enclosure of several systems, or of none, is a gear of its own that contains them. Where nothing is in a place for a
 * part (`Absent`), the part is idle.
 */
export function findingsOf(tree: RedfishTree): Findings {
  const users = new Map<string, number>()
  for (const uri of tree.systems.flatMap((system) => [...new Set(system.enclosures)]))
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
  const chassis = ofItsOwn.map(chassisFindings).filter(({ gear }) => gear.parts.length > 0)
  const isGear = new Set(chassis.map(({ gear }) => gear.key))
  const links = tree.systems.flatMap(({ system, enclosures }) =>
    enclosures
      .filter((uri) => isGear.has(uri))
      .map((uri): LinkFinding => ({ kind: 'contains', from: uri, to: system['@odata.id'] })),
  )
  const all = [
    ...systems,
    ...chassis,
    ...tree.distributions.map(distributionFindings),
    ...tree.cooling.map(coolingFindings),
  ]
  return { gear: all.map(({ gear }) => gear), links, readings: all.flatMap(({ readings }) => readings) }
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
  for (const drive of tree.drives) {
    const part = { key: `drive ${drive.Id}`, kind: 'drive', name: drive.Name ?? drive.Id } as const
    if (!isThere(drive.Status)) {
      to.addEmpty(part)
      continue
    }
    const left = drive.PredictedMediaLifeLeftPercent
    to.add(
      {
        ...part,
        facts: factsOf({
          model: drive.Model,
          serial: drive.SerialNumber,
          firmware: drive.Revision,
          media: drive.MediaType,
          protocol: drive.Protocol,
          capacityBytes: drive.CapacityBytes,
        }),
      },
      {
        'hw.status': healthOf(drive.Status),
        'hw.drive.predicted_failure':
          drive.FailurePredicted == null ? undefined : drive.FailurePredicted ? 1 : 0,
        'hw.drive.life_left': left == null ? undefined : left / 100,
      },
    )
  }
  const isOfProcessor = (sensor: Parameters<ReturnType<typeof isOf>>[0]): boolean =>
    tree.processors.some((cpu) => isOf(cpu['@odata.id'])(sensor))
  for (const box of enclosures) addEnclosure(to, box, isOfProcessor)

  const watts = enclosures.map(wattsOf).find((each) => each !== null)
  to.own({ 'hw.power.state': powerState(system.PowerState), 'hw.power': watts ?? null })
  const serial = system.SerialNumber ?? enclosures[0]?.chassis.SerialNumber
  return gearFrom(
    'server',
    { ...system, SerialNumber: serial },
    {
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

function powerState(reported: string | null | undefined): number | null {
  if (reported === 'On' || reported === 'PoweringOff') return 1
  return reported === 'Off' || reported === 'PoweringOn' ? 0 : null
}
