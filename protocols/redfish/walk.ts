import { z } from 'zod'
import * as schema from './schema.ts'

export interface SystemTree {
  readonly system: z.infer<typeof schema.system>
  readonly processors: readonly z.infer<typeof schema.processor>[]
  readonly memory: readonly z.infer<typeof schema.memoryModule>[]
  readonly drives: readonly z.infer<typeof schema.drive>[]
  readonly managers: readonly z.infer<typeof schema.manager>[]
  readonly enclosures: readonly {
    readonly chassis: z.infer<typeof schema.chassis>
    readonly thermal: z.infer<typeof schema.thermal> | null
    readonly power: z.infer<typeof schema.power> | null
  }[]
}
export interface RedfishTree {
  readonly systems: readonly SystemTree[]
}

/** Fetches one document by its URI; rejects as its transport likes. */
export type Get = (path: string) => Promise<unknown>

/** A document that does not have the shape its schema promises. */
export class ShapeError extends Error {}

const MOST_PAGES = 50

/**
 * Follows the links of a Redfish service from its root to every part of every system.
 * Paths are never guessed: only `/redfish/v1/` is given by the specification (DSP0266 §6.2), the rest comes from links.
 * @throws ShapeError when a document has not the promised shape; whatever `get` throws goes through.
 */
export async function walk(get: Get): Promise<RedfishTree> {
  const read = async <Shape extends z.ZodType>(shape: Shape, path: string): Promise<z.infer<Shape>> =>
    parse(shape, await get(path), path)
  const root = await read(schema.serviceRoot, '/redfish/v1/')
  if (root.Systems == null) throw new ShapeError('the service root at /redfish/v1/ names no Systems')
  const expand = root.ProtocolFeaturesSupported?.ExpandQuery?.NoLinks === true

  async function members<Shape extends z.ZodType>(
    shape: Shape,
    at: { '@odata.id': string } | null | undefined,
  ) {
    if (at == null) return []
    const found: z.infer<Shape>[] = []
    let page: string | null = expand ? `${at['@odata.id']}?$expand=.` : at['@odata.id']
    for (let pages = 0; page !== null && pages < MOST_PAGES; pages += 1) {
      const listed: z.infer<typeof schema.collection> = await read(schema.collection, page)
      for (const member of listed.Members) found.push(await resolve(shape, member, at['@odata.id']))
      page = listed['Members@odata.nextLink'] ?? null
    }
    return found
  }
  /** A member is either the whole resource (expanded) or a link to it. */
  async function resolve<Shape extends z.ZodType>(shape: Shape, member: unknown, path: string) {
    const { '@odata.id': uri } = parse(schema.link, member, path)
    const whole = typeof member === 'object' && member !== null && Object.keys(member).length > 1
    return whole ? parse(shape, member, uri) : read(shape, uri)
  }

  const systems: SystemTree[] = []
  for (const system of await members(schema.system, root.Systems)) {
    const [processors, memory, stores] = await Promise.all([
      members(schema.processor, system.Processors),
      members(schema.memoryModule, system.Memory),
      members(schema.storage, system.Storage),
    ])
    const driveLinks = stores.flatMap((store) => store.Drives ?? [])
    const [drives, managers, enclosures] = await Promise.all([
      Promise.all(driveLinks.map((at) => read(schema.drive, at['@odata.id']))),
      Promise.all((system.Links?.ManagedBy ?? []).map((at) => read(schema.manager, at['@odata.id']))),
      Promise.all(
        (system.Links?.Chassis ?? []).map(async (at) => {
          const chassis = await read(schema.chassis, at['@odata.id'])
          const [thermal, power] = await Promise.all([
            chassis.Thermal == null ? null : read(schema.thermal, chassis.Thermal['@odata.id']),
            chassis.Power == null ? null : read(schema.power, chassis.Power['@odata.id']),
          ])
          return { chassis, thermal, power }
        }),
      ),
    ])
    systems.push({ system, processors, memory, drives, managers, enclosures })
  }
  return { systems }
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
