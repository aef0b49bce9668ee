import { z } from 'zod'

// Resources of the Redfish schema (DMTF DSP0268) as far as they are read here. Every property may be absent or null,
// as the specification allows (DSP0266 §9.6.4), and unknown ones are passed over.

const text = z.string().nullish()
const number = z.number().nullish()
const status = z.object({ State: text, Health: text }).nullish()
export const link = z.object({ '@odata.id': z.string() })
const links = z.array(link).nullish()

export const serviceRoot = z.object({
  Systems: link.nullish(),
  Storage: link.nullish(),
  Chassis: link.nullish(),
  PowerEquipment: link.nullish(),
  ThermalEquipment: link.nullish(),
  ProtocolFeaturesSupported: z
    .object({
      ExpandQuery: z.object({ NoLinks: z.boolean().nullish(), Levels: z.boolean().nullish() }).nullish(),
    })
    .nullish(),
})
export const collection = z.object({ Members: z.array(z.unknown()), 'Members@odata.nextLink': text })

export const system = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  HostName: text,
  Manufacturer: text,
  Model: text,
  SerialNumber: text,
  SKU: text,
  UUID: text,
  BiosVersion: text,
  PowerState: text,
  Status: status,
  MemorySummary: z.object({ TotalSystemMemoryGiB: number }).nullish(),
  Processors: link.nullish(),
  Memory: link.nullish(),
  Storage: link.nullish(),
  EthernetInterfaces: link.nullish(),
  Links: z.object({ Chassis: links, ManagedBy: links }).nullish(),
})
export const processor = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  Model: text,
  TotalCores: number,
  Status: status,
})
export const memoryModule = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  DeviceLocator: text,
  CapacityMiB: number,
  MemoryDeviceType: text,
  Status: status,
})
/** A port of a system (DSP0268 EthernetInterface). */
export const ethernet = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  MACAddress: text,
  PermanentMACAddress: text,
  SpeedMbps: number,
  LinkStatus: text,
  InterfaceEnabled: z.boolean().nullish(),
  Status: status,
})
export const storage = z.object({ '@odata.id': z.string(), Id: z.string(), Drives: links })
export const drive = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  Model: text,
  SerialNumber: text,
  Revision: text,
  CapacityBytes: number,
  MediaType: text,
  Protocol: text,
  FailurePredicted: z.boolean().nullish(),
  PartNumber: text,
  PredictedMediaLifeLeftPercent: number,
  /** What it is to its group (DSP0268 Drive, StatusIndicator), and whether it is a spare. */
  StatusIndicator: text,
  HotspareType: text,
  Links: z.object({ StoragePools: links, Volumes: links }).nullish(),
  Metrics: link.nullish(),
  EnvironmentMetrics: link.nullish(),
  Status: status,
})
/** What a drive has counted (DSP0268 DriveMetrics); NVMeSMART is the health page of NVM Express, field by field. */
export const driveMetrics = z.object({
  BadBlockCount: number,
  PowerOnHours: number,
  ReadIOKiBytes: number,
  WriteIOKiBytes: number,
  UncorrectableIOReadErrorCount: number,
  UncorrectableIOWriteErrorCount: number,
  NVMeSMART: z
    .object({
      AvailableSparePercent: number,
      AvailableSpareThresholdPercent: number,
      PercentageUsed: number,
      MediaAndDataIntegrityErrors: number,
      PowerCycles: number,
      PowerOnHours: number,
      UnsafeShutdowns: number,
      CompositeTemperatureCelsius: number,
      DataUnitsRead: number,
      DataUnitsWritten: number,
    })
    .nullish(),
})
/** What a pool has, how much of it is used, and how much was promised to whom stores there (DSP0268 StoragePool, Capacity). */
const capacity = z
  .object({
    IsThinProvisioned: z.boolean().nullish(),
    Data: z
      .object({
        AllocatedBytes: number,
        ConsumedBytes: number,
        GuaranteedBytes: number,
        ProvisionedBytes: number,
      })
      .nullish(),
  })
  .nullish()
/** A volume that an array gives to hosts; a thin one takes up room only as it is filled (DSP0268 Volume, Capacity). */
export const volume = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  RAIDType: text,
  CapacityBytes: number,
  Capacity: capacity,
  Status: status,
})
export const storagePool = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  SupportedRAIDTypes: z.array(z.string()).nullish(),
  Capacity: capacity,
  Status: status,
})
export const storageController = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  Model: text,
  SerialNumber: text,
  FirmwareVersion: text,
  Status: status,
})
/** What every resource that is a gear says of itself. */
const described = {
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  Manufacturer: text,
  Model: text,
  SerialNumber: text,
  UUID: text,
  Status: status,
}
export const chassis = z.object({
  ...described,
  Thermal: link.nullish(),
  Power: link.nullish(),
  ThermalSubsystem: link.nullish(),
  PowerSubsystem: link.nullish(),
  EnvironmentMetrics: link.nullish(),
  Sensors: link.nullish(),
  LeakDetectors: link.nullish(),
})

/** A sensor's value within another resource (“excerpt”, DSP0266 §9.12). */
const excerpt = z.object({ Reading: number, DataSourceUri: text }).nullish()
export const thermalSubsystem = z.object({
  Fans: link.nullish(),
  ThermalMetrics: link.nullish(),
  LeakDetection: link.nullish(),
})
export const leakDetection = z.object({ LeakDetectors: link.nullish() })
export const fan = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  SpeedPercent: z.object({ Reading: number, SpeedRPM: number, DataSourceUri: text }).nullish(),
  Status: status,
})
export const thermalMetrics = z.object({
  TemperatureReadingsCelsius: z
    .array(z.object({ Reading: number, DeviceName: text, DataSourceUri: text, PhysicalContext: text }))
    .nullish(),
})
export const leakDetector = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  DetectorState: text,
  Status: status,
})
export const powerSubsystem = z.object({ PowerSupplies: link.nullish(), Batteries: link.nullish() })
export const supply = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  Model: text,
  SerialNumber: text,
  FirmwareVersion: text,
  Status: status,
  Metrics: link.nullish(),
})
export const supplyMetrics = z.object({
  InputVoltage: excerpt,
  InputPowerWatts: excerpt,
  OutputPowerWatts: excerpt,
  TemperatureCelsius: excerpt,
})
export const battery = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  Status: status,
  Metrics: link.nullish(),
})
export const batteryMetrics = z.object({ ChargePercent: excerpt, TemperatureCelsius: excerpt })
export const environment = z.object({
  TemperatureCelsius: excerpt,
  HumidityPercent: excerpt,
  PowerWatts: excerpt,
})
export const sensor = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  Reading: number,
  ReadingType: text,
  ReadingUnits: text,
  PhysicalContext: text,
  Status: status,
})

export const powerEquipment = z.object({ RackPDUs: link.nullish(), FloorPDUs: link.nullish() })
/** A storage system of its own: no computer's, but an array (DSP0268 Storage, at the service root). */
export const storageSystem = z.object({
  ...described,
  Drives: links,
  Controllers: link.nullish(),
  StoragePools: link.nullish(),
  Volumes: link.nullish(),
  Links: z.object({ Enclosures: links }).nullish(),
})
export const powerDistribution = z.object({
  ...described,
  FirmwareVersion: text,
  Outlets: link.nullish(),
  Mains: link.nullish(),
  Metrics: link.nullish(),
  Sensors: link.nullish(),
})
export const distributionMetrics = z.object({ PowerWatts: excerpt, EnergykWh: excerpt })
/** An outlet or a circuit (DSP0268 Outlet, Circuit). */
export const circuit = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  PowerState: text,
  /** What hangs on it, and what feeds it, by name. */
  ElectricalConsumerNames: z.array(text).nullish(),
  ElectricalSourceName: text,
  Voltage: excerpt,
  CurrentAmps: excerpt,
  PowerWatts: excerpt,
  EnergykWh: excerpt,
  Status: status,
})

export const thermalEquipment = z.object({
  CDUs: link.nullish(),
  HeatExchangers: link.nullish(),
  ImmersionUnits: link.nullish(),
})
export const coolingUnit = z.object({
  ...described,
  FirmwareVersion: text,
  Pumps: link.nullish(),
  PrimaryCoolantConnectors: link.nullish(),
  SecondaryCoolantConnectors: link.nullish(),
  LeakDetection: link.nullish(),
  EnvironmentMetrics: link.nullish(),
})
export const pump = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  PumpSpeedPercent: z.object({ Reading: number, SpeedRPM: number }).nullish(),
  Status: status,
})
export const coolantConnector = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  Name: text,
  SupplyTemperatureCelsius: excerpt,
  ReturnTemperatureCelsius: excerpt,
  Status: status,
})
export const thermal = z.object({
  Temperatures: z
    .array(
      z.object({
        MemberId: text,
        Name: text,
        ReadingCelsius: number,
        PhysicalContext: text,
        RelatedItem: links,
        Status: status,
      }),
    )
    .nullish(),
  Fans: z
    .array(z.object({ MemberId: text, Name: text, Reading: number, ReadingUnits: text, Status: status }))
    .nullish(),
})
export const power = z.object({
  PowerControl: z.array(z.object({ PowerConsumedWatts: number })).nullish(),
  PowerSupplies: z
    .array(
      z.object({
        MemberId: text,
        Name: text,
        Model: text,
        SerialNumber: text,
        FirmwareVersion: text,
        LineInputVoltage: number,
        PowerOutputWatts: number,
        LastPowerOutputWatts: number,
        Status: status,
      }),
    )
    .nullish(),
})
export const manager = z.object({ '@odata.id': z.string(), FirmwareVersion: text })

export type Status = z.infer<typeof status>
