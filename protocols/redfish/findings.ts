import type { Findings, GearFinding, PartFinding, ReadingFinding } from '#core/topology'
import type { Status } from './schema.ts'
import type { RedfishTree, SystemTree } from './walk.ts'

/** Redfish `Status.Health` (DSP0268 Resource): the numbers of our measure `hw.status`. */
const HEALTH: Record<string, number> = { OK: 0, Warning: 1, Critical: 2 }

const isThere = (status: Status): boolean => status?.State !== 'Absent'
const healthOf = (status: Status): number | null => HEALTH[status?.Health ?? ''] ?? null
const facts = (entries: Record<string, string | number | null | undefined>): Record<string, string> =>
  Object.fromEntries(
    Object.entries(entries).flatMap(([key, value]) =>
      value == null || value === '' ? [] : [[key, String(value)]],
    ),
  )

/** Gear, parts and readings of every system of a service. Parts in state `Absent` (an empty bay) are left out. */
export function findingsOf(tree: RedfishTree): Findings {
  const systems = tree.systems.map(systemFindings)
  return {
    gear: systems.map((found) => found.gear),
    links: [],
    readings: systems.flatMap((found) => found.readings),
  }
}

function systemFindings(tree: SystemTree): { gear: GearFinding; readings: ReadingFinding[] } {
  const { system } = tree
  const key = system['@odata.id']
  const parts: PartFinding[] = []
  const readings: ReadingFinding[] = []
  const add = (part: PartFinding, values: Partial<Record<ReadingFinding['measure'], number | null>>) => {
    parts.push(part)
    for (const [measure, value] of Object.entries(values)) {
      readings.push({ gear: key, part: part.key, measure: measure as ReadingFinding['measure'], value })
    }
  }

  tree.processors
    .filter((cpu) => isThere(cpu.Status))
    .forEach((cpu) => {
      const heat = temperatures(tree).find((sensor) =>
        sensor.RelatedItem?.some((item) => item['@odata.id'] === cpu['@odata.id']),
      )
      add(
        {
          key: `processor ${cpu.Id}`,
          kind: 'processor',
          name: cpu.Name ?? cpu.Id,
          facts: facts({ model: cpu.Model, cores: cpu.TotalCores }),
        },
        {
          'hw.status': healthOf(cpu.Status),
          ...(heat === undefined ? {} : { 'hw.temperature': heat.ReadingCelsius ?? null }),
        },
      )
    })
  tree.memory
    .filter((module) => isThere(module.Status))
    .forEach((module) => {
      add(
        {
          key: `memory ${module.Id}`,
          kind: 'memory',
          name: module.DeviceLocator ?? module.Name ?? module.Id,
          facts: facts({ type: module.MemoryDeviceType, capacityMiB: module.CapacityMiB }),
        },
        { 'hw.status': healthOf(module.Status) },
      )
    })
  tree.drives
    .filter((drive) => isThere(drive.Status))
    .forEach((drive) => {
      const left = drive.PredictedMediaLifeLeftPercent
      add(
        {
          key: `drive ${drive.Id}`,
          kind: 'drive',
          name: drive.Name ?? drive.Id,
          facts: facts({
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
          ...(drive.FailurePredicted == null
            ? {}
            : { 'hw.drive.predicted_failure': drive.FailurePredicted ? 1 : 0 }),
          ...(left == null ? {} : { 'hw.drive.life_left': left / 100 }),
        },
      )
    })
  temperatures(tree)
    .filter((sensor) => isThere(sensor.Status) && !isOfProcessor(tree, sensor))
    .forEach((sensor, index) => {
      const name = sensor.Name ?? `sensor ${index + 1}`
      add(
        {
          key: `temperature ${sensor.MemberId ?? index}`,
          kind: 'sensor',
          name,
          facts: facts({ context: sensor.PhysicalContext }),
        },
        { 'hw.temperature': sensor.ReadingCelsius ?? null },
      )
    })
  tree.enclosures
    .flatMap((box) => box.thermal?.Fans ?? [])
    .filter((fan) => isThere(fan.Status))
    .forEach((fan, index) => {
      const inRpm = fan.ReadingUnits == null || fan.ReadingUnits === 'RPM'
      add(
        { key: `fan ${fan.MemberId ?? index}`, kind: 'fan', name: fan.Name ?? `Fan ${index + 1}`, facts: {} },
        { 'hw.status': healthOf(fan.Status), ...(inRpm ? { 'hw.fan.speed': fan.Reading ?? null } : {}) },
      )
    })
  const powers = tree.enclosures.flatMap((box) => box.power ?? [])
  powers
    .flatMap((power) => power.PowerSupplies ?? [])
    .filter((supply) => isThere(supply.Status))
    .forEach((supply, index) => {
      add(
        {
          key: `supply ${supply.MemberId ?? index}`,
          kind: 'supply',
          name: supply.Name ?? `Supply ${index + 1}`,
          facts: facts({
            model: supply.Model,
            serial: supply.SerialNumber,
            firmware: supply.FirmwareVersion,
          }),
        },
        {
          'hw.status': healthOf(supply.Status),
          'hw.power': supply.PowerOutputWatts ?? supply.LastPowerOutputWatts ?? null,
          'hw.voltage': supply.LineInputVoltage ?? null,
        },
      )
    })

  const consumed = powers
    .flatMap((power) => power.PowerControl ?? [])
    .map((control) => control.PowerConsumedWatts ?? null)
  readings.push(
    { gear: key, part: null, measure: 'hw.power.state', value: powerState(system.PowerState) },
    { gear: key, part: null, measure: 'hw.power', value: consumed.find((watts) => watts !== null) ?? null },
  )
  const serial = system.SerialNumber ?? tree.enclosures[0]?.chassis.SerialNumber
  return {
    gear: {
      key,
      kind: 'server',
      name: system.HostName || system.Name || system.Id,
      identities: [
        ...(system.UUID == null ? [] : [{ kind: 'uuid' as const, value: system.UUID }]),
        ...(serial == null ? [] : [{ kind: 'serial' as const, value: serial }]),
      ],
      facts: facts({
        maker: system.Manufacturer,
        model: system.Model,
        serial,
        firmware: system.BiosVersion,
        controllerFirmware: tree.managers[0]?.FirmwareVersion,
        memoryGiB: system.MemorySummary?.TotalSystemMemoryGiB,
      }),
      parts,
    },
    readings,
  }
}

const temperatures = (tree: SystemTree) => tree.enclosures.flatMap((box) => box.thermal?.Temperatures ?? [])

type Temperature = ReturnType<typeof temperatures>[number]

const isOfProcessor = (tree: SystemTree, sensor: Temperature): boolean =>
  sensor.RelatedItem?.some((item) => tree.processors.some((cpu) => cpu['@odata.id'] === item['@odata.id'])) ??
  false

function powerState(reported: string | null | undefined): number | null {
  if (reported === 'On' || reported === 'PoweringOff') return 1
  return reported === 'Off' || reported === 'PoweringOn' ? 0 : null
}
