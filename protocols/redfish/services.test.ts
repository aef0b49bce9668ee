import { describe, expect, test } from 'vitest'
import { findingsOf, MissingDocument, walk } from './index.ts'

// Services built in different ways, written from the published schemas (DMTF DSP0268): member names, nesting and what is
// left out are as unlike each other as the schemas allow.

type Documents = Record<string, Record<string, unknown>>
const at = (uri: string) => ({ '@odata.id': uri })
const list = (...uris: string[]) => ({ Members: uris.map(at) })

/** Each document gets its own URI as `@odata.id`. */
async function read(documents: Documents) {
  const asked: string[] = []
  const found = findingsOf(
    await walk((path) => {
      asked.push(path)
      const document = documents[path]
      return document === undefined
        ? Promise.reject(new MissingDocument(path))
        : Promise.resolve({ '@odata.id': path, ...document })
    }),
  )
  const value = (gear: string, part: string | null, measure: string) =>
    found.readings.find((each) => each.gear === gear && each.part === part && each.measure === measure)?.value
  const parts = (gear: string) => found.gear.find((each) => each.key === gear)?.parts.map((part) => part.key)
  return { ...found, asked, value, parts }
}

describe('a chassis with two nodes that share its fans and supplies', () => {
  const twin: Documents = {
    '/redfish/v1/': { Systems: at('/redfish/v1/Systems'), Chassis: at('/redfish/v1/Chassis') },
    '/redfish/v1/Systems': list('/redfish/v1/Systems/left', '/redfish/v1/Systems/right'),
    '/redfish/v1/Systems/left': {
      Id: 'left',
      HostName: 'guillemot-1',
      UUID: '11111111-2222-4333-8444-555555555551',
      PowerState: 'On',
      Links: { Chassis: [at('/redfish/v1/Chassis/sled-l'), at('/redfish/v1/Chassis/frame')] },
    },
    '/redfish/v1/Systems/right': {
      Id: 'right',
      HostName: 'guillemot-2',
      PowerState: 'Off',
      Links: { Chassis: [at('/redfish/v1/Chassis/frame')] },
    },
    '/redfish/v1/Chassis': list('/redfish/v1/Chassis/frame', '/redfish/v1/Chassis/sled-l'),
    '/redfish/v1/Chassis/frame': {
      Id: 'frame',
      Name: 'Frame',
      SerialNumber: 'FR-1',
      Status: { Health: 'OK' },
      Thermal: at('/redfish/v1/Chassis/frame/Thermal'),
      Power: at('/redfish/v1/Chassis/frame/Power'),
    },
    '/redfish/v1/Chassis/frame/Thermal': {
      Fans: [{ MemberId: '0', Name: 'Shared fan', Reading: 9000, ReadingUnits: 'RPM' }],
    },
    '/redfish/v1/Chassis/frame/Power': {
      PowerControl: [{ PowerConsumedWatts: 731 }],
      PowerSupplies: [
        { MemberId: '0', Status: { State: 'Absent' } },
        { MemberId: '1', PowerOutputWatts: 700 },
      ],
    },
    '/redfish/v1/Chassis/sled-l': { Id: 'sled-l', Thermal: at('/redfish/v1/Chassis/sled-l/T') },
    '/redfish/v1/Chassis/sled-l/T': {
      Temperatures: [{ MemberId: 'in', Name: 'Sled inlet', ReadingCelsius: 24 }],
    },
  }
  test('of one node with two enclosures keeps their fans apart', async () => {
    const box = (id: string, rpm: number): Documents => ({
      [`/c/${id}`]: { Id: id, Thermal: at(`/c/${id}/t`) },
      [`/c/${id}/t`]: { Fans: [{ MemberId: '0', Reading: rpm }] },
    })
    const found = await read({
      '/redfish/v1/': { Systems: at('/s') },
      '/s': list('/s/1'),
      '/s/1': { Id: '1', Links: { Chassis: [at('/c/a'), at('/c/b')] } },
      ...box('a', 1000),
      ...box('b', 2000),
    })
    expect(found.parts('/s/1')).toEqual(['fan 0', 'fan 0 #2'])
    expect(found.value('/s/1', 'fan 0 #2', 'hw.fan.speed')).toBe(2000)
  })
  test('is one gear that contains two, and nothing is counted twice', async () => {
    const found = await read(twin)
    expect(found.gear.map(({ kind, name }) => [kind, name])).toEqual([
      ['server', 'guillemot-1'],
      ['server', 'guillemot-2'],
      ['chassis', 'Frame'],
    ])
    const frame = '/redfish/v1/Chassis/frame'
    expect(found.parts(frame)).toEqual(['fan 0', 'supply 0', 'supply 1'])
    expect(found.parts('/redfish/v1/Systems/left')).toEqual(['temperature in'])
    expect(found.parts('/redfish/v1/Systems/right')).toEqual([])
    expect(found.value(frame, null, 'hw.power')).toBe(731)
    expect(found.value('/redfish/v1/Systems/left', null, 'hw.power')).toBeNull()
    expect(found.links).toEqual([
      { kind: 'contains', from: frame, to: '/redfish/v1/Systems/left' },
      { kind: 'contains', from: frame, to: '/redfish/v1/Systems/right' },
    ])
    expect(found.readings.filter((each) => each.measure === 'hw.fan.speed')).toHaveLength(1)
  })
})

describe('a server in the newer form: subsystems, metrics and sensors', () => {
  const C = '/redfish/v1/Chassis/1'
  const newer: Documents = {
    '/redfish/v1/': { Systems: at('/redfish/v1/Systems'), Chassis: at('/redfish/v1/Chassis') },
    '/redfish/v1/Systems': list('/redfish/v1/Systems/A'),
    '/redfish/v1/Systems/A': { Id: 'A', Name: 'Node', Links: { Chassis: [at(C)] } },
    '/redfish/v1/Chassis': list(C),
    [C]: {
      Id: '1',
      SerialNumber: 'NW-77',
      // Both forms are offered: the newer one is read, and not both.
      Thermal: at(`${C}/Thermal`),
      ThermalSubsystem: at(`${C}/ThermalSubsystem`),
      PowerSubsystem: at(`${C}/PowerSubsystem`),
      EnvironmentMetrics: at(`${C}/EnvironmentMetrics`),
      Sensors: at(`${C}/Sensors`),
    },
    [`${C}/Thermal`]: { Fans: [{ MemberId: '9', Reading: 1, ReadingUnits: 'RPM' }] },
    [`${C}/ThermalSubsystem`]: {
      Fans: at(`${C}/ThermalSubsystem/Fans`),
      ThermalMetrics: at(`${C}/ThermalSubsystem/ThermalMetrics`),
      LeakDetection: at(`${C}/ThermalSubsystem/LeakDetection`),
    },
    [`${C}/ThermalSubsystem/Fans`]: list(
      `${C}/ThermalSubsystem/Fans/Bay1`,
      `${C}/ThermalSubsystem/Fans/Bay2`,
    ),
    [`${C}/ThermalSubsystem/Fans/Bay1`]: {
      Id: 'Bay1',
      Name: 'Fan Bay 1',
      SpeedPercent: { Reading: 45, SpeedRPM: 2200, DataSourceUri: `${C}/Sensors/FanBay1` },
      Status: { State: 'Enabled', Health: 'OK' },
    },
    [`${C}/ThermalSubsystem/Fans/Bay2`]: { Id: 'Bay2', Status: { State: 'Absent' } },
    [`${C}/ThermalSubsystem/ThermalMetrics`]: {
      TemperatureReadingsCelsius: [
        { Reading: 31.5, DeviceName: 'Inlet', DataSourceUri: `${C}/Sensors/Inlet` },
      ],
    },
    [`${C}/ThermalSubsystem/LeakDetection`]: {
      LeakDetectors: at(`${C}/ThermalSubsystem/LeakDetection/Ropes`),
    },
    [`${C}/ThermalSubsystem/LeakDetection/Ropes`]: list(`${C}/ThermalSubsystem/LeakDetection/Ropes/A`),
    [`${C}/ThermalSubsystem/LeakDetection/Ropes/A`]: {
      Id: 'A',
      Name: 'Cold plate',
      DetectorState: 'Critical',
      Status: { State: 'Enabled', Health: 'Critical' },
    },
    [`${C}/PowerSubsystem`]: {
      PowerSupplies: at(`${C}/PowerSubsystem/PowerSupplies`),
      Batteries: at(`${C}/PowerSubsystem/Batteries`),
    },
    [`${C}/PowerSubsystem/PowerSupplies`]: list(`${C}/PowerSubsystem/PowerSupplies/1`),
    [`${C}/PowerSubsystem/PowerSupplies/1`]: {
      Id: '1',
      Name: 'Supply left',
      Metrics: at(`${C}/PowerSubsystem/PowerSupplies/1/Metrics`),
      Status: { State: 'Enabled', Health: 'Warning' },
    },
    [`${C}/PowerSubsystem/PowerSupplies/1/Metrics`]: {
      InputVoltage: { Reading: 229.8, DataSourceUri: `${C}/Sensors/PS1Volts` },
      OutputPowerWatts: { Reading: 312 },
    },
    [`${C}/PowerSubsystem/Batteries`]: list(`${C}/PowerSubsystem/Batteries/1`),
    [`${C}/PowerSubsystem/Batteries/1`]: {
      Id: '1',
      Metrics: at(`${C}/PowerSubsystem/Batteries/1/Metrics`),
      Status: { State: 'Enabled', Health: 'OK' },
    },
    [`${C}/PowerSubsystem/Batteries/1/Metrics`]: { ChargePercent: { Reading: 88 } },
    [`${C}/EnvironmentMetrics`]: { PowerWatts: { Reading: 344 } },
    [`${C}/Sensors`]: list(
      `${C}/Sensors/FanBay1`,
      `${C}/Sensors/Inlet`,
      `${C}/Sensors/PS1Volts`,
      `${C}/Sensors/Room`,
      `${C}/Sensors/Odd`,
      `${C}/Sensors/LinkedButGone`,
    ),
    [`${C}/Sensors/FanBay1`]: { Id: 'FanBay1', ReadingType: 'Percent', Reading: 45 },
    [`${C}/Sensors/Inlet`]: { Id: 'Inlet', ReadingType: 'Temperature', Reading: 31.5 },
    [`${C}/Sensors/PS1Volts`]: { Id: 'PS1Volts', ReadingType: 'Voltage', Reading: 229.8 },
    [`${C}/Sensors/Room`]: { Id: 'Room', Name: 'Room air', ReadingType: 'Humidity', Reading: 41 },
    [`${C}/Sensors/Odd`]: { Id: 'Odd', ReadingType: 'Barometric', Reading: 101.3 },
  }
  test('is read once each, by the newer form, with what is quoted not listed again', async () => {
    const found = await read(newer)
    const node = '/redfish/v1/Systems/A'
    expect(found.gear).toHaveLength(1)
    expect(found.gear[0]?.identities).toEqual([{ kind: 'serial', value: 'NW-77' }])
    expect(found.parts(node)).toEqual([
      'fan Bay1',
      'fan Bay2',
      'supply 1',
      'battery 1',
      'temperature Inlet',
      'sensor Room',
      'leak A',
    ])
    expect(found.asked).not.toContain(`${C}/Thermal`)
    expect(found.value(node, 'fan Bay1', 'hw.fan.speed')).toBe(2200)
    expect(found.value(node, 'fan Bay1', 'hw.fan.speed_ratio')).toBeCloseTo(0.45)
    expect(found.value(node, 'supply 1', 'hw.status')).toBe(1)
    expect(found.value(node, 'supply 1', 'hw.power')).toBe(312)
    expect(found.value(node, 'supply 1', 'hw.voltage')).toBe(229.8)
    expect(found.value(node, 'battery 1', 'hw.battery.charge')).toBeCloseTo(0.88)
    expect(found.value(node, 'temperature Inlet', 'hw.temperature')).toBe(31.5)
    expect(found.value(node, 'sensor Room', 'hw.humidity')).toBeCloseTo(0.41)
    expect(found.value(node, 'leak A', 'hw.leak')).toBe(2)
    expect(found.value(node, null, 'hw.power')).toBe(344)
  })
})

describe('a power distribution unit, without a single system', () => {
  const P = '/redfish/v1/PowerEquipment/RackPDUs/1'
  const pdu: Documents = {
    '/redfish/v1/': { PowerEquipment: at('/redfish/v1/PowerEquipment') },
    '/redfish/v1/PowerEquipment': { RackPDUs: at('/redfish/v1/PowerEquipment/RackPDUs') },
    '/redfish/v1/PowerEquipment/RackPDUs': list(P),
    [P]: {
      Id: '1',
      Name: 'B04 left',
      Manufacturer: 'Voltessa',
      Model: 'Strip 24',
      SerialNumber: 'VS-9',
      Mains: at(`${P}/Mains`),
      Outlets: at(`${P}/Outlets`),
      Metrics: at(`${P}/Metrics`),
    },
    [`${P}/Metrics`]: { PowerWatts: { Reading: 2210 }, EnergykWh: { Reading: 18_220.5 } },
    [`${P}/Mains`]: list(`${P}/Mains/AC1`),
    [`${P}/Mains/AC1`]: { Id: 'AC1', Voltage: { Reading: 231.2 }, CurrentAmps: { Reading: 9.57 } },
    [`${P}/Outlets`]: {
      Members: [at(`${P}/Outlets/A1`)],
      'Members@odata.nextLink': `${P}/Outlets?$skip=1`,
    },
    [`${P}/Outlets?$skip=1`]: list(`${P}/Outlets/A2`),
    [`${P}/Outlets/A1`]: { Id: 'A1', PowerState: 'On', PowerWatts: { Reading: 301 } },
    [`${P}/Outlets/A2`]: { Id: 'A2', Name: 'Outlet A2', PowerState: 'Off', PowerWatts: { Reading: null } },
  }
  test('has its phases and outlets, over two pages', async () => {
    const found = await read(pdu)
    expect(found.gear.map(({ kind, name }) => [kind, name])).toEqual([['pdu', 'B04 left']])
    expect(found.parts(P)).toEqual(['phase AC1', 'outlet A1', 'outlet A2'])
    expect(found.value(P, 'phase AC1', 'hw.current')).toBe(9.57)
    expect(found.value(P, 'outlet A1', 'hw.outlet.state')).toBe(1)
    expect(found.value(P, 'outlet A1', 'hw.power')).toBe(301)
    expect(found.value(P, 'outlet A2', 'hw.outlet.state')).toBe(0)
    expect(found.value(P, 'outlet A2', 'hw.power')).toBeNull()
    expect(found.value(P, null, 'hw.energy')).toBe(18_220.5)
  })
})

describe('a cooling unit and a chassis of drives, with links that lead nowhere', () => {
  const U = '/redfish/v1/ThermalEquipment/CDUs/west'
  const cooling: Documents = {
    '/redfish/v1/': {
      ThermalEquipment: at('/redfish/v1/ThermalEquipment'),
      Chassis: at('/redfish/v1/Chassis'),
      Systems: at('/redfish/v1/Systems-that-are-not-there'),
    },
    '/redfish/v1/ThermalEquipment': {
      CDUs: at('/redfish/v1/ThermalEquipment/CDUs'),
      HeatExchangers: at('/redfish/v1/ThermalEquipment/HeatExchangers'),
    },
    '/redfish/v1/ThermalEquipment/CDUs': list(U),
    [U]: {
      Id: 'west',
      Pumps: at(`${U}/Pumps`),
      PrimaryCoolantConnectors: at(`${U}/Primary`),
      LeakDetection: at(`${U}/Leaks`),
    },
    [`${U}/Pumps`]: list(`${U}/Pumps/1`, `${U}/Pumps/2`),
    [`${U}/Pumps/1`]: {
      Id: '1',
      PumpSpeedPercent: { Reading: 70, SpeedRPM: 3100 },
      Status: { Health: 'OK' },
    },
    [`${U}/Pumps/2`]: { Id: '2', Status: { State: 'Absent' } },
    [`${U}/Primary`]: list(`${U}/Primary/1`),
    [`${U}/Primary/1`]: {
      Id: '1',
      Name: 'Loop',
      SupplyTemperatureCelsius: { Reading: 18.2 },
      ReturnTemperatureCelsius: { Reading: 24.9 },
    },
    [`${U}/Leaks`]: { LeakDetectors: at(`${U}/Leaks/Detectors`) },
    [`${U}/Leaks/Detectors`]: list(`${U}/Leaks/Detectors/floor`),
    [`${U}/Leaks/Detectors/floor`]: { Id: 'floor', DetectorState: 'OK' },
    '/redfish/v1/Chassis': list('/redfish/v1/Chassis/jbod'),
    '/redfish/v1/Chassis/jbod': { Id: 'jbod', Power: at('/redfish/v1/Chassis/jbod/Power') },
    '/redfish/v1/Chassis/jbod/Power': { PowerSupplies: [{ Name: 'Supply', LineInputVoltage: 230 }] },
  }
  test('are gear of their own', async () => {
    const found = await read(cooling)
    expect(found.gear.map(({ kind, name }) => [kind, name])).toEqual([
      ['chassis', 'jbod'],
      ['cooling', 'west'],
    ])
    expect(found.value(U, 'pump 1', 'hw.fan.speed')).toBe(3100)
    expect(found.gear[1]?.parts.find((part) => part.key === 'pump 2')?.idle).toBe('empty')
    expect(found.value(U, `coolant ${U}/Primary/1 supply`, 'hw.temperature')).toBe(18.2)
    expect(found.value(U, `coolant ${U}/Primary/1 return`, 'hw.temperature')).toBe(24.9)
    expect(found.value(U, 'leak floor', 'hw.leak')).toBe(0)
    expect(found.value('/redfish/v1/Chassis/jbod', 'supply 0', 'hw.voltage')).toBe(230)
  })
})

describe('a strip that says what hangs on it and what feeds it', () => {
  const strip: Documents = {
    '/redfish/v1/': { PowerEquipment: at('/redfish/v1/PowerEquipment') },
    '/redfish/v1/PowerEquipment': { RackPDUs: at('/p') },
    '/p': list('/p/1'),
    '/p/1': { Id: '1', Name: 'B04-A', Outlets: at('/o'), Mains: at('/m') },
    '/o': list('/o/1', '/o/2', '/o/3'),
    '/o/1': { Id: '1', ElectricalConsumerNames: ['petrel-05 supply 1', ' skua-1: PSU 2 ', null, ''] },
    '/o/2': { Id: '2', ElectricalConsumerNames: ['a lamp'] },
    '/o/3': { Id: '3' },
    '/m': list('/m/L1', '/m/L2'),
    '/m/L1': { Id: 'L1', ElectricalSourceName: 'harbour-A' },
    '/m/L2': { Id: 'L2', ElectricalSourceName: 'harbour-A' },
  }
  test('by name, with the supply where it is named; each feed once', async () => {
    const { farLinks } = await read(strip)
    expect(
      farLinks?.map(({ part, isFrom, far }) =>
        `${part ?? 'itself'} ${isFrom ? '→' : '←'} ${far.name} ${far.part ?? ''}`.trim(),
      ),
    ).toEqual([
      'outlet 1 ← petrel-05 supply 1',
      'outlet 1 ← skua-1 supply 2',
      'outlet 2 ← a lamp',
      'itself → harbour-A',
    ])
  })
})

describe('an array by itself', () => {
  const array: Documents = {
    '/redfish/v1/': { Storage: at('/s'), Chassis: at('/c') },
    '/s': list('/s/1'),
    '/s/1': {
      Id: '1',
      Name: 'skua-1',
      Drives: [at('/s/1/d0')],
      Controllers: at('/s/1/k'),
      StoragePools: at('/s/1/p'),
      Volumes: at('/s/1/v'),
      Links: { Enclosures: [at('/c/1')] },
      Status: { Health: 'OK' },
    },
    '/s/1/d0': { Id: '0', PartNumber: 'Q2', Links: { StoragePools: [at('/s/1/p/fast')] } },
    '/s/1/k': list('/s/1/k/A'),
    '/s/1/k/A': { Id: 'A', FirmwareVersion: '7.2', Status: { Health: 'Critical' } },
    '/s/1/p': list('/s/1/p/fast'),
    '/s/1/p/fast': {
      Id: 'fast',
      SupportedRAIDTypes: ['RAID6'],
      Capacity: { Data: { AllocatedBytes: 1000, ConsumedBytes: 250, ProvisionedBytes: 1500 } },
    },
    '/s/1/v': list('/s/1/v/thin', '/s/1/v/thick'),
    '/s/1/v/thin': {
      Id: 'thin',
      CapacityBytes: 800,
      Capacity: { IsThinProvisioned: true, Data: { ConsumedBytes: 200, AllocatedBytes: 240 } },
      Status: { Health: 'Warning' },
    },
    '/s/1/v/thick': { Id: 'thick', CapacityBytes: 500, Capacity: { Data: { ConsumedBytes: 500 } } },
    '/c': list('/c/1'),
    '/c/1': { Id: '1', SerialNumber: 'AV60', Power: at('/c/1/power') },
    '/c/1/power': { PowerControl: [{ PowerConsumedWatts: 431 }], PowerSupplies: [{ MemberId: '1' }] },
  }
  test('its enclosure is its own; drives know their pool, the pool how full it is', async () => {
    const found = await read(array)
    expect(found.gear.map(({ kind, name }) => `${kind} ${name}`)).toEqual(['array skua-1'])
    expect(found.gear[0]).toMatchObject({
      identities: [{ kind: 'serial', value: 'AV60' }],
      facts: { firmware: '7.2', serial: 'AV60' },
    })
    expect(found.parts('/s/1')).toEqual([
      'controller A',
      'pool fast',
      'volume thin',
      'volume thick',
      'drive 0',
      'supply 1',
    ])
    expect(found.gear[0]!.parts.find(({ key }) => key === 'drive 0')!.facts).toEqual({
      partNumber: 'Q2',
      pool: 'fast',
    })
    expect(found.value('/s/1', 'pool fast', 'system.filesystem.utilization')).toBe(0.25)
    expect(found.value('/s/1', 'pool fast', 'hw.pool.promise.utilization'), 'more than there is').toBe(1.5)
    expect(found.value('/s/1', 'volume thin', 'system.filesystem.utilization')).toBe(0.25)
    expect(found.value('/s/1', 'volume thin', 'hw.status')).toBe(1)
    expect(found.value('/s/1', 'volume thick', 'system.filesystem.limit')).toBe(500)
    expect(
      found.value('/s/1', 'volume thick', 'system.filesystem.utilization'),
      'it is not thin',
    ).toBeUndefined()
    expect(found.value('/s/1', 'controller A', 'hw.status')).toBe(2)
    expect(found.value('/s/1', null, 'hw.power')).toBe(431)
  })
})
