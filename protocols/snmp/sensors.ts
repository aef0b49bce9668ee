import type { MeasureKey } from '#core/catalogue'
import type { PartFinding, ReadingFinding } from '#core/gear'
import { Table } from './objects.ts'
import type { Objects } from './session.ts'

/** ENTITY-MIB, RFC 6933 (and 4133, which it follows), and ENTITY-SENSOR-MIB, RFC 3433. */
const ENTITY = '1.3.6.1.2.1.47.1.1.1.1'
const SENSOR = '1.3.6.1.2.1.99.1.1.1'
const OF_ENTITY = {
  descr: 2,
  containedIn: 4,
  class: 5,
  name: 7,
  firmware: 9,
  serial: 11,
  maker: 12,
  model: 13,
}
export const SENSOR_WALKS = [...Object.values(OF_ENTITY).map((column) => `${ENTITY}.${column}`), SENSOR]

/** IANA-ENTITY-MIB `PhysicalClass`. */
const CHASSIS = 3

interface Kind {
  readonly measure: MeasureKey
  readonly factor: number
}
/** `EntitySensorDataType` (RFC 3433 §3): those that are measures here, in our units. */
const KINDS: Readonly<Record<number, Kind>> = {
  3: { measure: 'hw.voltage', factor: 1 },
  4: { measure: 'hw.voltage', factor: 1 },
  5: { measure: 'hw.current', factor: 1 },
  6: { measure: 'hw.power', factor: 1 },
  7: { measure: 'hw.frequency', factor: 1 },
  8: { measure: 'hw.temperature', factor: 1 },
  9: { measure: 'hw.humidity', factor: 0.01 },
  10: { measure: 'hw.fan.speed', factor: 1 },
  // Cubic metres a minute.
  11: { measure: 'hw.airflow', factor: 60 },
}
const OK = 1

export interface OfSensors {
  readonly parts: readonly PartFinding[]
  readonly readings: readonly ReadingFinding[]
  /** Of the box itself. */
  readonly facts: Readonly<Record<string, string>>
  readonly serial: string | null
}

/** Sensors with their readings in our units, and what the box says of itself. */
export function sensorsOf(objects: Objects, gear: string): OfSensors {
  const entities = new Table(objects, ENTITY)
  const sensors = new Table(objects, SENSOR)
  const box = entities.indices.find((index) => entities.number(OF_ENTITY.class, index) === CHASSIS)
  const parts: PartFinding[] = []
  const readings: ReadingFinding[] = []
  for (const index of sensors.indices) {
    const kind = KINDS[sensors.number(1, index) ?? -1]
    if (kind === undefined) continue
    const name =
      entities.text(OF_ENTITY.name, index) || entities.text(OF_ENTITY.descr, index) || `Sensor ${index}`
    const key = `sensor ${index}`
    const value = sensorValue(sensors, index)
    parts.push({ key, kind: kind.measure === 'hw.fan.speed' ? 'fan' : 'sensor', name, facts: {} })
    readings.push({
      gear,
      part: key,
      measure: kind.measure,
      value: value === null ? null : value * kind.factor,
    })
  }
  const facts: Record<string, string> = {}
  const serial = box === undefined ? '' : entities.text(OF_ENTITY.serial, box)
  if (box !== undefined) {
    for (const fact of ['maker', 'model', 'firmware'] as const) {
      const text = entities.text(OF_ENTITY[fact], box)
      if (text !== '') facts[fact] = text
    }
    if (serial !== '') facts['serial'] = serial
  }
  return { parts, readings, facts, serial: serial === '' ? null : serial }
}

/**
 * `entPhySensorValue` × 10^(scale) / 10^(precision) (RFC 3433 §3): scale 9 is units, each step a factor of a thousand.
 * Not `ok(1)`: no value. The ends of the range mean that there is none.
 */
function sensorValue(sensors: Table, index: string): number | null {
  const [scale, precision, raw, status] = [2, 3, 4, 5].map((column) => sensors.number(column, index))
  if (raw == null || (status != null && status !== OK) || Math.abs(raw) >= 1_000_000_000) return null
  return raw * 1000 ** ((scale ?? 9) - 9) * 10 ** -(precision ?? 0)
}
