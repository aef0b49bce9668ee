import type { SimChassis } from '../model/chassis.ts'
import type { SimServer } from '../model/server.ts'
import { answered, count, enclosureThermal, members, OK, resetOf } from './documents.ts'
import { serviceRoot } from './standard.ts'

const BOX = '/redfish/v1/Chassis/enclosure'
const system = (index: number): string => `/redfish/v1/Systems/${index + 1}`
const blade = (index: number): string => `/redfish/v1/Chassis/blade-${index + 1}`
const CRITICAL = { State: 'Enabled', Health: 'Critical' }

/** What the manager of a chassis answers for a path at a time: the enclosure that all share, and each blade. */
export const chassisDocument = (chassis: SimChassis, path: string, atMs: number): unknown =>
  answered((base) => documents(chassis, atMs)[base]?.(), path)

function documents(chassis: SimChassis, atMs: number): Record<string, () => object> {
  const { spec, ties } = chassis
  const all: Record<string, () => object> = {
    '/redfish/v1': () =>
      serviceRoot('7d20c1ab-5e3f-4f0a-8b01-000000000017', {
        Systems: '/redfish/v1/Systems',
        Chassis: '/redfish/v1/Chassis',
      }),
    '/redfish/v1/Systems': () => members(ties.blades.map((_, index) => system(index))),
    '/redfish/v1/Chassis': () => members([BOX, ...ties.blades.map((_, index) => blade(index))]),
    [BOX]: () => ({
      Id: 'enclosure',
      Name: spec.name,
      ChassisType: 'Enclosure',
      Manufacturer: 'Norrvik',
      Model: spec.model,
      SerialNumber: spec.serial,
      Thermal: { '@odata.id': `${BOX}/Thermal` },
      Power: { '@odata.id': `${BOX}/Power` },
      Status: OK,
    }),
    [`${BOX}/Thermal`]: () =>
      enclosureThermal(
        chassis.inletCelsius(atMs),
        count(6).map((fan) => chassis.fanRpm(fan, atMs)),
      ),
    [`${BOX}/Power`]: () => ({
      Id: 'Power',
      PowerControl: [{ MemberId: '0', PowerConsumedWatts: chassis.watts(atMs) }],
      PowerSupplies: [1, 2, 3, 4].map((supply) => ({
        MemberId: String(supply),
        Name: `Supply ${supply}`,
        Model: 'Voltessa P30',
        SerialNumber: `VP-C17${supply}`,
        PowerOutputWatts: chassis.supplyWatts(supply, atMs),
        LineInputVoltage: chassis.isSupplyFed(supply, atMs) ? 231 : 0,
        Status: chassis.isSupplyFed(supply, atMs) ? OK : CRITICAL,
      })),
    }),
  }
  ties.blades.forEach((server, index) => Object.assign(all, bladeDocuments(server, index, atMs)))
  return all
}

type Documents = Record<string, () => object>

const bladeDocuments = (server: SimServer, index: number, atMs: number): Documents => ({
  ...bladeSystem(server, index, atMs),
  ...bladeBox(server, index, atMs),
})

function bladeSystem(server: SimServer, index: number, atMs: number): Documents {
  const { spec } = server
  const [at, box] = [system(index), blade(index)]
  const processor = (cpu: number) => () => ({
    Id: String(cpu),
    Name: `cpu ${cpu}`,
    Model: 'Norrvik Skerry 32',
    TotalCores: 32,
    Status: OK,
  })
  const drive = (bay: number) => () => ({
    Id: String(bay),
    Name: `d${bay}`,
    Model: 'Aldermoor Q4 3.8T',
    SerialNumber: server.driveSerial(bay),
    Revision: 'GQ21',
    CapacityBytes: 3_840_755_982_336,
    MediaType: 'SSD',
    Protocol: 'NVMe',
    FailurePredicted: server.driveFails(bay),
    PredictedMediaLifeLeftPercent: server.driveLifePercent(bay, atMs),
    Status: OK,
  })
  return {
    [at]: () => ({
      Id: String(index + 1),
      Name: `Blade ${index + 1}`,
      HostName: spec.name,
      Manufacturer: 'Norrvik',
      Model: spec.model,
      SerialNumber: spec.serial,
      UUID: spec.uuid,
      BiosVersion: server.biosVersion(),
      PowerState: server.isOn(atMs) ? 'On' : 'Off',
      Status: OK,
      Actions: resetOf(at),
      MemorySummary: { TotalSystemMemoryGiB: spec.memoryModules * 32 },
      Processors: { '@odata.id': `${at}/Processors` },
      Storage: { '@odata.id': `${at}/Storage` },
      EthernetInterfaces: { '@odata.id': `${at}/EthernetInterfaces` },
      Links: { Chassis: [{ '@odata.id': box }, { '@odata.id': BOX }] },
    }),
    [`${at}/Processors`]: () => members([0, 1].map((cpu) => `${at}/Processors/${cpu}`)),
    [`${at}/Processors/0`]: processor(0),
    [`${at}/Processors/1`]: processor(1),
    [`${at}/Storage`]: () => members([`${at}/Storage/1`]),
    [`${at}/Storage/1`]: () => ({
      Id: '1',
      Drives: spec.driveLifePercent.map((_, bay) => ({ '@odata.id': `${at}/Storage/1/Drives/${bay}` })),
    }),
    ...Object.fromEntries(
      spec.driveLifePercent.map((_, bay) => [`${at}/Storage/1/Drives/${bay}`, drive(bay)]),
    ),
    [`${at}/EthernetInterfaces`]: () =>
      members((spec.ports ?? []).map((_, port) => `${at}/EthernetInterfaces/${port}`)),
    ...Object.fromEntries(
      (spec.ports ?? []).map((mac, port) => [
        `${at}/EthernetInterfaces/${port}`,
        () => ({
          Id: String(port),
          Name: `nic ${port}`,
          MACAddress: mac,
          SpeedMbps: 10_000,
          LinkStatus: 'LinkUp',
        }),
      ]),
    ),
  }
}

function bladeBox(server: SimServer, index: number, atMs: number): Documents {
  const { spec } = server
  const [at, box] = [system(index), blade(index)]
  return {
    [box]: () => ({
      Id: `blade-${index + 1}`,
      ChassisType: 'Blade',
      SerialNumber: spec.serial,
      Thermal: { '@odata.id': `${box}/Thermal` },
      Power: { '@odata.id': `${box}/Power` },
      Status: OK,
    }),
    [`${box}/Thermal`]: () => ({
      Id: 'Thermal',
      Temperatures: [0, 1].map((cpu) => ({
        MemberId: `cpu${cpu}`,
        Name: `cpu ${cpu}`,
        ReadingCelsius: server.processorCelsius(cpu, atMs),
        PhysicalContext: 'CPU',
        RelatedItem: [{ '@odata.id': `${at}/Processors/${cpu}` }],
        Status: OK,
      })),
    }),
    [`${box}/Power`]: () => ({
      Id: 'Power',
      PowerControl: [{ MemberId: '0', PowerConsumedWatts: server.watts(atMs) }],
    }),
  }
}
