import snmp from 'net-snmp'
import { type AgentAccess, type AgentObjects, startAgent } from '../snmp/agent.ts'
import type { SimUps } from '../model/ups.ts'

const MIB = '1.3.6.1.2.1.33.1'

export interface UpsAgentOptions extends Required<AgentAccess> {
  readonly ups: SimUps
  readonly host?: string
  readonly port: number
}

const scalars: Record<
  string,
  [oid: string, type: snmp.ObjectType, value: (ups: SimUps, atMs: number) => number | string]
> = {
  upsIdentManufacturer: [`${MIB}.1.1`, snmp.ObjectType.OctetString, () => 'Voltessa'],
  upsIdentModel: [`${MIB}.1.2`, snmp.ObjectType.OctetString, (ups) => ups.spec.model],
  upsIdentUPSSoftwareVersion: [`${MIB}.1.3`, snmp.ObjectType.OctetString, () => '2.08'],
  upsIdentName: [`${MIB}.1.5`, snmp.ObjectType.OctetString, (ups) => ups.spec.name],
  upsBatteryStatus: [`${MIB}.2.1`, snmp.ObjectType.Integer, (ups, at) => ups.batteryStatus(at)],
  upsSecondsOnBattery: [`${MIB}.2.2`, snmp.ObjectType.Integer, (ups, at) => ups.secondsOnBattery(at)],
  upsEstimatedMinutesRemaining: [
    `${MIB}.2.3`,
    snmp.ObjectType.Integer,
    (ups, at) => Math.floor(ups.minutesLeft(at)),
  ],
  upsEstimatedChargeRemaining: [`${MIB}.2.4`, snmp.ObjectType.Integer, (ups, at) => ups.chargePercent(at)],
  upsBatteryVoltage: [
    `${MIB}.2.5`,
    snmp.ObjectType.Integer,
    (ups, at) => Math.round(ups.batteryVolts(at) * 10),
  ],
  upsBatteryTemperature: [`${MIB}.2.7`, snmp.ObjectType.Integer, () => 24],
  upsOutputSource: [`${MIB}.4.1`, snmp.ObjectType.Integer, (ups) => (ups.onBattery() ? 5 : 3)],
  upsOutputFrequency: [`${MIB}.4.2`, snmp.ObjectType.Integer, () => 500],
  upsAlarmsPresent: [`${MIB}.6.1`, snmp.ObjectType.Gauge, (ups, at) => ups.alarms(at).length],
}

const column = (number: number, type = snmp.ObjectType.Integer) => ({ number, type })
/** Column numbers of RFC 1628 `upsInputEntry`, `upsOutputEntry` and `upsAlarmEntry`. */
const tables = {
  upsInputTable: {
    oid: `${MIB}.3.3.1`,
    columns: [column(1), column(2), column(3), column(4), column(5)],
    rows: (ups: SimUps, at: number) => {
      const watts = ups.onBattery() ? 0 : Math.round(ups.outputWatts(at) * 1.06)
      return [[1, ups.onBattery() ? 0 : 500, ups.inputVolts(at), Math.round(watts / 23), watts]]
    },
  },
  upsOutputTable: {
    oid: `${MIB}.4.4.1`,
    columns: [column(1), column(2), column(3), column(4), column(5)],
    rows: (ups: SimUps, at: number) => [
      [1, 230, Math.round(ups.outputWatts(at) / 23), ups.outputWatts(at), ups.loadPercent(at)],
    ],
  },
  upsAlarmTable: {
    oid: `${MIB}.6.2.1`,
    columns: [column(1), column(2, snmp.ObjectType.OID), column(3, snmp.ObjectType.TimeTicks)],
    rows: (ups: SimUps, at: number) =>
      ups.alarms(at).map((alarm, index) => [index + 1, `${MIB}.6.3.${alarm}`, 0]),
  },
}

/** What a UPS has (RFC 1628). */
export const upsObjects = (ups: SimUps): AgentObjects => ({
  scalars: Object.fromEntries(
    Object.entries(scalars).map(([name, [oid, type, value]]) => [
      name,
      { oid, type, value: (atMs: number) => value(ups, atMs) },
    ]),
  ),
  tables: Object.fromEntries(
    Object.entries(tables).map(([name, { oid, columns, rows }]) => [
      name,
      { oid, columns, index: [1], rows: (atMs: number) => rows(ups, atMs) },
    ]),
  ),
})

/** The agent of a UPS on a port of its own. */
export function startUpsAgent(options: UpsAgentOptions): { refresh(): void; close(): void } {
  const agent = startAgent({ ...options, ...upsObjects(options.ups) })
  const timer = setInterval(agent.refresh, 500)
  return {
    refresh: agent.refresh,
    close() {
      clearInterval(timer)
      agent.close()
    },
  }
}
