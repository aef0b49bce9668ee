import type { ProtocolDescriptor } from '#core/sources'
import type { Driver, Protocol } from '#protocols/driver'
import { modbus, modbusDescriptor, modbusForm } from '#protocols/modbus'
import { openmetricsDescriptor, openmetricsForm, scrape } from '#protocols/openmetrics'
import { otlpDescriptor } from '#protocols/otlp'
import { reachability, reachabilityDescriptor, reachabilityForm } from '#protocols/reachability'
import { redfish, redfishDescriptor, redfishForm } from '#protocols/redfish'
import { snmpAgent, snmpDescriptor, snmpForm } from '#protocols/snmp'

/** Everything that is spoken here, in the order in which it is offered. */
const PROTOCOLS: readonly Protocol[] = [
  { descriptor: redfishDescriptor, polled: { form: redfishForm, driver: redfish } },
  { descriptor: reachabilityDescriptor, polled: { form: reachabilityForm, driver: reachability } },
  { descriptor: snmpDescriptor, polled: { form: snmpForm, driver: snmpAgent } },
  { descriptor: openmetricsDescriptor, polled: { form: openmetricsForm, driver: scrape } },
  { descriptor: modbusDescriptor, polled: { form: modbusForm, driver: modbus } },
  { descriptor: otlpDescriptor, polled: null },
]

const byName: ReadonlyMap<string, Protocol> = new Map(
  PROTOCOLS.map((each) => [each.descriptor.protocol, each]),
)

export const findProtocol = (name: string): Protocol | undefined => byName.get(name)

export const DESCRIPTORS: readonly ProtocolDescriptor[] = PROTOCOLS.map(({ descriptor }) => descriptor)

/** @throws of a protocol that a source has and nothing here speaks: a newer version has written it */
export function descriptorOf(name: string): ProtocolDescriptor {
  const found = byName.get(name)
  if (found === undefined) throw new Error(`nothing here speaks “${name}”`)
  return found.descriptor
}

/** Everything that we ask, by its name. */
export const DRIVERS: ReadonlyMap<string, Driver> = new Map(
  PROTOCOLS.flatMap(({ polled }) =>
    polled === null ? [] : [[polled.driver.protocol, polled.driver] as const],
  ),
)

/** The names of what we ask. */
export const POLLED: readonly string[] = [...DRIVERS.keys()]
