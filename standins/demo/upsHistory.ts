import type { Findings } from '#core/topology'
import { upsFindings, UPS_OIDS } from '#protocols/snmp'
import type { SimUps } from '../model/ups.ts'

/** What the agent of a UPS would have answered at a time, read as a walk of it would have been. */
export function upsFindingsAt(ups: SimUps, atMs: number): Findings {
  const watts = ups.outputWatts(atMs)
  const values = new Map<string, string | number>([
    [UPS_OIDS.identManufacturer, 'Voltessa'],
    [UPS_OIDS.identModel, ups.spec.model],
    [UPS_OIDS.identUpsSoftwareVersion, '2.08'],
    [UPS_OIDS.identName, ups.spec.name],
    [UPS_OIDS.batteryStatus, 2],
    [UPS_OIDS.secondsOnBattery, 0],
    [UPS_OIDS.estimatedMinutesRemaining, ups.spec.fullMinutes],
    [UPS_OIDS.estimatedChargeRemaining, 100],
    [UPS_OIDS.batteryVoltage, Math.round(ups.batteryVolts(atMs) * 10)],
    [UPS_OIDS.batteryTemperature, 24],
    [UPS_OIDS.outputSource, 3],
    [UPS_OIDS.outputFrequency, 500],
    [`${UPS_OIDS.inputEntry}.2.1`, 500],
    [`${UPS_OIDS.inputEntry}.3.1`, ups.inputVolts(atMs)],
    [`${UPS_OIDS.inputEntry}.5.1`, Math.round(watts * 1.06)],
    [`${UPS_OIDS.outputEntry}.2.1`, 230],
    [`${UPS_OIDS.outputEntry}.4.1`, watts],
    [`${UPS_OIDS.outputEntry}.5.1`, ups.loadPercent(atMs)],
  ])
  const findings = upsFindings(values)
  if (findings === null) throw new Error('the history of a UPS holds no object of the UPS-MIB')
  return findings
}
