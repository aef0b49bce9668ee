import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { z } from 'zod'
import { startControl } from './control.ts'
import { startIssuer } from './directory/server.ts'
import { generatorRegisters } from './cooling/generatorRegisters.ts'
import { startCoolingUnit, startModbus } from './cooling/server.ts'
import { hypervisorPayload, volumesPayload } from './hypervisor/payload.ts'
import { startSender } from './hypervisor/sender.ts'
import { fileJournal, type Journal, NO_JOURNAL } from './journal.ts'
import { startMailSink } from './mail/sink.ts'
import { FaultBoard } from './model/faults.ts'
import { type SimSite, simulatedSite } from './model/site.ts'
import { Outside } from './outside/server.ts'
import { startGateway } from './probes/gateway.ts'
import { arrayDocument } from './redfish/arrayDocuments.ts'
import { newAuthority, newServerCertificate, type Pair } from './redfish/authority.ts'
import { chassisDocument } from './redfish/chassisDocuments.ts'
import { redfishDocument } from './redfish/documents.ts'
import { pduDocument } from './redfish/pduDocuments.ts'
import { startService } from './redfish/server.ts'
import {
  BEAT_TOKEN,
  CONTROLLER_ACCOUNT,
  GATEWAY_TOKEN,
  HOOK_SECRET,
  HYPERVISOR_TOKEN,
  PROBES_TOKEN,
  type StandinPorts,
  SWITCH_COMMUNITY,
  tokenOf,
  UPS_COMMUNITY,
  UPS_USER,
  VOLUME_TOKEN,
} from './site/index.ts'
import { startSwitchAgent } from './snmp/switchAgent.ts'
import { startSpeaker } from './speaker.ts'
import { startUpsAgent } from './ups/agent.ts'
import { startGate } from './ups/gate.ts'
import { startPage } from './web/server.ts'

/** The authority that signs the controllers' certificates; made once and kept in the folder. */
export async function siteAuthority(folder: string): Promise<Pair> {
  const path = join(folder, 'authority.json')
  if (existsSync(path)) return JSON.parse(readFileSync(path, 'utf8')) as Pair
  mkdirSync(folder, { recursive: true })
  const made = await newAuthority('Kittiwake Sound demo authority', Date.now())
  writeFileSync(path, JSON.stringify(made), { mode: 0o600 })
  return made
}

/** When the demo began; written down at its first start, so that its stories go on from there. */
export function siteBirth(folder: string, nowMs: number): number {
  const path = join(folder, 'began.json')
  if (existsSync(path))
    return z.object({ atMs: z.number() }).parse(JSON.parse(readFileSync(path, 'utf8'))).atMs
  mkdirSync(folder, { recursive: true })
  writeFileSync(path, JSON.stringify({ atMs: nowMs }))
  return nowMs
}

export interface StandinOptions {
  readonly folder: string
  readonly ports: StandinPorts
  readonly otlpUrl: string
  readonly intervalMs: number
  readonly journalPath: string | null
  readonly startMs: number
  /** Only senders of these names; all when not given. */
  readonly senders?: readonly string[]
}

/** How often the second installation, at the light station, says that it lives. */
const BEAT_MS = 10_000

async function sendBeat(otlpUrl: string): Promise<void> {
  await fetch(new URL('/heartbeat', otlpUrl), {
    method: 'POST',
    headers: { authorization: `Bearer ${BEAT_TOKEN}` },
    body: '{"from":"the light station"}',
  }).catch(() => undefined)
}

/** What is started, and how it is stopped again. */
interface Started {
  readonly closers: (() => unknown)[]
  board(name: string, faults: FaultBoard): void
}

/** Starts every stand-in of the site. They speak over loopback sockets; nothing is passed in memory. */
export async function startStandins(options: StandinOptions): Promise<{ close(): Promise<void> }> {
  const { ports } = options
  const journal = options.journalPath === null ? NO_JOURNAL : fileJournal(options.journalPath)
  const site = simulatedSite(options.startMs)
  const boards = new Map<string, FaultBoard[]>()
  const started: Started = {
    closers: [],
    board: (name, faults) => boards.set(name, [...(boards.get(name) ?? []), faults]),
  }
  await startRedfish(site, options, journal, started)
  await startSnmp(site, options, started)
  await startOthers(site, options, started)
  startSenders(site, options, journal, started)
  const speaker = startSpeaker({
    port: ports.syslog,
    speakers: [...site.servers, ...site.upses, ...site.coolings, ...site.switches].map(
      ({ spec, faults }) => ({
        name: spec.name,
        faults,
      }),
    ),
  })
  const mailFaults = new FaultBoard(['refuse'])
  const sink = await startMailSink(ports.mail, mailFaults)
  const outside = new Outside({
    port: ports.outside,
    token: GATEWAY_TOKEN,
    secret: HOOK_SECRET,
    mails: sink.mails,
  })
  await outside.start()
  const issuer = await startIssuer(
    ports.directory,
    ['127.0.0.1', 'localhost'].map((host) => `http://${host}:${ports.application}/sign-in/directory/back`),
  )
  started.board('mail-server', mailFaults)
  started.board('text-gateway', outside.gatewayFaults)
  started.board('harbour-office', outside.hookFaults)
  const station = new FaultBoard(['silent'])
  started.board('light-station', station)
  const beating = setInterval(() => {
    if (!station.has('silent')) void sendBeat(options.otlpUrl)
  }, BEAT_MS)
  started.closers.push(() => clearInterval(beating))
  const control = await startControl(ports.control, { gear: boards, mails: sink.mails, outside })
  started.closers.push(
    () => speaker.close(),
    () => sink.close(),
    () => outside.close(),
    () => issuer.close(),
    () => control.close(),
  )
  return {
    async close() {
      for (const close of started.closers) await close()
      control.closeAllConnections()
    },
  }
}

async function startRedfish(
  site: SimSite,
  { folder, ports }: StandinOptions,
  journal: Journal,
  { closers, board }: Started,
): Promise<void> {
  const authority = await siteAuthority(folder)
  const services = [
    ...site.servers.map((sim) => ({
      sim,
      document: (path: string, atMs: number) => redfishDocument(sim, path, atMs),
      systemAt: () => sim,
    })),
    {
      sim: site.chassis,
      document: (path: string, atMs: number) => chassisDocument(site.chassis, path, atMs),
      systemAt: (path: string) => site.chassis.ties.blades[Number(path.split('/').at(-1)) - 1] ?? null,
    },
    ...site.arrays.map((sim) => ({
      sim,
      document: (path: string, atMs: number) => arrayDocument(sim, path, atMs),
    })),
    ...site.pdus.map((sim) => ({
      sim,
      document: (path: string, atMs: number) => pduDocument(sim, path, atMs),
    })),
  ]
  for (const { sim, document, ...rest } of services) {
    const { name } = sim.spec
    const address = ports.redfish[name]!
    const certificate = await newServerCertificate(authority, name, Date.now(), [
      { type: 'ip', value: address.host },
      { type: 'dns', value: 'localhost' },
    ])
    const https = await startService({
      name,
      faults: sim.faults,
      document,
      ...rest,
      ...address,
      certificate,
      account: CONTROLLER_ACCOUNT,
      journal,
    })
    closers.push(() => {
      https.close()
      https.closeAllConnections()
    })
    board(name, sim.faults)
  }
  for (const blade of site.chassis.ties.blades) board(blade.spec.name, blade.faults)
}

async function startSnmp(
  site: SimSite,
  { ports }: StandinOptions,
  { closers, board }: Started,
): Promise<void> {
  for (const ups of site.upses) {
    const { host, port } = ports.snmp[ups.spec.name]!
    const agent = startUpsAgent({ ups, host, port: port + 5, community: UPS_COMMUNITY, user: UPS_USER })
    const gate = await startGate(port, port + 5, ups.faults, { host })
    closers.push(
      () => gate.close(),
      () => agent.close(),
    )
    board(ups.spec.name, ups.faults)
  }
  for (const sim of site.switches) {
    const { host, port } = ports.snmp[sim.spec.name]!
    const agent = startSwitchAgent({ sim, host, port: port + 5, community: SWITCH_COMMUNITY })
    let freshMs = 0
    const gate = await startGate(port, port + 5, sim.faults, {
      host,
      // Its counters are brought up to date when somebody asks, and not all the time.
      before: () => {
        if (Date.now() - freshMs < 1000) return
        freshMs = Date.now()
        agent.refresh()
      },
    })
    closers.push(
      () => gate.close(),
      () => agent.close(),
    )
    board(sim.spec.name, sim.faults)
  }
}

async function startOthers(
  site: SimSite,
  { ports }: StandinOptions,
  { closers, board }: Started,
): Promise<void> {
  for (const cooling of site.coolings) {
    const server = await startCoolingUnit({ cooling, ...ports.modbus[cooling.spec.name]! })
    closers.push(() => server.close())
    board(cooling.spec.name, cooling.faults)
  }
  const { generator } = site
  const card = await startModbus({
    faults: generator.faults,
    read: (span, atMs) => generatorRegisters(generator, span, atMs),
    ...ports.modbus[generator.spec.name]!,
  })
  closers.push(() => card.close())
  board(generator.spec.name, generator.faults)
  for (const [probes, address] of [
    [site.probes, { port: ports.probes }],
    [site.hallProbes, ports.hallProbes],
  ] as const) {
    const gateway = await startGateway({ probes, ...address, token: PROBES_TOKEN })
    closers.push(
      () => gateway.close(),
      () => gateway.closeAllConnections(),
    )
    board(probes.spec.name, probes.faults)
  }
  for (const { spec, faults, isAlive } of site.pages) {
    const page = await startPage({
      name: spec.name,
      ...ports.web[spec.name]!,
      faults,
      isAlive: () => isAlive(Date.now()),
    })
    closers.push(
      () => page.close(),
      () => page.closeAllConnections(),
    )
    board(spec.name, faults)
  }
}

function startSenders(
  site: SimSite,
  { otlpUrl: url, intervalMs, senders }: StandinOptions,
  journal: Journal,
  { closers, board }: Started,
): void {
  const first = site.hypervisors[0]!
  const isWanted = (name: string): boolean => senders?.includes(name) ?? true
  for (const sim of site.hypervisors) {
    const { name } = sim.spec
    if (!isWanted(name)) continue
    const server = site.servers.find(({ spec }) => spec.name === name) ?? null
    const sender = startSender({
      name,
      faults: sim.faults,
      payload: (atMs) => hypervisorPayload(sim, atMs, server),
      isOn: (atMs) => server?.isOn(atMs) ?? true,
      url,
      token: sim === first ? HYPERVISOR_TOKEN : tokenOf(name),
      // The first one tells of its machines at the full pace; that is enough to see one at work.
      intervalMs: sim === first ? intervalMs : intervalMs * 3,
      journal,
    })
    closers.push(() => sender.close())
    board(name, sim.faults)
  }
  const { volumes } = site
  if (!isWanted(volumes.spec.name)) return
  const sender = startSender({
    name: volumes.spec.name,
    faults: volumes.faults,
    payload: (atMs) => volumesPayload(volumes, site.volumeStores, atMs),
    url,
    token: VOLUME_TOKEN,
    intervalMs: intervalMs * 6,
    journal,
  })
  closers.push(() => sender.close())
  board(volumes.spec.name, volumes.faults)
}
