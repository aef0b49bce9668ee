import type { MeasureKey } from '#core/catalogue'
import { type Collected, factsOf, healthOf, isThere, reading } from './collected.ts'
import type { Enclosure } from './walk.ts'

/** Everything of an enclosure. @param isTaken sensors that speak for something else, by `@odata.id` of what they belong to */
export function addEnclosure(
  to: Collected,
  box: Enclosure,
  isTaken: (sensor: { RelatedItem?: readonly { '@odata.id': string }[] | null | undefined }) => boolean,
): void {
  addOlder(to, box, isTaken)
  addFans(to, box)
  addSupplies(to, box)
  addTemperatures(to, box)
  addSensors(to, box)
  addLeaks(to, box.leaks)
}

/** Watts that an enclosure draws, from whichever resource tells. */
export const wattsOf = (box: Enclosure): number | null =>
  box.power?.PowerControl?.map((control) => control.PowerConsumedWatts ?? null).find(
    (watts) => watts !== null,
  ) ??
  reading(box.environment?.PowerWatts) ??
  null

type Thermal = NonNullable<Enclosure['thermal']>
type Power = NonNullable<Enclosure['power']>

/** `Thermal` and `Power`, which newer services leave out (DSP0268, deprecated since 2020.4). */
function addOlder(
  to: Collected,
  { thermal, power }: Enclosure,
  isTaken: Parameters<typeof addEnclosure>[2],
): void {
  thermal?.Temperatures?.filter((sensor) => isThere(sensor.Status) && !isTaken(sensor)).forEach(
    (sensor, index) => {
      const key = `temperature ${sensor.MemberId ?? index}`
      const facts = factsOf({ context: sensor.PhysicalContext })
      to.add(
        { key, kind: 'sensor', name: sensor.Name ?? `sensor ${index + 1}`, facts },
        { 'hw.temperature': sensor.ReadingCelsius ?? null },
      )
    },
  )
  thermal?.Fans?.forEach((fan, index) => addOlderFan(to, fan, index))
  power?.PowerSupplies?.forEach((supply, index) => addOlderSupply(to, supply, index))
}

function addOlderFan(to: Collected, fan: NonNullable<Thermal['Fans']>[number], index: number): void {
  const part = {
    key: `fan ${fan.MemberId ?? index}`,
    kind: 'fan',
    name: fan.Name ?? `Fan ${index + 1}`,
  } as const
  if (!isThere(fan.Status)) return to.addEmpty(part)
  const inRpm = fan.ReadingUnits == null || fan.ReadingUnits === 'RPM'
  to.add(
    { ...part, facts: {} },
    {
      'hw.status': healthOf(fan.Status),
      ...(inRpm
        ? { 'hw.fan.speed': fan.Reading ?? null }
        : { 'hw.fan.speed_ratio': fan.Reading == null ? null : fan.Reading / 100 }),
    },
  )
}

function addOlderSupply(
  to: Collected,
  supply: NonNullable<Power['PowerSupplies']>[number],
  index: number,
): void {
  const part = {
    key: `supply ${supply.MemberId ?? index}`,
    kind: 'supply',
    name: supply.Name ?? `Supply ${index + 1}`,
  } as const
  if (!isThere(supply.Status)) return to.addEmpty(part)
  const { Model: model, SerialNumber: serial, FirmwareVersion: firmware } = supply
  to.add(
    { ...part, facts: factsOf({ model, serial, firmware }) },
    {
      'hw.status': healthOf(supply.Status),
      'hw.power': supply.PowerOutputWatts ?? supply.LastPowerOutputWatts ?? null,
      'hw.voltage': supply.LineInputVoltage ?? null,
    },
  )
}

function addFans(to: Collected, { fans }: Enclosure): void {
  for (const fan of fans) {
    const part = { key: `fan ${fan.Id}`, kind: 'fan', name: fan.Name ?? `Fan ${fan.Id}` } as const
    if (!isThere(fan.Status)) {
      to.addEmpty(part)
      continue
    }
    to.add(
      { ...part, facts: {} },
      {
        'hw.status': healthOf(fan.Status),
        'hw.fan.speed': fan.SpeedPercent == null ? undefined : (fan.SpeedPercent.SpeedRPM ?? undefined),
        'hw.fan.speed_ratio': reading(fan.SpeedPercent, 0.01),
      },
    )
  }
}

function addSupplies(to: Collected, { supplies, batteries }: Enclosure): void {
  for (const { of, metrics } of supplies) {
    const part = { key: `supply ${of.Id}`, kind: 'supply', name: of.Name ?? `Supply ${of.Id}` } as const
    if (!isThere(of.Status)) {
      to.addEmpty(part)
      continue
    }
    to.add(
      {
        ...part,
        facts: factsOf({ model: of.Model, serial: of.SerialNumber, firmware: of.FirmwareVersion }),
      },
      {
        'hw.status': healthOf(of.Status),
        'hw.power': reading(metrics?.OutputPowerWatts) ?? reading(metrics?.InputPowerWatts),
        'hw.voltage': reading(metrics?.InputVoltage),
        'hw.temperature': reading(metrics?.TemperatureCelsius),
      },
    )
  }
  for (const { of, metrics } of batteries.filter((each) => isThere(each.of.Status)))
    to.add(
      { key: `battery ${of.Id}`, kind: 'battery', name: of.Name ?? `Battery ${of.Id}`, facts: {} },
      {
        'hw.status': healthOf(of.Status),
        'hw.battery.charge': reading(metrics?.ChargePercent, 0.01),
        'hw.temperature': reading(metrics?.TemperatureCelsius),
      },
    )
}

function addTemperatures(to: Collected, { temperatures, sensors }: Enclosure): void {
  temperatures?.TemperatureReadingsCelsius?.forEach((each, index) => {
    const sensor = sensors.find((other) => other['@odata.id'] === each.DataSourceUri)
    const name = each.DeviceName ?? sensor?.Name ?? each.PhysicalContext ?? `Temperature ${index + 1}`
    to.add(
      {
        key: `temperature ${sensor?.Id ?? each.DataSourceUri ?? each.DeviceName ?? index}`,
        kind: 'sensor',
        name,
        facts: factsOf({ context: each.PhysicalContext }),
      },
      { 'hw.temperature': each.Reading ?? null },
    )
  })
}

/** `ReadingType` of a sensor (DSP0268 Sensor): those that are measures here, in our units. */
const SENSOR_KINDS: Readonly<Record<string, { measure: MeasureKey; factor: number }>> = {
  Temperature: { measure: 'hw.temperature', factor: 1 },
  Humidity: { measure: 'hw.humidity', factor: 0.01 },
  Power: { measure: 'hw.power', factor: 1 },
  Voltage: { measure: 'hw.voltage', factor: 1 },
  Current: { measure: 'hw.current', factor: 1 },
  Frequency: { measure: 'hw.frequency', factor: 1 },
  EnergykWh: { measure: 'hw.energy', factor: 1 },
  AirFlowCMM: { measure: 'hw.airflow', factor: 60 },
}

/** Sensors that no other resource has quoted. */
function addSensors(to: Collected, box: Enclosure): void {
  const quoted = new Set(
    [
      ...box.fans.map((fan) => fan.SpeedPercent),
      ...(box.temperatures?.TemperatureReadingsCelsius ?? []),
      ...box.supplies.flatMap(({ metrics }) => Object.values(metrics ?? {})),
      ...box.batteries.flatMap(({ metrics }) => Object.values(metrics ?? {})),
      ...Object.values(box.environment ?? {}),
    ].map((excerpt) => excerpt?.DataSourceUri ?? ''),
  )
  for (const sensor of box.sensors) {
    const kind = SENSOR_KINDS[sensor.ReadingType ?? '']
    if (kind === undefined || quoted.has(sensor['@odata.id']) || !isThere(sensor.Status)) continue
    // The older resources list their temperatures themselves.
    if (box.thermal !== null && kind.measure === 'hw.temperature') continue
    to.add(
      {
        key: `sensor ${sensor.Id}`,
        kind: 'sensor',
        name: sensor.Name ?? sensor.Id,
        facts: factsOf({ context: sensor.PhysicalContext }),
      },
      { [kind.measure]: sensor.Reading == null ? null : sensor.Reading * kind.factor },
    )
  }
}

/** `DetectorState` of a leak detector (DSP0268 LeakDetector). */
const LEAKS: Readonly<Record<string, number>> = { OK: 0, Warning: 1, Critical: 2 }

export function addLeaks(to: Collected, leaks: Enclosure['leaks']): void {
  for (const leak of leaks.filter((each) => isThere(each.Status)))
    to.add(
      { key: `leak ${leak.Id}`, kind: 'leak', name: leak.Name ?? `Leak detector ${leak.Id}`, facts: {} },
      { 'hw.leak': LEAKS[leak.DetectorState ?? ''] ?? null, 'hw.status': healthOf(leak.Status) },
    )
}
