import type { Findings } from '#core/gear'
import { mapRegisters, type RegisterBlock, type RegisterMap, type RegisterSpan, spansOf } from '#core/sources'
import { SHIPPED_MAPS } from '#protocols/modbus'
import { findingsOfDocument } from '#protocols/openmetrics'
import { type ExportRequest, momentsOf } from '#protocols/otlp'
import { reachFindings } from '#protocols/reachability'
import { findingsOf, walk } from '#protocols/redfish'
import { agentFindings } from '#protocols/snmp'
import { generatorRegisters } from '../cooling/generatorRegisters.ts'
import { readRegisters } from '../cooling/registers.ts'
import { hypervisorPayload, volumesPayload } from '../hypervisor/payload.ts'
import type { SimSite } from '../model/site.ts'
import { arrayDocument } from '../redfish/arrayDocuments.ts'
import { chassisDocument } from '../redfish/chassisDocuments.ts'
import { redfishDocument } from '../redfish/documents.ts'
import { pduDocument } from '../redfish/pduDocuments.ts'
import type { StandinPorts } from '../site/index.ts'
import { type AgentObjects, objectsAt } from '../snmp/agent.ts'
import { switchObjects } from '../snmp/switchAgent.ts'
import { upsObjects } from '../ups/agent.ts'
import {
  answerMs,
  arrayCurves,
  chassisCurves,
  coolingCurves,
  type CurveOf,
  generatorCurves,
  hypervisorCurves,
  pageCurves,
  pduCurves,
  probeCurves,
  serverCurves,
  switchCurves,
  upsCurves,
  volumeCurves,
} from './curves.ts'
import { PROBE_LINES } from './probeLines.ts'

/** One source of the demo: what it says at a time, through its documents and our parsers, and how its series run. */
export interface Reader {
  readonly name: string
  readonly read: (atMs: number) => Promise<Findings>
  readonly curveOf: CurveOf
}

const mapOf = (kind: RegisterMap['kind']): RegisterMap =>
  SHIPPED_MAPS.find(({ map }) => map.kind === kind)!.map

const redfish = (
  { spec }: { readonly spec: { readonly name: string } },
  document: (path: string, atMs: number) => unknown,
  curveOf: CurveOf,
): Reader => ({
  name: spec.name,
  read: async (atMs) => findingsOf(await walk((path) => Promise.resolve(document(path, atMs)))),
  curveOf,
})

const snmp = (name: string, objects: AgentObjects, curveOf: CurveOf): Reader => ({
  name,
  read: (atMs) => Promise.resolve(withRates(agentFindings(objectsAt(objects, atMs))!, curveOf, atMs)),
  curveOf,
})

const pushed = (name: string, payload: (atMs: number) => ExportRequest, curveOf: CurveOf): Reader => ({
  name,
  read: (atMs) => Promise.resolve(withRates(momentsOf(payload(atMs))[0]!.findings, curveOf, atMs)),
  curveOf,
})

const modbus = (
  name: string,
  map: RegisterMap,
  registers: (span: RegisterSpan, atMs: number) => RegisterBlock | null,
  curveOf: CurveOf,
): Reader => ({
  name,
  read: (atMs) => {
    const blocks = spansOf(map, false).map((span) => registers(span, atMs)!)
    return Promise.resolve(mapRegisters(blocks, map, name))
  },
  curveOf,
})

const server = (sim: SimSite['servers'][number]): Reader =>
  redfish(sim, (path, atMs) => redfishDocument(sim, path, atMs), serverCurves(sim))
const ups = (sim: SimSite['upses'][number]): Reader => snmp(sim.spec.name, upsObjects(sim), upsCurves(sim))
const host =
  ({ servers }: SimSite) =>
  (sim: SimSite['hypervisors'][number]): Reader => {
    const box = servers.find(({ spec }) => spec.name === sim.spec.name) ?? null
    return pushed(
      `${sim.spec.name} hypervisor`,
      (atMs) => hypervisorPayload(sim, atMs, box),
      hypervisorCurves(sim, box),
    )
  }
const cooling = (sim: SimSite['coolings'][number]): Reader =>
  modbus(sim.spec.name, mapOf('cooling'), (span, atMs) => readRegisters(sim, span, atMs), coolingCurves(sim))
const probes = (sim: SimSite['probes']): Reader => ({
  name: sim.spec.name,
  read: (atMs) => Promise.resolve(findingsOfDocument(sim.metricsAt(atMs), PROBE_LINES, atMs)),
  curveOf: probeCurves(sim),
})

/** A camera's or the recorder's page. */
const pageReader = ({ spec, isAlive }: SimSite['pages'][number], ports: StandinPorts): Reader => ({
  name: spec.name,
  read: (atMs) =>
    Promise.resolve(
      reachFindings(
        new URL(pageAddress(ports, spec.name)),
        { name: spec.name, kind: spec.name === 'recorder' ? 'recorder' : 'camera' },
        {
          failure: isAlive(atMs) ? null : { kind: 'connectionLost', address: spec.name, detail: 'no answer' },
          tookMs: answerMs(atMs),
          validToMs: null,
        },
      ),
    ),
  curveOf: pageCurves(isAlive),
})

/** All sources of the site, those that were first in front. */
export function readersOf(site: SimSite, ports: StandinPorts): Reader[] {
  const { chassis, volumes, generator } = site
  const [first, ...others] = site.hypervisors
  return [
    ...site.servers.slice(0, 4).map(server),
    ...site.upses.slice(0, 2).map(ups),
    host(site)(first!),
    cooling(site.coolings[0]!),
    probes(site.probes),
    ...site.servers.slice(4).map(server),
    redfish(chassis, (path, atMs) => chassisDocument(chassis, path, atMs), chassisCurves(chassis)),
    ...site.arrays.map((sim) =>
      redfish(sim, (path, atMs) => arrayDocument(sim, path, atMs), arrayCurves(sim)),
    ),
    ...site.pdus.map((sim) => redfish(sim, (path, atMs) => pduDocument(sim, path, atMs), pduCurves(sim))),
    ...site.upses.slice(2).map(ups),
    ...site.switches.map((sim) => snmp(sim.spec.name, switchObjects(sim), switchCurves(sim))),
    ...others.map(host(site)),
    pushed(
      volumes.spec.name,
      (atMs) => volumesPayload(volumes, site.volumeStores, atMs),
      volumeCurves(volumes),
    ),
    ...site.coolings.slice(1).map(cooling),
    modbus(
      generator.spec.name,
      mapOf('generator'),
      (span, atMs) => generatorRegisters(generator, span, atMs),
      generatorCurves(generator),
    ),
    probes(site.hallProbes),
    ...site.pages.map((page) => pageReader(page, ports)),
  ]
}

/** Where the page of a camera or recorder is. */
export const pageAddress = (ports: StandinPorts, name: string): string => {
  const { host, port } = ports.web[name]!
  return `http://${host}:${port}/`
}

/** Counts become the rates that they have at that moment: of one moment alone nothing else could be said. */
function withRates(findings: Findings, curveOf: CurveOf, atMs: number): Findings {
  const { counters = [], ...rest } = findings
  const readings = counters.map(({ gear, part, measure }) => {
    const series = { gear, part, measure }
    return { ...series, value: curveOf(series)?.(atMs) ?? 0 }
  })
  return { ...rest, readings: [...findings.readings, ...readings] }
}
