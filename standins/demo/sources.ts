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

/** Makes the source of each reader. @returns ids by the readers' names */
export async function insertSources(
  trx: Db,
  readers: readonly Reader[],
  options: SourceOptions,
): Promise<Map<string, number>> {
  const { ports, intervalSeconds } = options
  const credentials = await insertCredentials(trx, options)
  const authority = await siteAuthority(options.standinFolder)
  const mappings = new Map((await listMappings(trx)).map(({ name, id }) => [name, id]))
  const mapOf = (kind: string): number =>
    mappings.get(SHIPPED_MAPS.find(({ map }) => map.kind === kind)!.name)!
  const probeMapping = await insertMapping(trx, {
    name: 'Lichenfield wireless probes',
    protocol: 'openmetrics',
    body: PROBE_LINES,
  })
  const common = { settings: {}, credentialId: null, token: null }
  const isFirst = (name: string): boolean => ports.redfish[name]?.host === '127.0.0.1'

  const sourceOf = (name: string): NewSource => {
    const redfish = ports.redfish[name]
    if (redfish !== undefined) {
      const isStrip = /-[AB]$/.test(name)
      const slower = isFirst(name) ? 1 : isStrip || name.startsWith('skua') ? SLOWER.box : SLOWER.server
      return {
        ...common,
        name: isStrip ? `${name} strip` : name.startsWith('skua') ? `${name} array` : `${name} controller`,
        protocol: 'redfish',
        address: `https://${redfish.host}:${redfish.port}`,
        settings: { authorityPem: authority.certificatePem },
        intervalSeconds: intervalSeconds * slower,
        credentialId: credentials.controllers,
      }
    }
    const snmp = ports.snmp[name]
    if (snmp !== undefined) {
      const isSwitch = /^(reef|shoal)/.test(name)
      const isPlain = isSwitch || name === 'harbour-A'
      return {
        ...common,
        name: isSwitch ? name : `${name} card`,
        protocol: 'snmp',
        address: `${snmp.host}:${snmp.port}`,
        settings: { version: isPlain ? 'v2c' : 'v3', authentication: 'sha256', privacy: 'aes' },
        intervalSeconds: intervalSeconds * (isSwitch ? SLOWER.switch : 1),
        credentialId: isSwitch ? credentials.switches : isPlain ? credentials.community : credentials.user,
      }
    }
    const modbus = ports.modbus[name]
    if (modbus !== undefined)
      return {
        ...common,
        name: `${name} panel`,
        protocol: 'modbus',
        address: `${modbus.host}:${modbus.port}`,
        settings: { unit: 1, name },
        intervalSeconds: intervalSeconds * (name === 'dynamo-1' ? SLOWER.box : 1),
        mappingId: mapOf(name === 'dynamo-1' ? 'generator' : 'cooling'),
      }
    if (name in ports.web)
      return {
        ...common,
        name,
        protocol: 'reach',
        address: pageAddress(ports, name),
        settings: { name, kind: name === 'recorder' ? 'recorder' : 'camera' },
        intervalSeconds: intervalSeconds * SLOWER.page,
      }
    if (name.endsWith('-gateway')) {
      const { host, port } =
        name === 'hall-gateway' ? ports.hallProbes : { host: '127.0.0.1', port: ports.probes }
      return {
        ...common,
        name,
        protocol: 'openmetrics',
        address: `http://${host}:${port}/metrics`,
        settings: { access: 'bearer' },
        intervalSeconds: intervalSeconds * (name === 'hall-gateway' ? SLOWER.probe : 1),
        credentialId: credentials.gateway,
        mappingId: probeMapping,
      }
    }
    const host = name.replace(/ hypervisor$/, '')
    const isFirstHost = host === 'petrel-07'
    return {
      ...common,
      name: host === name ? `${name} cluster` : name,
      protocol: 'otlp',
      address: 'pushes from 127.0.0.1',
      intervalSeconds: intervalSeconds * (isFirstHost ? 1 : host === name ? SLOWER.box : SLOWER.server),
      token: isFirstHost ? HYPERVISOR_TOKEN : host === name ? VOLUME_TOKEN : tokenOf(host),
    }
  }
  const sources = new Map<string, number>()
  for (const { name } of readers) sources.set(name, await insertSource(trx, sourceOf(name)))
  return sources
}

async function insertCredentials(trx: Db, { key }: SourceOptions) {
  return {
    controllers: await insertCredential(trx, key, {
      name: 'controllers, read only',
      kind: 'basic',
      secret: CONTROLLER_ACCOUNT,
    }),
    community: await insertCredential(trx, key, {
      name: 'harbour community',
      kind: 'snmp-v2c',
      secret: { community: UPS_COMMUNITY },
    }),
    user: await insertCredential(trx, key, { name: 'harbour v3 user', kind: 'snmp-v3', secret: UPS_USER }),
    gateway: await insertCredential(trx, key, {
      name: 'lantern gateway token',
      kind: 'bearer',
      secret: { token: PROBES_TOKEN },
    }),
    switches: await insertCredential(trx, key, {
      name: 'reef community',
      kind: 'snmp-v2c',
      secret: { community: SWITCH_COMMUNITY },
    }),
  }
}
