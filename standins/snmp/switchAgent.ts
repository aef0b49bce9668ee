import snmp from 'net-snmp'
import type { SimSwitch } from '../model/switch.ts'
import { type AgentAccess, type AgentObjects, startAgent } from './agent.ts'

const SYSTEM = '1.3.6.1.2.1.1'
const IF = '1.3.6.1.2.1.2.2.1'
const IFX = '1.3.6.1.2.1.31.1.1.1'
const LLDP = '1.0.8802.1.1.2.1'
const { Integer, OctetString, Gauge, Counter64, Counter, TimeTicks } = snmp.ObjectType
const ETHERNET = 6
const macBytes = (mac: string): Buffer => Buffer.from(mac.replaceAll(':', ''), 'hex')

const columns = (...pairs: readonly (readonly [number, snmp.ObjectType])[]) =>
  pairs.map(([number, type]) => ({ number, type }))

/** The agent of a switch. */
export const startSwitchAgent = (
  options: AgentAccess & { readonly sim: SimSwitch; readonly host?: string; readonly port: number },
): { refresh(): void; close(): void } => startAgent({ ...options, ...switchObjects(options.sim) })

/** What a switch has: ports with their counters (RFC 2863), and neighbours (IEEE 802.1AB LLDP-MIB). */
export const switchObjects = (sim: SimSwitch): AgentObjects => ({
  scalars: {
    sysDescr: { oid: `${SYSTEM}.1`, type: OctetString, value: () => 'Norrvik S24 switch, software 9.4.2' },
    sysUpTime: {
      oid: `${SYSTEM}.3`,
      type: TimeTicks,
      value: (atMs) => Math.floor(Math.max(0, atMs - sim.startMs) / 10) % 2 ** 32,
    },
    sysName: { oid: `${SYSTEM}.5`, type: OctetString, value: () => sim.spec.name },
  },
  tables: {
    ifTable: ifTable(sim),
    ifXTable: ifXTable(sim),
    lldpLocPortTable: localPorts(sim),
    lldpRemTable: neighbours(sim),
  },
})

type Table = AgentObjects['tables'][string]

function octets64(octets: number): Buffer {
  const bytes = Buffer.alloc(8)
  bytes.writeBigUInt64BE(BigInt(octets))
  return bytes
}

const ifTable = (sim: SimSwitch): Table => ({
  oid: IF,
  index: [1],
  columns: columns(
    [1, Integer],
    [2, OctetString],
    [3, Integer],
    [5, Gauge],
    [6, OctetString],
    [7, Integer],
    [8, Integer],
    [14, Counter],
    [20, Counter],
  ),
  rows: (atMs) =>
    sim.spec.ports.map((port, index) => [
      index + 1,
      port.name,
      ETHERNET,
      Math.min(4_294_967_295, port.speedMbps * 1e6),
      macBytes(sim.mac(index + 1)),
      1,
      sim.isUp(port, atMs) ? 1 : 2,
      0,
      0,
    ]),
})

const ifXTable = (sim: SimSwitch): Table => ({
  oid: IFX,
  // Its index is a column of ifTable (RFC 2863 §6); here it has one that nobody asks for.
  index: [99],
  columns: columns(
    [99, Integer],
    [1, OctetString],
    [6, Counter64],
    [10, Counter64],
    [15, Gauge],
    [18, OctetString],
  ),
  rows: (atMs) =>
    sim.spec.ports.map((port, index) => [
      index + 1,
      port.name,
      octets64(sim.octets(port, 'receive', atMs)),
      octets64(sim.octets(port, 'transmit', atMs)),
      port.speedMbps,
      port.neighbour === null ? '' : `to ${port.neighbour.name}`,
    ]),
})

const localPorts = (sim: SimSwitch): Table => ({
  oid: `${LLDP}.3.7.1`,
  index: [1],
  columns: columns([1, Integer], [2, Integer], [3, OctetString], [4, OctetString]),
  rows: () => sim.spec.ports.map((port, index) => [index + 1, 5, port.name, port.name]),
})

const neighbours = (sim: SimSwitch): Table => ({
  oid: `${LLDP}.4.1.1`,
  index: [1, 2, 3],
  columns: columns(
    [1, Integer],
    [2, Integer],
    [3, Integer],
    [4, Integer],
    [5, OctetString],
    [6, Integer],
    [7, OctetString],
    [9, OctetString],
  ),
  // A neighbour is told of for two minutes after it was heard last; here for as long as there is one.
  rows: () =>
    sim.spec.ports.flatMap((port, index) => {
      const { neighbour } = port
      if (neighbour === null) return []
      const isMac = neighbour.mac !== null
      return [
        [
          0,
          index + 1,
          1,
          isMac ? 4 : 7,
          isMac ? macBytes(neighbour.mac) : neighbour.name,
          5,
          neighbour.port,
          neighbour.name,
        ],
      ]
    }),
})
