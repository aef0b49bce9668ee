import type { SimServer } from '../model/server.ts'
import { round } from '../model/noise.ts'
import { common, dressed, serviceRoot } from './standard.ts'

const SYSTEM = '/redfish/v1/Systems/1'
const CHASSIS = '/redfish/v1/Chassis/1'
export const OK = { State: 'Enabled', Health: 'OK' }
export const members = (uris: string[]) => ({
  Members: uris.map((uri) => ({ '@odata.id': uri })),
  'Members@odata.count': uris.length,
})

/** That a system can be asked to stop and to start (DSP0268, ComputerSystem.Reset). */
export const resetOf = (at: string) => ({
  '#ComputerSystem.Reset': {
    target: `${at}/Actions/ComputerSystem.Reset`,
    'ResetType@Redfish.AllowableValues': ['On', 'GracefulShutdown'],
  },
})

type Document = (path: string) => object | undefined

/** What a service answers for a path, with the members of a collection in full where that is asked for (DSP0266 §7.3.1). */
export function answered(plain: Document, path: string): unknown {
  const [, base = '', query = ''] = /^([^?]*?)\/?(?:\?(.*))?$/.exec(path) ?? []
  const whole = (at: string): unknown => {
    const body = plain(at) ?? common(at)
    return body === undefined ? undefined : dressed(at, body)
  }
  const document = whole(base)
  return query.startsWith('$expand=') && hasMembers(document)
    ? { ...document, Members: document.Members.map((member) => whole(member['@odata.id'])) }
    : document
}

/** What the controller of a server answers for a path at a time; `undefined` where nothing is. */
export const redfishDocument = (server: SimServer, path: string, atMs: number): unknown =>
  answered((base) => plainDocument(server, base, atMs), path)

const hasMembers = (document: unknown): document is { Members: { '@odata.id': string }[] } =>
  typeof document === 'object' && document !== null && 'Members' in document

function plainDocument(server: SimServer, path: string, atMs: number): object | undefined {
  const { spec } = server
  const fixed: Record<string, () => object> = {
    '/redfish/v1': () =>
      serviceRoot(spec.uuid, { Systems: '/redfish/v1/Systems', Chassis: '/redfish/v1/Chassis' }),
    '/redfish/v1/Systems': () => members([SYSTEM]),
    '/redfish/v1/Chassis': () => members([CHASSIS]),
    [SYSTEM]: () => ({
      Id: '1',
      Name: 'System',
      HostName: spec.name,
      Manufacturer: 'Norrvik',
      Model: spec.model,
      SerialNumber: spec.serial,
      UUID: spec.uuid,
      BiosVersion: server.biosVersion(),
      PowerState: server.isOn(atMs) ? 'On' : 'Off',
      Status: OK,
      Actions: resetOf(SYSTEM),
      MemorySummary: { TotalSystemMemoryGiB: spec.memoryModules * 32 },
      Processors: { '@odata.id': `${SYSTEM}/Processors` },
      Memory: { '@odata.id': `${SYSTEM}/Memory` },
      Storage: { '@odata.id': `${SYSTEM}/Storage` },
      EthernetInterfaces: { '@odata.id': `${SYSTEM}/EthernetInterfaces` },
      Links: { Chassis: [{ '@odata.id': CHASSIS }], ManagedBy: [{ '@odata.id': '/redfish/v1/Managers/1' }] },
    }),
    [`${SYSTEM}/Processors`]: () => members([0, 1].map((cpu) => `${SYSTEM}/Processors/${cpu}`)),
    [`${SYSTEM}/Memory`]: () => members(count(spec.memoryModules).map((n) => `${SYSTEM}/Memory/${n}`)),
    [`${SYSTEM}/EthernetInterfaces`]: () =>
      members((spec.ports ?? []).map((_, port) => `${SYSTEM}/EthernetInterfaces/${port}`)),
    [`${SYSTEM}/Storage`]: () => members([`${SYSTEM}/Storage/1`]),
    [`${SYSTEM}/Storage/1`]: () => ({
      Id: '1',
      Name: 'Drive cage',
      Drives: spec.driveLifePercent.map((_, bay) => ({ '@odata.id': `${SYSTEM}/Storage/1/Drives/${bay}` })),
    }),
    [CHASSIS]: () => ({
      ChassisType: 'RackMount',
      SerialNumber: spec.serial,
      Status: OK,
      Thermal: { '@odata.id': `${CHASSIS}/Thermal` },
      Power: { '@odata.id': `${CHASSIS}/Power` },
    }),
    [`${CHASSIS}/Thermal`]: () => thermal(server, atMs),
    [`${CHASSIS}/Power`]: () => power(server, atMs),
  }
  const make = fixed[path] ?? numbered(server, path, atMs)
  return make?.()
}

function numbered(server: SimServer, path: string, atMs: number): (() => object) | undefined {
  const { spec } = server
  const [, kind = '', text = ''] =
    /^\/redfish\/v1\/Systems\/1\/(Processors|Memory|EthernetInterfaces|Storage\/1\/Drives)\/(\d+)$/.exec(
      path,
    ) ?? []
  const index = Number(text)
  if (kind === 'Processors' && index < 2) {
    return () => ({ Id: text, Name: `cpu ${index}`, Model: 'Norrvik Skerry 32', TotalCores: 32, Status: OK })
  }
  if (kind === 'Memory' && index >= 1 && index <= spec.memoryModules) {
    return () => ({
      Id: text,
      Name: `Module ${index}`,
      DeviceLocator: `dimm ${index}`,
      CapacityMiB: 32_768,
      MemoryDeviceType: 'DDR5',
      Status: OK,
    })
  }
  if (kind === 'EthernetInterfaces') {
    const mac = spec.ports?.[index]
    return mac === undefined
      ? undefined
      : () => ({
          Id: text,
          Name: `nic ${index}`,
          MACAddress: mac,
          SpeedMbps: 10_000,
          LinkStatus: 'LinkUp',
          Status: OK,
        })
  }
  if (kind !== 'Storage/1/Drives' || spec.driveLifePercent[index] === undefined) return undefined
  const life = server.driveLifePercent(index, atMs)
  const fails = server.driveFails(index)
  const { model, firmware, capacityBytes, protocol } = server.driveModel
  return () => ({
    Id: text,
    Name: `d${index}`,
    Model: model,
    SerialNumber: server.driveSerial(index),
    Revision: firmware,
    CapacityBytes: capacityBytes,
    MediaType: 'SSD',
    Protocol: protocol,
    FailurePredicted: fails,
    // A drive on SATA has no word for it.
    ...(protocol === 'SATA' ? {} : { PredictedMediaLifeLeftPercent: life }),
    Status: fails ? { State: 'Enabled', Health: 'Warning' } : OK,
  })
}

function thermal(server: SimServer, atMs: number) {
  const temperature = (
    id: string,
    name: string,
    celsius: number,
    context: string,
    related: string[] = [],
  ) => ({
    MemberId: id,
    Name: name,
    ReadingCelsius: celsius,
    PhysicalContext: context,
    RelatedItem: related.map((uri) => ({ '@odata.id': uri })),
    Status: OK,
  })
  return {
    Id: 'Thermal',
    Temperatures: [
      temperature('inlet', 'inlet', server.inletCelsius(atMs), 'Intake'),
      temperature('outlet', 'outlet', server.outletCelsius(atMs), 'Exhaust'),
      ...[0, 1].map((cpu) =>
        temperature(`cpu${cpu}`, `cpu ${cpu}`, server.processorCelsius(cpu, atMs), 'CPU', [
          `${SYSTEM}/Processors/${cpu}`,
        ]),
      ),
    ],
    Fans: count(server.spec.fans).map((fan) => {
      const rpm = server.fanRpm(fan, atMs)
      return {
        MemberId: String(fan),
        Name: `Fan ${fan}`,
        Reading: rpm,
        ReadingUnits: 'RPM',
        Status: { State: 'Enabled', Health: rpm === 0 && server.isOn(atMs) ? 'Critical' : 'OK' },
      }
    }),
  }
}

function power(server: SimServer, atMs: number) {
  return {
    Id: 'Power',
    PowerControl: [{ MemberId: '0', Name: 'System power', PowerConsumedWatts: server.watts(atMs) }],
    PowerSupplies: [1, 2].map((supply) => ({
      MemberId: String(supply),
      Name: `Supply ${supply}`,
      Model: 'Voltessa P11',
      SerialNumber: `VP-${server.spec.serial.slice(-3)}${supply}`,
      FirmwareVersion: '1.4',
      LineInputVoltage: server.isSupplyPlugged(supply, atMs) ? round(230.4 + supply, 1) : 0,
      PowerOutputWatts: server.supplyWatts(supply, atMs),
      Status: { State: 'Enabled', Health: server.isSupplyPlugged(supply, atMs) ? 'OK' : 'Critical' },
    })),
  }
}

export const count = (n: number): number[] => Array.from({ length: n }, (_, index) => index + 1)

const CRITICAL = { State: 'Enabled', Health: 'Critical' }

/** Thermal of an enclosure with one sensor at its inlet: the fans, of which one that stands still is critical. */
export const enclosureThermal = (inletCelsius: number, rpms: readonly number[]) => ({
  Id: 'Thermal',
  Temperatures: [
    {
      MemberId: 'inlet',
      Name: 'inlet',
      ReadingCelsius: inletCelsius,
      PhysicalContext: 'Intake',
      Status: OK,
    },
  ],
  Fans: rpms.map((rpm, index) => ({
    MemberId: String(index + 1),
    Name: `Fan ${index + 1}`,
    Reading: rpm,
    ReadingUnits: 'RPM',
    Status: rpm === 0 ? CRITICAL : OK,
  })),
})
