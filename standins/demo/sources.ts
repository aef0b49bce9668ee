import type { Db } from '#db/platform'
import { insertMapping, listMappings, insertCredential, insertSource, type NewSource } from '#db/sources'
import type { SecretKey } from '#db/sources'
import { SHIPPED_MAPS } from '#protocols/modbus'
import {
  CONTROLLER_ACCOUNT,
  HYPERVISOR_TOKEN,
  PROBES_TOKEN,
  type StandinPorts,
  SWITCH_COMMUNITY,
  tokenOf,
  UPS_COMMUNITY,
  UPS_USER,
  VOLUME_TOKEN,
} from '../site/index.ts'
import { siteAuthority } from '../standins.ts'
import { PROBE_LINES } from './probeLines.ts'
import { pageAddress, type Reader } from './readers.ts'

export interface SourceOptions {
  readonly key: SecretKey
  readonly standinFolder: string
  readonly ports: StandinPorts
  readonly intervalSeconds: number
}

/** How much slower than the first ones a source is asked: what changes slowly need not be asked so often. */
const SLOWER = { server: 3, box: 6, switch: 3, probe: 3, page: 3 }

/** What the sources of the site are made from. */
interface Making {
  readonly ports: StandinPorts
  readonly intervalSeconds: number
  readonly authorityPem: string
  readonly credentials: Awaited<ReturnType<typeof insertCredentials>>
  readonly mapOf: (kind: string) => number
  readonly probeMapping: number
}

const COMMON = { settings: {}, credentialId: null, token: null }

/** Makes the source of each reader. @returns ids by the readers' names */
export async function insertSources(
  trx: Db,
  readers: readonly Reader[],
  options: SourceOptions,
): Promise<Map<string, number>> {
  const mappings = new Map((await listMappings(trx)).map(({ name, id }) => [name, id]))
  const making: Making = {
    ports: options.ports,
    intervalSeconds: options.intervalSeconds,
    authorityPem: (await siteAuthority(options.standinFolder)).certificatePem,
    credentials: await insertCredentials(trx, options),
    mapOf: (kind) => mappings.get(SHIPPED_MAPS.find(({ map }) => map.kind === kind)!.name)!,
    probeMapping: await insertMapping(trx, {
      name: 'Lichenfield wireless probes',
      protocol: 'openmetrics',
      body: PROBE_LINES,
    }),
  }
  const sources = new Map<string, number>()
  for (const { name } of readers) sources.set(name, await insertSource(trx, sourceOf(name, making)))
  return sources
}

function sourceOf(name: string, making: Making): NewSource {
  const { ports } = making
  if (ports.redfish[name] !== undefined) return controllerOf(name, ports.redfish[name], making)
  if (ports.snmp[name] !== undefined) return agentOf(name, ports.snmp[name], making)
  if (ports.modbus[name] !== undefined) return panelOf(name, ports.modbus[name], making)
  if (name in ports.web) return pageOf(name, making)
  return name.endsWith('-gateway') ? gatewayOf(name, making) : senderOf(name, making)
}

interface At {
  readonly host: string
  readonly port: number
}

function controllerOf(name: string, { host, port }: At, making: Making): NewSource {
  const { authorityPem, credentials, intervalSeconds } = making
  const isStrip = /-[AB]$/.test(name)
  const isArray = name.startsWith('skua')
  const slower = host === '127.0.0.1' ? 1 : isStrip || isArray ? SLOWER.box : SLOWER.server
  return {
    ...COMMON,
    name: `${name} ${isStrip ? 'strip' : isArray ? 'array' : 'controller'}`,
    protocol: 'redfish',
    address: `https://${host}:${port}`,
    settings: { authorityPem },
    intervalSeconds: intervalSeconds * slower,
    credentialId: credentials.controllers,
  }
}

function agentOf(name: string, { host, port }: At, { credentials, intervalSeconds }: Making): NewSource {
  const isSwitch = /^(reef|shoal)/.test(name)
  const isPlain = isSwitch || name === 'harbour-A'
  return {
    ...COMMON,
    name: isSwitch ? name : `${name} card`,
    protocol: 'snmp',
    address: `${host}:${port}`,
    settings: { version: isPlain ? 'v2c' : 'v3', authentication: 'sha256', privacy: 'aes' },
    intervalSeconds: intervalSeconds * (isSwitch ? SLOWER.switch : 1),
    credentialId: isSwitch ? credentials.switches : isPlain ? credentials.community : credentials.user,
  }
}

const panelOf = (name: string, { host, port }: At, { mapOf, intervalSeconds }: Making): NewSource => ({
  ...COMMON,
  name: `${name} panel`,
  protocol: 'modbus',
  address: `${host}:${port}`,
  settings: { unit: 1, name },
  intervalSeconds: intervalSeconds * (name === 'dynamo-1' ? SLOWER.box : 1),
  mappingId: mapOf(name === 'dynamo-1' ? 'generator' : 'cooling'),
})

const pageOf = (name: string, { ports, intervalSeconds }: Making): NewSource => ({
  ...COMMON,
  name,
  protocol: 'reach',
  address: pageAddress(ports, name),
  settings: { name, kind: name === 'recorder' ? 'recorder' : 'camera' },
  intervalSeconds: intervalSeconds * SLOWER.page,
})

function gatewayOf(name: string, making: Making): NewSource {
  const { ports, intervalSeconds, credentials, probeMapping } = making
  const isHall = name === 'hall-gateway'
  const { host, port } = isHall ? ports.hallProbes : { host: '127.0.0.1', port: ports.probes }
  return {
    ...COMMON,
    name,
    protocol: 'openmetrics',
    address: `http://${host}:${port}/metrics`,
    settings: { access: 'bearer' },
    intervalSeconds: intervalSeconds * (isHall ? SLOWER.probe : 1),
    credentialId: credentials.gateway,
    mappingId: probeMapping,
  }
}

function senderOf(name: string, { intervalSeconds }: Making): NewSource {
  const host = name.replace(/ hypervisor$/, '')
  const isCluster = host === name
  const isFirst = host === 'petrel-07'
  return {
    ...COMMON,
    name: isCluster ? `${name} cluster` : name,
    protocol: 'otlp',
    address: 'pushes from 127.0.0.1',
    intervalSeconds: intervalSeconds * (isFirst ? 1 : isCluster ? SLOWER.box : SLOWER.server),
    token: isFirst ? HYPERVISOR_TOKEN : isCluster ? VOLUME_TOKEN : tokenOf(host),
  }
}

/** Every device of the demo is on this machine. */
const DEMO_HOSTS = ['127.0.0.0/8']

async function insertCredentials(trx: Db, { key }: SourceOptions) {
  return {
    controllers: await insertCredential(trx, key, {
      name: 'controllers, read only',
      kind: 'basic',
      secret: CONTROLLER_ACCOUNT,
      hosts: DEMO_HOSTS,
    }),
    community: await insertCredential(trx, key, {
      name: 'harbour community',
      kind: 'snmp-v2c',
      secret: { community: UPS_COMMUNITY },
      hosts: DEMO_HOSTS,
    }),
    user: await insertCredential(trx, key, {
      name: 'harbour v3 user',
      kind: 'snmp-v3',
      secret: UPS_USER,
      hosts: DEMO_HOSTS,
    }),
    gateway: await insertCredential(trx, key, {
      name: 'lantern gateway token',
      kind: 'bearer',
      secret: { token: PROBES_TOKEN },
      hosts: DEMO_HOSTS,
      inClear: 'the gateway of the lantern speaks no TLS, on a wire of its own',
    }),
    switches: await insertCredential(trx, key, {
      name: 'reef community',
      kind: 'snmp-v2c',
      secret: { community: SWITCH_COMMUNITY },
      hosts: DEMO_HOSTS,
    }),
  }
}
