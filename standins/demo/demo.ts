import { insertAccount } from '#db/accounts'
import type { Db } from '#db/connect'
import { type Placement, storeFindings } from '#db/findings'
import { insertLink } from '#db/gear'
import { insertMapping, listMappings } from '#db/mappings'
import { insertRack, insertRoom, placeGearInRack } from '#db/places'
import { ensurePartitions } from '#db/readings'
import type { SecretKey } from '#db/secrets'
import { writeMailSetting, writeSite } from '#db/settings'
import { insertCredential, insertSource } from '#db/sources'
import { SHIPPED_MAPS } from '#protocols/modbus'
import { findingsOfDocument } from '#protocols/openmetrics'
import { findingsOf, walk } from '#protocols/redfish'
import { momentsOf } from '#protocols/otlp'
import { mapRegisters, spansOf } from '#core/sources'
import type { Findings } from '#core/topology'
import { readRegisters } from '../cooling/registers.ts'
import { hypervisorPayload } from '../hypervisor/payload.ts'
import type { SimCooling } from '../model/cooling.ts'
import { redfishDocument } from '../redfish/documents.ts'
import { siteAuthority, simulatedSite } from '../standins.ts'
import {
  CONTROLLER_ACCOUNT,
  COOLING,
  DEMO_PASSWORD,
  HYPERVISOR_TOKEN,
  PEOPLE,
  PLACES,
  portsFrom,
  PROBES,
  PROBES_TOKEN,
  SITE,
  TEAM,
  UPS_COMMUNITY,
  UPS_USER,
} from '../site.ts'
import { PROBE_LINES } from './probeLines.ts'
import { upsFindingsAt } from './upsHistory.ts'

export interface DemoOptions {
  readonly key: SecretKey
  readonly standinFolder: string
  readonly portBase: number
  readonly intervalSeconds: number
  readonly nowMs: number
  readonly historyMs: number
}

const HISTORY_STEP_MS = 60_000
const COOLING_MAP = SHIPPED_MAPS.find(({ map }) => map.kind === 'cooling')!

/** Loads the demo's site: people, places, sources and a stretch of history. All at once, or nothing. */
export async function loadDemo(db: Db, options: DemoOptions): Promise<void> {
  await ensurePartitions(db, options.nowMs - options.historyMs, options.nowMs + 86_400_000)
  for (const person of PEOPLE) await insertAccount(db, { ...person, password: DEMO_PASSWORD })
  await db.transaction().execute(async (trx) => {
    await writeSite(trx, { name: SITE.name, timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone })
    await writeMailSetting(trx, {
      host: '127.0.0.1',
      port: portsFrom(options.portBase).mail,
      from: TEAM.from,
      team: TEAM.name,
      to: [TEAM.to],
      username: '',
      sealedPassword: null,
      webAddress: `http://127.0.0.1:${options.portBase}/`,
    })
    const sources = await loadSources(trx, options)
    await loadHistory(trx, sources, options)
    await loadPlaces(trx)
  })
}

async function loadSources(trx: Db, options: DemoOptions): Promise<Map<string, number>> {
  const { key, intervalSeconds } = options
  const ports = portsFrom(options.portBase)
  const authority = await siteAuthority(options.standinFolder)
  const controllers = await insertCredential(trx, key, {
    name: 'controllers, read only',
    kind: 'basic',
    secret: CONTROLLER_ACCOUNT,
  })
  const community = await insertCredential(trx, key, {
    name: 'harbour community',
    kind: 'snmp-v2c',
    secret: { community: UPS_COMMUNITY },
  })
  const user = await insertCredential(trx, key, {
    name: 'harbour v3 user',
    kind: 'snmp-v3',
    secret: UPS_USER,
  })
  const sources = new Map<string, number>()
  for (const [name, port] of Object.entries(ports.controllers)) {
    const id = await insertSource(trx, {
      name: `${name} controller`,
      protocol: 'redfish',
      address: `https://127.0.0.1:${port}`,
      settings: { authorityPem: authority.certificatePem },
      intervalSeconds,
      credentialId: controllers,
      token: null,
    })
    sources.set(name, id)
  }
  for (const [name, port] of Object.entries(ports.upses)) {
    const isFirst = name === 'harbour-A'
    const id = await insertSource(trx, {
      name: `${name} card`,
      protocol: 'snmp',
      address: `127.0.0.1:${port}`,
      settings: { version: isFirst ? 'v2c' : 'v3', authentication: 'sha256', privacy: 'aes' },
      intervalSeconds,
      credentialId: isFirst ? community : user,
      token: null,
    })
    sources.set(name, id)
  }
  const hypervisor = await insertSource(trx, {
    name: 'petrel-07 hypervisor',
    protocol: 'otlp',
    address: 'pushes from 127.0.0.1',
    settings: {},
    intervalSeconds,
    credentialId: null,
    token: HYPERVISOR_TOKEN,
  })
  sources.set('hypervisor', hypervisor)
  return sources
    .set(COOLING.name, await loadCooling(trx, options))
    .set(PROBES.name, await loadProbes(trx, options))
}

async function loadCooling(trx: Db, { portBase, intervalSeconds }: DemoOptions): Promise<number> {
  const map = (await listMappings(trx)).find(({ name }) => name === COOLING_MAP.name)
  return insertSource(trx, {
    name: `${COOLING.name} panel`,
    protocol: 'modbus',
    address: `127.0.0.1:${portsFrom(portBase).cooling}`,
    settings: { unit: 1, name: COOLING.name },
    intervalSeconds,
    credentialId: null,
    mappingId: map!.id,
    token: null,
  })
}

async function loadProbes(trx: Db, { key, portBase, intervalSeconds }: DemoOptions): Promise<number> {
  const credentialId = await insertCredential(trx, key, {
    name: 'lantern gateway token',
    kind: 'bearer',
    secret: { token: PROBES_TOKEN },
  })
  const mappingId = await insertMapping(trx, {
    name: 'Lichenfield wireless probes',
    protocol: 'openmetrics',
    body: PROBE_LINES,
  })
  return insertSource(trx, {
    name: PROBES.name,
    protocol: 'openmetrics',
    address: `http://127.0.0.1:${portsFrom(portBase).probes}/metrics`,
    settings: { access: 'bearer' },
    intervalSeconds,
    credentialId,
    mappingId,
    token: null,
  })
}

/** The past as the same models give it, through the same documents and parsers as the live readings. */
async function loadHistory(
  trx: Db,
  sources: ReadonlyMap<string, number>,
  options: DemoOptions,
): Promise<void> {
  const site = simulatedSite(options.nowMs)
  const untilMs = Math.floor(options.nowMs / HISTORY_STEP_MS) * HISTORY_STEP_MS
  const readers: [string, (atMs: number) => Promise<Findings>][] = [
    ...site.servers.map((server): [string, (atMs: number) => Promise<Findings>] => [
      server.spec.name,
      async (atMs) => findingsOf(await walk((path) => Promise.resolve(redfishDocument(server, path, atMs)))),
    ]),
    ...site.upses.map((ups): [string, (atMs: number) => Promise<Findings>] => [
      ups.spec.name,
      (atMs) => Promise.resolve(upsFindingsAt(ups, atMs)),
    ]),
    [
      'hypervisor',
      (atMs) => Promise.resolve(momentsOf(hypervisorPayload(site.hypervisor, atMs))[0]!.findings),
    ],
  ]
  readers.push(
    [COOLING.name, (atMs) => Promise.resolve(coolingFindings(site.cooling, atMs))],
    [
      PROBES.name,
      (atMs) => Promise.resolve(findingsOfDocument(site.probes.metricsAt(atMs), PROBE_LINES, atMs)),
    ],
  )
  for (const [name, read] of readers) {
    const sourceId = sources.get(name)!
    let placement: Placement | null = null
    for (let atMs = untilMs - options.historyMs; atMs < untilMs; atMs += HISTORY_STEP_MS) {
      const result: { placement: Placement } = await storeFindings(
        trx,
        { sourceId, atMs, findings: await read(atMs) },
        placement,
      )
      placement = result.placement
    }
  }
}

function coolingFindings(cooling: SimCooling, atMs: number): Findings {
  const blocks = spansOf(COOLING_MAP.map, false).map((span) => readRegisters(cooling, span, atMs)!)
  return mapRegisters(blocks, COOLING_MAP.map, cooling.spec.name)
}

async function loadPlaces(trx: Db): Promise<void> {
  const roomId = await insertRoom(trx, SITE.room)
  const rackId = await insertRack(trx, { roomId, ...SITE.rack })
  const gear = await trx.selectFrom('gear').select(['id', 'name', 'kind']).execute()
  const idOf = (name: string): number | undefined => gear.find((each) => each.name === name)?.id
  for (const [name, place] of Object.entries(PLACES)) {
    const id = idOf(name)
    if (id !== undefined) await placeGearInRack(trx, id, { rackId, ...place })
  }
  for (const { id } of gear.filter((each) => each.kind === 'server')) {
    for (const feed of ['harbour-A', 'harbour-B']) {
      const ups = idOf(feed)
      if (ups !== undefined) await insertLink(trx, 'fed-by', id, ups)
    }
  }
}
