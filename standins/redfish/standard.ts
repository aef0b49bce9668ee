// What every Redfish service has, whatever it manages (DSP0266 1.20 §6, §7, §9; DSP0268 for the properties): the type and
// the name of each resource, the version object, the OData documents, the manager, and the service of sessions.

const ROOT = '/redfish/v1'
export const SESSIONS = `${ROOT}/SessionService/Sessions`
const MANAGER = `${ROOT}/Managers/1`
const OK = { State: 'Enabled', Health: 'OK' }

type Properties = Readonly<Record<string, unknown>>

interface Kind {
  /** Of the path below the root. */
  readonly at: RegExp
  readonly schema: string
  /** Of a collection none. */
  readonly version?: string
  readonly name: string
  /** What the schema requires beside id, type and name. */
  readonly required?: Properties
}

const one = (at: RegExp, schema: string, version: string, name: string, required: Properties = {}): Kind => ({
  at,
  schema,
  version,
  name,
  required,
})
const many = (at: RegExp, of: string): Kind => ({
  at,
  schema: `${of}Collection`,
  name: `${of.replaceAll(/(?<=[a-z])(?=[A-Z])/g, ' ')} Collection`,
})

const KINDS: readonly Kind[] = [
  one(/^$/, 'ServiceRoot', 'v1_15_0', 'Root Service'),
  many(/^\/Systems$/, 'ComputerSystem'),
  one(/^\/Systems\/[^/]+$/, 'ComputerSystem', 'v1_20_0', 'System', {
    SystemType: 'Physical',
    Boot: { BootSourceOverrideEnabled: 'Disabled', BootSourceOverrideTarget: 'None' },
  }),
  many(/\/Processors$/, 'Processor'),
  one(/\/Processors\/[^/]+$/, 'Processor', 'v1_18_0', 'Processor'),
  many(/\/Memory$/, 'Memory'),
  one(/\/Memory\/[^/]+$/, 'Memory', 'v1_17_0', 'Memory module'),
  many(/\/EthernetInterfaces$/, 'EthernetInterface'),
  one(/\/EthernetInterfaces\/[^/]+$/, 'EthernetInterface', 'v1_9_0', 'Network port'),
  many(/\/Storage$/, 'Storage'),
  one(/\/Drives\/[^/]+$/, 'Drive', 'v1_17_0', 'Drive'),
  one(/\/Drives\/[^/]+\/Metrics$/, 'DriveMetrics', 'v1_2_0', 'Drive metrics'),
  many(/\/Controllers$/, 'StorageController'),
  one(/\/Controllers\/[^/]+$/, 'StorageController', 'v1_7_0', 'Storage controller'),
  many(/\/StoragePools$/, 'StoragePool'),
  one(/\/StoragePools\/[^/]+$/, 'StoragePool', 'v1_9_0', 'Pool'),
  many(/\/Volumes$/, 'Volume'),
  one(/\/Volumes\/[^/]+$/, 'Volume', 'v1_10_0', 'Volume'),
  one(/\/Storage\/[^/]+$/, 'Storage', 'v1_15_0', 'Storage'),
  many(/^\/Chassis$/, 'Chassis'),
  one(/^\/Chassis\/[^/]+$/, 'Chassis', 'v1_23_0', 'Chassis', { ChassisType: 'Other' }),
  one(/\/Thermal$/, 'Thermal', 'v1_7_1', 'Thermal'),
  one(/\/Power$/, 'Power', 'v1_7_1', 'Power'),
  many(/^\/Managers$/, 'Manager'),
  one(/^\/Managers\/[^/]+$/, 'Manager', 'v1_18_0', 'Management controller'),
  one(/^\/SessionService$/, 'SessionService', 'v1_1_8', 'Sessions'),
  many(/^\/SessionService\/Sessions$/, 'Session'),
  one(/^\/SessionService\/Sessions\/[^/]+$/, 'Session', 'v1_5_0', 'Session'),
  one(/^\/PowerEquipment$/, 'PowerEquipment', 'v1_2_0', 'Power equipment'),
  many(/\/RackPDUs$/, 'PowerDistribution'),
  one(/\/RackPDUs\/[^/]+$/, 'PowerDistribution', 'v1_3_0', 'Power strip', { EquipmentType: 'RackPDU' }),
  many(/\/Outlets$/, 'Outlet'),
  one(/\/Outlets\/[^/]+$/, 'Outlet', 'v1_4_0', 'Outlet'),
  many(/\/Mains$/, 'Circuit'),
  one(/\/Mains\/[^/]+$/, 'Circuit', 'v1_7_0', 'Phase'),
  one(/\/Metrics$/, 'PowerDistributionMetrics', 'v1_3_0', 'Metrics'),
]

/** Members of arrays that are resources of their own, by the older schemas: each has its pointer (RFC 6901). */
const REFERABLE = ['Temperatures', 'Fans', 'PowerControl', 'PowerSupplies']

/**
 * A document as it goes out: with its address, type, id and name, and what its schema requires.
 * @param path without the slash at its end
 */
export function dressed(path: string, body: object): Properties {
  const below = path.slice(ROOT.length)
  const kind = KINDS.find(({ at }) => at.test(below))
  if (kind === undefined) throw new Error(`a resource at ${path} has no type`)
  const { schema, version, name, required } = kind
  const at = below === '' ? `${ROOT}/` : path
  const type = version === undefined ? `#${schema}.${schema}` : `#${schema}.${version}.${schema}`
  return {
    '@odata.id': at,
    '@odata.type': type,
    ...(version === undefined ? {} : { Id: path.slice(path.lastIndexOf('/') + 1) }),
    Name: name,
    ...required,
    ...pointed(path, body as Properties),
  }
}

const pointed = (path: string, body: Properties): Properties =>
  Object.fromEntries(
    Object.entries(body).map(([key, value]) => [
      key,
      REFERABLE.includes(key) && Array.isArray(value)
        ? (value as object[]).map((each, index) => ({ '@odata.id': `${path}#/${key}/${index}`, ...each }))
        : value,
    ]),
  )

/** What is the same in every service, by its path; `undefined` where it is another's. */
export function common(path: string): object | undefined {
  switch (path) {
    case `${ROOT}/Managers`:
      return { Members: [{ '@odata.id': MANAGER }], 'Members@odata.count': 1 }
    case MANAGER:
      return { ManagerType: 'BMC', FirmwareVersion: '5.10.30', PowerState: 'On', Status: OK }
    case `${ROOT}/SessionService`:
      return { ServiceEnabled: true, SessionTimeout: 300, Sessions: { '@odata.id': SESSIONS }, Status: OK }
    default:
      return undefined
  }
}

/** The root of a service: what it has beside what every service has. */
export const serviceRoot = (uuid: string, links: Readonly<Record<string, string>>) => ({
  Id: 'RootService',
  RedfishVersion: '1.15.0',
  UUID: uuid,
  ProtocolFeaturesSupported: { ExpandQuery: { NoLinks: true, Levels: false } },
  Managers: { '@odata.id': `${ROOT}/Managers` },
  SessionService: { '@odata.id': `${ROOT}/SessionService` },
  ...Object.fromEntries(Object.entries(links).map(([name, uri]) => [name, { '@odata.id': uri }])),
  Links: { Sessions: { '@odata.id': SESSIONS } },
})

/** The version object (DSP0266 §6.2). */
export const VERSIONS = { v1: `${ROOT}/` }

/** The OData service document (§8.4.2): the resources that the root leads to. */
export const serviceDocument = (root: Properties) => ({
  '@odata.context': `${ROOT}/$metadata`,
  value: [
    { name: 'Service', kind: 'Singleton', url: `${ROOT}/` },
    ...Object.entries(root).flatMap(([name, value]) =>
      typeof value === 'object' && value !== null && '@odata.id' in value
        ? [{ name, kind: 'Singleton', url: value['@odata.id'] }]
        : [],
    ),
  ],
})

/** The OData metadata document (§8.4.1): where the schema of each type that occurs here is published. */
export function metadataDocument(): string {
  const references = [...new Map(KINDS.map((kind) => [kind.schema, kind])).values()].map(
    ({ schema, version }) => `  <edmx:Reference Uri="http://redfish.dmtf.org/schemas/v1/${schema}_v1.xml">
    <edmx:Include Namespace="${schema}"/>${version === undefined ? '' : `\n    <edmx:Include Namespace="${schema}.${version}"/>`}
  </edmx:Reference>`,
  )
  return `<?xml version="1.0" encoding="UTF-8"?>
<edmx:Edmx xmlns:edmx="http://docs.oasis-open.org/odata/ns/edmx" Version="4.0">
${references.join('\n')}
  <edmx:DataServices>
    <Schema xmlns="http://docs.oasis-open.org/odata/ns/edm" Namespace="Service">
      <EntityContainer Name="Service" Extends="ServiceRoot.v1_15_0.ServiceContainer"/>
    </Schema>
  </edmx:DataServices>
</edmx:Edmx>
`
}
