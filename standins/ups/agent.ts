import snmp from 'net-snmp'
import type { SimUps } from '../model/ups.ts'

const MIB = '1.3.6.1.2.1.33.1'

export interface UpsAgentOptions {
  readonly ups: SimUps
  readonly port: number
  readonly community: string
  readonly user: { readonly username: string; readonly authPassword: string; readonly privPassword: string }
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

const column = (number: number, name: string, type = snmp.ObjectType.Integer) => ({
  number,
  name,
  type,
  maxAccess: snmp.MaxAccess['read-only'],
})
/** Column numbers of RFC 1628 `upsInputEntry`, `upsOutputEntry` and `upsAlarmEntry`. */
const tables = {
  upsInputTable: {
    oid: `${MIB}.3.3.1`,
    columns: [
      column(1, 'line'),
      column(2, 'frequency'),
      column(3, 'voltage'),
      column(4, 'current'),
      column(5, 'truePower'),
    ],
    rows: (ups: SimUps, at: number) => {
      const watts = ups.onBattery() ? 0 : Math.round(ups.outputWatts(at) * 1.06)
      return [[1, ups.onBattery() ? 0 : 500, ups.inputVolts(at), Math.round(watts / 23), watts]]
    },
  },
  upsOutputTable: {
    oid: `${MIB}.4.4.1`,
    columns: [
      column(1, 'line'),
      column(2, 'voltage'),
      column(3, 'current'),
      column(4, 'power'),
      column(5, 'percentLoad'),
    ],
    rows: (ups: SimUps, at: number) => [
      [1, 230, Math.round(ups.outputWatts(at) / 23), ups.outputWatts(at), ups.loadPercent(at)],
    ],
  },
  upsAlarmTable: {
    oid: `${MIB}.6.2.1`,
    columns: [
      column(1, 'id'),
      column(2, 'descr', snmp.ObjectType.OID),
      column(3, 'time', snmp.ObjectType.TimeTicks),
    ],
    rows: (ups: SimUps, at: number) =>
      ups.alarms(at).map((alarm, index) => [index + 1, `${MIB}.6.3.${alarm}`, 0]),
  },
}

/** The agent of a UPS on a port of its own: SNMP v2c with a community, v3 with a user (SHA-256, AES). */
export function startUpsAgent(options: UpsAgentOptions): { refresh(): void; close(): void } {
  const agent = snmp.createAgent(
    { port: options.port, address: '127.0.0.1', disableAuthorization: false, transport: 'udp4' },
    () => undefined,
  )
  const authorizer = agent.getAuthorizer()
  authorizer.addCommunity(options.community)
  authorizer.addUser({
    name: options.user.username,
    // What is signed and not encrypted is verified, and answered (RFC 3414 §3.2); at the higher level the library would
    // call its digest wrong.
    level: snmp.SecurityLevel.authNoPriv,
    authProtocol: snmp.AuthProtocols.sha256,
    authKey: options.user.authPassword,
    privProtocol: snmp.PrivProtocols.aes,
    privKey: options.user.privPassword,
  })
  const mib = agent.getMib()
  for (const [name, [oid, scalarType]] of Object.entries(scalars)) {
    mib.registerProvider({
      name,
      type: snmp.MibProviderType.Scalar,
      oid,
      scalarType,
      maxAccess: snmp.MaxAccess['read-only'],
    } as Parameters<typeof mib.registerProvider>[0])
  }
  for (const [name, { oid, columns }] of Object.entries(tables)) {
    mib.registerProvider({
      name,
      type: snmp.MibProviderType.Table,
      oid,
      maxAccess: snmp.MaxAccess['not-accessible'],
      tableColumns: columns,
      tableIndex: [{ columnNumber: 1 }],
    } as unknown as Parameters<typeof mib.registerProvider>[0])
  }
  const rowCounts = new Map<string, number>()
  const refresh = () => {
    const atMs = Date.now()
    for (const [name, [, , value]] of Object.entries(scalars))
      mib.setScalarValue(name, value(options.ups, atMs))
    for (const [name, { rows }] of Object.entries(tables)) {
      for (let row = 1; row <= (rowCounts.get(name) ?? 0); row += 1) mib.deleteTableRow(name, [row])
      const fresh = rows(options.ups, atMs)
      for (const row of fresh) mib.addTableRow(name, row)
      rowCounts.set(name, fresh.length)
    }
  }
  refresh()
  const timer = setInterval(refresh, 500)
  return {
    refresh,
    close() {
      clearInterval(timer)
      agent.close()
    },
  }
}
