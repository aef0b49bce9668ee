import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { startControl } from './control.ts'
import { startCoolingUnit } from './cooling/server.ts'
import { startSender } from './hypervisor/sender.ts'
import { fileJournal, NO_JOURNAL } from './journal.ts'
import { startMailSink } from './mail/sink.ts'
import type { FaultBoard } from './model/faults.ts'
import { SimCooling } from './model/cooling.ts'
import { SimHypervisor } from './model/hypervisor.ts'
import { SimProbes } from './model/probes.ts'
import { SimServer } from './model/server.ts'
import { SimUps } from './model/ups.ts'
import { startGateway } from './probes/gateway.ts'
import { newAuthority, newServerCertificate, type Pair } from './redfish/authority.ts'
import { startController } from './redfish/server.ts'
import {
  CONTROLLER_ACCOUNT,
  COOLING,
  HYPERVISOR,
  HYPERVISOR_TOKEN,
  PROBES,
  PROBES_TOKEN,
  SERVERS,
  type StandinPorts,
  UPS_COMMUNITY,
  UPS_USER,
  UPSES,
} from './site.ts'
import { startSpeaker } from './speaker.ts'
import { startUpsAgent } from './ups/agent.ts'
import { startGate } from './ups/gate.ts'

/** The site at rest: its gear as simulated from `startMs` on. */
export function simulatedSite(startMs: number) {
  return {
    servers: SERVERS.map((spec) => new SimServer(spec)),
    upses: UPSES.map((spec) => new SimUps(spec, startMs)),
    hypervisor: new SimHypervisor(HYPERVISOR, startMs),
    cooling: new SimCooling(COOLING),
    probes: new SimProbes(PROBES, startMs),
  }
}

/** The authority that signs the controllers' certificates; made once and kept in the folder. */
export async function siteAuthority(folder: string): Promise<Pair> {
  const path = join(folder, 'authority.json')
  if (existsSync(path)) return JSON.parse(readFileSync(path, 'utf8')) as Pair
  mkdirSync(folder, { recursive: true })
  const made = await newAuthority('Kittiwake Sound demo authority', Date.now())
  writeFileSync(path, JSON.stringify(made), { mode: 0o600 })
  return made
}

export interface StandinOptions {
  readonly folder: string
  readonly ports: StandinPorts
  readonly otlpUrl: string
  readonly intervalMs: number
  readonly journalPath: string | null
  readonly startMs: number
}

/** Starts every stand-in of the site. They speak over loopback sockets; nothing is passed in memory. */
export async function startStandins(options: StandinOptions): Promise<{ close(): Promise<void> }> {
  const { ports } = options
  const journal = options.journalPath === null ? NO_JOURNAL : fileJournal(options.journalPath)
  const site = simulatedSite(options.startMs)
  const authority = await siteAuthority(options.folder)
  const closers: (() => unknown)[] = []
  const boards = new Map<string, FaultBoard[]>()
  const board = (name: string, faults: FaultBoard) => boards.set(name, [...(boards.get(name) ?? []), faults])

  for (const server of site.servers) {
    const certificate = await newServerCertificate(authority, server.spec.name, Date.now())
    const port = ports.controllers[server.spec.name]!
    const https = await startController({ server, port, certificate, account: CONTROLLER_ACCOUNT, journal })
    closers.push(() => {
      https.close()
      https.closeAllConnections()
    })
    board(server.spec.name, server.faults)
  }
  for (const ups of site.upses) {
    const port = ports.upses[ups.spec.name]!
    const agent = startUpsAgent({ ups, port: port + 5, community: UPS_COMMUNITY, user: UPS_USER })
    const gate = await startGate(port, port + 5, ups.faults)
    closers.push(
      () => gate.close(),
      () => agent.close(),
    )
    board(ups.spec.name, ups.faults)
  }
  const cooling = await startCoolingUnit({ cooling: site.cooling, port: ports.cooling })
  board(COOLING.name, site.cooling.faults)
  const gateway = await startGateway({ probes: site.probes, port: ports.probes, token: PROBES_TOKEN })
  board(PROBES.name, site.probes.faults)
  closers.push(
    () => cooling.close(),
    () => gateway.close(),
    () => gateway.closeAllConnections(),
  )
  const sender = startSender({
    sim: site.hypervisor,
    url: options.otlpUrl,
    token: HYPERVISOR_TOKEN,
    intervalMs: options.intervalMs,
    journal,
  })
  board(site.hypervisor.spec.name, site.hypervisor.faults)
  const speaker = startSpeaker({
    port: ports.syslog,
    speakers: [...site.servers, ...site.upses, site.cooling].map(({ spec, faults }) => ({
      name: spec.name,
      faults,
    })),
  })
  closers.push(() => speaker.close())
  const sink = await startMailSink(ports.mail)
  const control = await startControl(ports.control, { gear: boards, mails: sink.mails })
  closers.push(
    () => sender.close(),
    () => sink.close(),
    () => control.close(),
  )
  return {
    async close() {
      for (const close of closers) await close()
      control.closeAllConnections()
    },
  }
}
