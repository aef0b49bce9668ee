import type { CounterFinding, PartFinding, ReadingFinding } from '#core/gear'
import { macOf, Table } from './objects.ts'
import type { Objects } from './session.ts'

/** IF-MIB, RFC 2863. */
const IF = '1.3.6.1.2.1.2.2.1'
const IFX = '1.3.6.1.2.1.31.1.1.1'

const OF_IF = {
  descr: 2,
  type: 3,
  speed: 5,
  mac: 6,
  admin: 7,
  oper: 8,
  inOctets: 10,
  inErrors: 14,
  outOctets: 16,
  outErrors: 20,
}
const OF_IFX = { name: 1, hcIn: 6, hcOut: 10, highSpeed: 15, alias: 18 }
/** Columns that are walked: a table with all of its columns is three times as much. */
export const INTERFACE_WALKS = [
  ...Object.values(OF_IF).map((column) => `${IF}.${column}`),
  ...Object.values(OF_IFX).map((column) => `${IFX}.${column}`),
]

/** IANAifType-MIB: softwareLoopback. */
const LOOPBACK = 24
const UP = 1
const DOWN_BY_HAND = 2

export interface OfInterfaces {
  readonly parts: readonly PartFinding[]
  readonly readings: readonly ReadingFinding[]
  readonly counters: readonly CounterFinding[]
  readonly macs: readonly string[]
}

/**
 * Ports with their state and traffic; 64-bit counters where there are any (RFC 2863 §3.1.6).
 * @param uptimeMs `sysUpTime`: for how long the counters count
 */
export function interfacesOf(objects: Objects, gear: string, uptimeMs: number | null): OfInterfaces {
  const table = new Table(objects, IF)
  const more = new Table(objects, IFX)
  const parts: PartFinding[] = []
  const readings: ReadingFinding[] = []
  const counters: CounterFinding[] = []
  const macs: string[] = []
  const names = table.indices.map((index) => more.text(OF_IFX.name, index) || table.text(OF_IF.descr, index))
  table.indices.forEach((index, at) => {
    const name = names[at] === '' ? `port ${index}` : names[at]!
    // An index may change when the device starts again (RFC 2863 §3.1.5); a name that is the only one does not.
    const isOnly = names.indexOf(name) === names.lastIndexOf(name)
    const key = isOnly ? `port ${name}` : `port ${name} #${index}`
    const [type, admin, oper] = [OF_IF.type, OF_IF.admin, OF_IF.oper].map((column) =>
      table.number(column, index),
    )
    const mac = macOf(table.value(OF_IF.mac, index))
    if (mac !== null && mac !== '00:00:00:00:00:00' && type !== LOOPBACK) macs.push(mac)
    const bytes = bytesPerSecond(more.number(OF_IFX.highSpeed, index), table.number(OF_IF.speed, index))
    const idle = idleReason(type, admin, oper)
    parts.push({
      key,
      kind: 'port',
      name,
      facts: {
        ifIndex: index,
        ...(more.text(OF_IFX.alias, index) === '' ? {} : { alias: more.text(OF_IFX.alias, index) }),
        ...(mac === null ? {} : { mac }),
        ...(bytes === null ? {} : { speedMbps: String((bytes * 8) / 1e6) }),
      },
      ...(idle === null ? {} : { idle }),
    })
    readings.push({
      gear,
      part: key,
      measure: 'hw.network.up',
      value: oper === null ? null : oper === UP ? 1 : 0,
    })
    const count = (measure: CounterFinding['measure'], value: string | null, bits: 32 | 64): void => {
      if (value !== null) counters.push({ gear, part: key, measure, value, bits, countingMs: uptimeMs })
    }
    for (const [measure, wide, narrow] of [
      ['hw.network.io.receive', OF_IFX.hcIn, OF_IF.inOctets],
      ['hw.network.io.transmit', OF_IFX.hcOut, OF_IF.outOctets],
    ] as const) {
      const hc = more.counter(wide, index)
      if (hc !== null) count(measure, hc, 64)
      else count(measure, table.counter(narrow, index), 32)
    }
    const [inErrors, outErrors] = [
      table.counter(OF_IF.inErrors, index),
      table.counter(OF_IF.outErrors, index),
    ]
    if (inErrors !== null && outErrors !== null)
      count('hw.network.errors', String((BigInt(inErrors) + BigInt(outErrors)) % 2n ** 32n), 32)
  })
  return { parts, readings, counters, macs }
}

function idleReason(
  type: number | null | undefined,
  admin: number | null | undefined,
  oper: number | null | undefined,
) {
  if (type === LOOPBACK) return 'the machine talks to itself'
  if (admin === DOWN_BY_HAND) return 'switched off by hand'
  return oper === UP || oper == null ? null : 'no link'
}

/** `ifHighSpeed` is in millions of bits a second; `ifSpeed` in bits, and useless above 4.29 Gbit/s. */
function bytesPerSecond(high: number | null, low: number | null): number | null {
  if (high !== null && high > 0) return (high * 1e6) / 8
  return low !== null && low > 0 && low < 4_294_967_295 ? low / 8 : null
}
