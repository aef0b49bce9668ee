import type { GearFinding, Findings, Identity } from '#core/gear'
import { hostResources, hostUptime } from './host.ts'
import { interfacesOf } from './interfaces.ts'
import { neighboursOf } from './neighbours.ts'
import { sensorsOf } from './sensors.ts'
import { numberOf, type Objects, textOf } from './session.ts'
import { upsFindings } from './ups.ts'

/** SNMPv2-MIB `system`, RFC 3418. */
export const SYSTEM_TREE = '1.3.6.1.2.1.1'
const SYS = {
  descr: `${SYSTEM_TREE}.1.0`,
  objectId: `${SYSTEM_TREE}.2.0`,
  uptime: `${SYSTEM_TREE}.3.0`,
  name: `${SYSTEM_TREE}.5.0`,
}

const GEAR = 'agent'
/** Above so many ports, something that is no host is a switch. */
const PORTS_OF_A_SWITCH = 4

/**
 * Whatever of the known trees an agent has: a UPS (RFC 1628), a host (RFC 2790), ports (RFC 2863), sensors (RFC 3433,
 * 6933).
 * @returns `null` when it has none of them
 */
export function agentFindings(objects: Objects): Findings | null {
  const ups = upsFindings(objects)
  if (ups !== null) return ups
  const uptime = numberOf(objects.get(SYS.uptime))
  const uptimeMs = uptime === null ? null : uptime * 10
  const upSeconds = hostUptime(objects) ?? (uptimeMs === null ? null : uptimeMs / 1000)
  const host = hostResources(objects, GEAR)
  const ports = interfacesOf(objects, GEAR, uptimeMs)
  const sensors = sensorsOf(objects, GEAR)
  const parts = [...(host?.parts ?? []), ...ports.parts, ...sensors.parts]
  if (parts.length === 0) return null
  const kind: GearFinding['kind'] =
    host !== null ? 'host' : ports.parts.length > PORTS_OF_A_SWITCH ? 'switch' : 'probe'
  const identities: Identity[] = [
    ...(sensors.serial === null ? [] : [{ kind: 'serial' as const, value: sensors.serial }]),
    ...[...new Set(ports.macs)].map((value) => ({ kind: 'mac' as const, value })),
  ]
  const farLinks = neighboursOf(objects, GEAR, ports.parts)
  const description = textOf(objects.get(SYS.descr))
  return {
    gear: [
      {
        key: GEAR,
        kind,
        name: textOf(objects.get(SYS.name)) || description.slice(0, 40) || 'SNMP agent',
        identities,
        facts: { ...sensors.facts, ...(description === '' ? {} : { system: description.slice(0, 200) }) },
        parts,
      },
    ],
    links: [],
    ...(farLinks.length === 0 ? {} : { farLinks }),
    readings: [
      ...(upSeconds === null
        ? []
        : [{ gear: GEAR, part: null, measure: 'system.uptime' as const, value: upSeconds }]),
      ...(host?.readings ?? []),
      ...ports.readings,
      ...sensors.readings,
    ],
    counters: ports.counters,
  }
}
