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
  Chassis: link.nullish(),
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
  PredictedMediaLifeLeftPercent: number,
  Status: status,
})
export const chassis = z.object({
  '@odata.id': z.string(),
  Id: z.string(),
  SerialNumber: text,
  Thermal: link.nullish(),
  Power: link.nullish(),
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
