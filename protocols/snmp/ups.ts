import type { Findings, PartFinding, ReadingFinding } from '#core/gear'
import { numberOf, type Objects, textOf } from './session.ts'

const MIB = '1.3.6.1.2.1.33.1'
export const UPS_TREE = MIB

/** Objects of the UPS-MIB, RFC 1628. Scalars end in `.0`; table columns take the line's index. */
export const UPS_OIDS = {
  identManufacturer: `${MIB}.1.1.0`,
  identModel: `${MIB}.1.2.0`,
  identUpsSoftwareVersion: `${MIB}.1.3.0`,
  identName: `${MIB}.1.5.0`,
  batteryStatus: `${MIB}.2.1.0`,
  secondsOnBattery: `${MIB}.2.2.0`,
  estimatedMinutesRemaining: `${MIB}.2.3.0`,
  estimatedChargeRemaining: `${MIB}.2.4.0`,
  batteryVoltage: `${MIB}.2.5.0`,
  batteryTemperature: `${MIB}.2.7.0`,
  inputEntry: `${MIB}.3.3.1`,
  outputSource: `${MIB}.4.1.0`,
  outputFrequency: `${MIB}.4.2.0`,
  outputEntry: `${MIB}.4.4.1`,
  alarmsPresent: `${MIB}.6.1.0`,
  alarmEntry: `${MIB}.6.2.1`,
  wellKnownAlarms: `${MIB}.6.3`,
} as const

/** `upsWellKnownAlarms` 1..24, RFC 1628 §3. */
const ALARMS = [
  'battery bad',
  'on battery',
  'battery low',
  'battery depleted',
  'temperature bad',
  'input bad',
  'output bad',
  'output overloaded',
  'on bypass',
  'bypass bad',
  'output off as requested',
  'UPS off as requested',
  'charger failed',
  'UPS output off',
  'UPS system off',
  'fan failed',
  'fuse failed',
  'general fault',
  'self-test failed',
  'communications lost',
  'awaiting power',
  'shutdown pending',
  'shutdown imminent',
  'test in progress',
] as const

/** Alarms that any loss of mains brings; they say nothing that the output source does not say. */
const OF_AN_OUTAGE = new Set([2, 3, 4, 6, 9, 21, 22, 23, 24])

/**
 * One UPS from what its agent answered.
 * @returns `null` when not one object of the UPS-MIB is there: the agent is something else.
 */
export function upsFindings(values: Objects): Findings | null {
  if (![...values.keys()].some((oid) => oid.startsWith(`${MIB}.`))) return null
  const number = (oid: string, scale = 1): number | null => {
    const value = numberOf(values.get(oid))
    return value === null ? null : value * scale
  }
  const text = (oid: string): string => textOf(values.get(oid))
  const gear = 'ups'
  const readings: ReadingFinding[] = []
  const read = (measure: ReadingFinding['measure'], value: number | null, part: string | null = null) =>
    readings.push({ gear, part, measure, value })

  read('ups.output.source', number(UPS_OIDS.outputSource))
  read('ups.battery.status', number(UPS_OIDS.batteryStatus))
  read('ups.battery.seconds_on', number(UPS_OIDS.secondsOnBattery))
  read('ups.battery.minutes_left', positive(number(UPS_OIDS.estimatedMinutesRemaining)))
  read('hw.battery.charge', number(UPS_OIDS.estimatedChargeRemaining, 0.01))

  const parts: PartFinding[] = [{ key: 'battery', kind: 'battery', name: 'Battery', facts: {} }]
  read('hw.voltage', number(UPS_OIDS.batteryVoltage, 0.1), 'battery')
  read('hw.temperature', number(UPS_OIDS.batteryTemperature), 'battery')

  const loads: number[] = []
  for (const line of linesOf(values, UPS_OIDS.inputEntry)) {
    const key = `input ${line}`
    parts.push({ key, kind: 'input', name: `Input ${line}`, facts: {} })
    read('hw.frequency', number(`${UPS_OIDS.inputEntry}.2.${line}`, 0.1), key)
    read('hw.voltage', number(`${UPS_OIDS.inputEntry}.3.${line}`), key)
    read('hw.power', number(`${UPS_OIDS.inputEntry}.5.${line}`), key)
  }
  for (const line of linesOf(values, UPS_OIDS.outputEntry)) {
    const key = `output ${line}`
    parts.push({ key, kind: 'output', name: `Output ${line}`, facts: {} })
    read('hw.voltage', number(`${UPS_OIDS.outputEntry}.2.${line}`), key)
    read('hw.power', number(`${UPS_OIDS.outputEntry}.4.${line}`), key)
    const load = number(`${UPS_OIDS.outputEntry}.5.${line}`, 0.01)
    if (load !== null) loads.push(load)
  }
  read('ups.output.load', loads.length === 0 ? null : Math.max(...loads))

  const alarms = alarmNumbers(values)
  read('ups.faults', alarms.filter((alarm) => !OF_AN_OUTAGE.has(alarm)).length)

  return {
    gear: [
      {
        key: gear,
        kind: 'ups',
        name: text(UPS_OIDS.identName) || text(UPS_OIDS.identModel) || 'UPS',
        identities: [],
        facts: {
          maker: text(UPS_OIDS.identManufacturer),
          model: text(UPS_OIDS.identModel),
          firmware: text(UPS_OIDS.identUpsSoftwareVersion),
          alarms: alarms.map((alarm) => ALARMS[alarm - 1] ?? `alarm ${alarm}`).join(', '),
        },
        parts,
      },
    ],
    links: [],
    readings,
  }
}

/** RFC 1628 `upsEstimatedMinutesRemaining` is a PositiveInteger: 0 is no estimate, not no time. */
const positive = (value: number | null): number | null => (value === null || value <= 0 ? null : value)

/** The indices of a table's rows, from whichever of its columns are there. */
function linesOf(values: Objects, entry: string): number[] {
  const indices = [...values.keys()].flatMap((oid) => {
    const match = oid.startsWith(`${entry}.`) ? /^\d+\.(\d+)$/.exec(oid.slice(entry.length + 1)) : null
    return match === null ? [] : [Number(match[1])]
  })
  return [...new Set(indices)].sort((a, b) => a - b)
}

/** Numbers of the well-known alarms in `upsAlarmTable`, by their `upsAlarmDescr`. */
function alarmNumbers(values: Objects): number[] {
  return linesOf(values, UPS_OIDS.alarmEntry).flatMap((row) => {
    const described = textOf(values.get(`${UPS_OIDS.alarmEntry}.2.${row}`))
    const prefix = `${UPS_OIDS.wellKnownAlarms}.`
    return described.startsWith(prefix) ? [Number(described.slice(prefix.length))] : []
  })
}
