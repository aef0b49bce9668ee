import type { Driver } from '#protocols/driver'
import { modbus } from '#protocols/modbus'
import { scrape } from '#protocols/openmetrics'
import { reachability } from '#protocols/reachability'
import { redfish } from '#protocols/redfish'
import { snmpAgent } from '#protocols/snmp'

/** Everything that we ask, by its name. */
export const DRIVERS: ReadonlyMap<string, Driver> = new Map(
  [redfish, snmpAgent, scrape, modbus, reachability].map((driver) => [driver.protocol, driver]),
)
