import { z } from 'zod'
import * as schema from './schema.ts'

/** What an enclosure says, by the older resources (Thermal, Power) or by the newer ones (subsystems, sensors). */
export interface Enclosure {
  readonly chassis: z.infer<typeof schema.chassis>
  readonly thermal: z.infer<typeof schema.thermal> | null
  readonly power: z.infer<typeof schema.power> | null
  readonly fans: readonly z.infer<typeof schema.fan>[]
  readonly temperatures: z.infer<typeof schema.thermalMetrics> | null
  readonly supplies: readonly Metered<typeof schema.supply, typeof schema.supplyMetrics>[]
  readonly batteries: readonly Metered<typeof schema.battery, typeof schema.batteryMetrics>[]
  readonly sensors: readonly z.infer<typeof schema.sensor>[]
  readonly leaks: readonly z.infer<typeof schema.leakDetector>[]
  readonly environment: z.infer<typeof schema.environment> | null
}

export interface Metered<Of extends z.ZodType, Metrics extends z.ZodType> {
  readonly of: z.infer<Of>
  readonly metrics: z.infer<Metrics> | null
}

export interface DriveTree {
  readonly of: z.infer<typeof schema.drive>
  readonly metrics: z.infer<typeof schema.driveMetrics> | null
  readonly environment: z.infer<typeof schema.environment> | null
}

export interface SystemTree {
  readonly system: z.infer<typeof schema.system>
  readonly processors: readonly z.infer<typeof schema.processor>[]
  readonly memory: readonly z.infer<typeof schema.memoryModule>[]
  readonly drives: readonly DriveTree[]
  readonly managers: readonly z.infer<typeof schema.manager>[]
  readonly ethernets: readonly z.infer<typeof schema.ethernet>[]
  /** By `@odata.id`. */
  readonly enclosures: readonly string[]
}

export interface StorageTree {
  readonly system: z.infer<typeof schema.storageSystem>
  readonly drives: readonly DriveTree[]
  readonly controllers: readonly z.infer<typeof schema.storageController>[]
  readonly pools: readonly z.infer<typeof schema.storagePool>[]
  readonly volumes: readonly z.infer<typeof schema.volume>[]
  /** By `@odata.id`. */
  readonly enclosures: readonly string[]
}

export interface DistributionTree {
  readonly unit: z.infer<typeof schema.powerDistribution>
  readonly outlets: readonly z.infer<typeof schema.circuit>[]
  readonly mains: readonly z.infer<typeof schema.circuit>[]
  readonly metrics: z.infer<typeof schema.distributionMetrics> | null
}

export interface CoolingTree {
  readonly unit: z.infer<typeof schema.coolingUnit>
  readonly pumps: readonly z.infer<typeof schema.pump>[]
  readonly connectors: readonly z.infer<typeof schema.coolantConnector>[]
  readonly leaks: readonly z.infer<typeof schema.leakDetector>[]
  readonly environment: z.infer<typeof schema.environment> | null
}

export interface RedfishTree {
  readonly systems: readonly SystemTree[]
  readonly arrays: readonly StorageTree[]
  readonly enclosures: ReadonlyMap<string, Enclosure>
  readonly distributions: readonly DistributionTree[]
  readonly cooling: readonly CoolingTree[]
}

/** Fetches one document by its URI; rejects as its transport likes. */
export type Get = (path: string) => Promise<unknown>

/** A document that does not have the shape its schema promises. */
export class ShapeError extends Error {}

/** A link leads to a document that is not there. Services have such links; what is below them is passed over. */
export class MissingDocument extends Error {}

type Link = z.infer<typeof schema.link> | null | undefined

const MOST_PAGES = 50

/**
 * Follows the links of a Redfish service from its root to every part of every system, chassis, power distribution unit
 * and cooling unit.
 * Paths are never guessed: only `/redfish/v1/` is given by the specification (DSP0266 §6.2), the rest comes from links.
 * @throws ShapeError when a document has not the promised shape; whatever `get` throws goes through.
 */
export async function walk(get: Get): Promise<RedfishTree> {
  const root = parse(schema.serviceRoot, await get('/redfish/v1/'), '/redfish/v1/')
  if (
    root.Systems == null &&
    root.Storage == null &&
    root.Chassis == null &&
    root.PowerEquipment == null &&
    root.ThermalEquipment == null
  )
    throw new ShapeError(
      'the service root at /redfish/v1/ names no Systems, no Chassis, no Storage and no equipment',
    )
  const reader = new Reader(get, root.ProtocolFeaturesSupported?.ExpandQuery?.NoLinks === true)
  const systems = await Promise.all(
    (await reader.members(schema.system, root.Systems)).map((system) => systemTree(reader, system)),
  )
  const arrays = await Promise.all(
    (await reader.members(schema.storageSystem, root.Storage)).map((system) => storageTree(reader, system)),
  )
  const listed = await reader.members(schema.chassis, root.Chassis)
  const known = new Map(listed.map((chassis) => [chassis['@odata.id'], chassis]))
  for (const uri of [...systems, ...arrays].flatMap((system) => system.enclosures))
    if (!known.has(uri))
      for (const chassis of await all(reader, schema.chassis, [{ '@odata.id': uri }])) known.set(uri, chassis)
  const enclosures = new Map(
    await Promise.all(
      [...known].map(async ([uri, chassis]) => [uri, await enclosureOf(reader, chassis)] as const),
    ),
  )
  return {
    systems,
    arrays,
    enclosures,
    distributions: await distributionsOf(reader, root.PowerEquipment),
    cooling: await coolingOf(reader, root.ThermalEquipment),
  }
}

class Reader {
  constructor(
    private readonly get: Get,
    private readonly canExpand: boolean,
  ) {}

  async read<Shape extends z.ZodType>(shape: Shape, path: string): Promise<z.infer<Shape>> {
    return parse(shape, await this.get(path), path)
  }

  async optional<Shape extends z.ZodType>(shape: Shape, at: Link): Promise<z.infer<Shape> | null> {
    return at == null ? null : unlessMissing(this.read(shape, at['@odata.id']))
  }

  async members<Shape extends z.ZodType>(shape: Shape, at: Link): Promise<z.infer<Shape>[]> {
    if (at == null) return []
    const found: z.infer<Shape>[] = []
    let page: string | null = this.canExpand ? `${at['@odata.id']}?$expand=.` : at['@odata.id']
    for (let pages = 0; page !== null && pages < MOST_PAGES; pages += 1) {
      const listed: z.infer<typeof schema.collection> | null = await unlessMissing(
        this.read(schema.collection, page),
      )
      if (listed === null) break
      for (const member of listed.Members) {
        const one = await unlessMissing(this.#resolve(shape, member, at['@odata.id']))
        if (one !== null) found.push(one)
      }
      page = listed['Members@odata.nextLink'] ?? null
    }
    return found
  }

  /** A member is either the whole resource (expanded) or a link to it. */
  async #resolve<Shape extends z.ZodType>(shape: Shape, member: unknown, path: string) {
    const { '@odata.id': uri } = parse(schema.link, member, path)
    const whole = typeof member === 'object' && member !== null && Object.keys(member).length > 1
    return whole ? parse(shape, member, uri) : this.read(shape, uri)
  }
}

async function unlessMissing<Result>(reading: Promise<Result>): Promise<Result | null> {
  try {
    return await reading
  } catch (error) {
    if (error instanceof MissingDocument) return null
    throw error
  }
}

/** What links lead to, without what is missing. */
async function all<Shape extends z.ZodType>(
  reader: Reader,
  shape: Shape,
  links: readonly z.infer<typeof schema.link>[],
): Promise<z.infer<Shape>[]> {
  const found = await Promise.all(links.map((at) => reader.optional(shape, at)))
  return found.filter((each) => each !== null)
}

async function systemTree(reader: Reader, system: SystemTree['system']): Promise<SystemTree> {
  const [processors, memory, stores, ethernets, managers] = await Promise.all([
    reader.members(schema.processor, system.Processors),
    reader.members(schema.memoryModule, system.Memory),
    reader.members(schema.storage, system.Storage),
    reader.members(schema.ethernet, system.EthernetInterfaces),
    all(reader, schema.manager, system.Links?.ManagedBy ?? []),
  ])
  const driveLinks = stores.flatMap((store) => store.Drives ?? [])
  const drives = await drivesOf(reader, driveLinks)
  const enclosures = (system.Links?.Chassis ?? []).map((at) => at['@odata.id'])
  return { system, processors, memory, drives, managers, ethernets, enclosures }
}

async function drivesOf(reader: Reader, links: readonly z.infer<typeof schema.link>[]): Promise<DriveTree[]> {
  const drives = await all(reader, schema.drive, links)
  return Promise.all(
    drives.map(async (of) => ({
      of,
      metrics: await reader.optional(schema.driveMetrics, of.Metrics),
      environment: await reader.optional(schema.environment, of.EnvironmentMetrics),
    })),
  )
}

async function storageTree(reader: Reader, system: StorageTree['system']): Promise<StorageTree> {
  const [drives, controllers, pools, volumes] = await Promise.all([
    drivesOf(reader, system.Drives ?? []),
    reader.members(schema.storageController, system.Controllers),
    reader.members(schema.storagePool, system.StoragePools),
    reader.members(schema.volume, system.Volumes),
  ])
  const enclosures = (system.Links?.Enclosures ?? []).map((at) => at['@odata.id'])
  return { system, drives, controllers, pools, volumes, enclosures }
}

async function enclosureOf(reader: Reader, chassis: Enclosure['chassis']): Promise<Enclosure> {
  const [heat, feed, sensors, environment] = await Promise.all([
    reader.optional(schema.thermalSubsystem, chassis.ThermalSubsystem),
    reader.optional(schema.powerSubsystem, chassis.PowerSubsystem),
    reader.members(schema.sensor, chassis.Sensors),
    reader.optional(schema.environment, chassis.EnvironmentMetrics),
  ])
  // What is there in the newer form is not read in the older one, too.
  const [thermal, power, fans, temperatures, leaks, supplies, batteries] = await Promise.all([
    heat === null ? reader.optional(schema.thermal, chassis.Thermal) : null,
    feed === null ? reader.optional(schema.power, chassis.Power) : null,
    reader.members(schema.fan, heat?.Fans),
    reader.optional(schema.thermalMetrics, heat?.ThermalMetrics),
    leaksOf(reader, heat?.LeakDetection, chassis.LeakDetectors),
    metered(reader, { of: schema.supply, metrics: schema.supplyMetrics }, feed?.PowerSupplies),
    metered(reader, { of: schema.battery, metrics: schema.batteryMetrics }, feed?.Batteries),
  ])
  return { chassis, thermal, power, fans, temperatures, supplies, batteries, sensors, leaks, environment }
}

async function leaksOf(reader: Reader, detection: Link, direct: Link): Promise<Enclosure['leaks']> {
  const found = await reader.optional(schema.leakDetection, detection)
  return reader.members(schema.leakDetector, found?.LeakDetectors ?? direct)
}

async function metered<Of extends z.ZodType<{ Metrics?: Link }>, Metrics extends z.ZodType>(
  reader: Reader,
  shapes: { of: Of; metrics: Metrics },
  at: Link,
): Promise<Metered<Of, Metrics>[]> {
  const found = await reader.members(shapes.of, at)
  return Promise.all(
    found.map(async (of) => ({ of, metrics: await reader.optional(shapes.metrics, of.Metrics) })),
  )
}

async function distributionsOf(reader: Reader, at: Link): Promise<DistributionTree[]> {
  const equipment = await reader.optional(schema.powerEquipment, at)
  const units = (
    await Promise.all(
      [equipment?.RackPDUs, equipment?.FloorPDUs].map((each) =>
        reader.members(schema.powerDistribution, each),
      ),
    )
  ).flat()
  return Promise.all(
    units.map(async (unit) => {
      const [outlets, mains, metrics] = await Promise.all([
        reader.members(schema.circuit, unit.Outlets),
        reader.members(schema.circuit, unit.Mains),
        reader.optional(schema.distributionMetrics, unit.Metrics),
      ])
      return { unit, outlets, mains, metrics }
    }),
  )
}

async function coolingOf(reader: Reader, at: Link): Promise<CoolingTree[]> {
  const equipment = await reader.optional(schema.thermalEquipment, at)
  const units = (
    await Promise.all(
      [equipment?.CDUs, equipment?.HeatExchangers, equipment?.ImmersionUnits].map((each) =>
        reader.members(schema.coolingUnit, each),
      ),
    )
  ).flat()
  return Promise.all(
    units.map(async (unit) => {
      const [pumps, primary, secondary, leaks, environment] = await Promise.all([
        reader.members(schema.pump, unit.Pumps),
        reader.members(schema.coolantConnector, unit.PrimaryCoolantConnectors),
        reader.members(schema.coolantConnector, unit.SecondaryCoolantConnectors),
        leaksOf(reader, unit.LeakDetection, null),
        reader.optional(schema.environment, unit.EnvironmentMetrics),
      ])
      return { unit, pumps, connectors: [...primary, ...secondary], leaks, environment }
    }),
  )
}

function parse<Shape extends z.ZodType>(shape: Shape, document: unknown, path: string): z.infer<Shape> {
  const result = shape.safeParse(document)
  if (result.success) return result.data
  const issue = result.error.issues[0]
  const where = issue?.path.join('.') ?? ''
  throw new ShapeError(
    `${path}${where === '' ? '' : ` at ${where}`}: ${issue?.message ?? 'has an unknown shape'}`,
  )
}
