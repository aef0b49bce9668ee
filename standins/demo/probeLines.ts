import type { MappingLine } from '#core/sources'

const common = {
  where: {},
  gear: '{probe}',
  kind: 'probe',
  part: '',
  partKind: 'sensor',
  scale: 1,
  isCount: false,
} as const

/** What the metrics of the probes' gateway mean. */
export const PROBE_LINES: readonly MappingLine[] = [
  { ...common, metric: 'probe_temperature_celsius', measure: 'hw.temperature' },
  { ...common, metric: 'probe_humidity_ratio', measure: 'hw.humidity' },
  { ...common, metric: 'probe_battery_charge_ratio', measure: 'hw.battery.charge' },
  { ...common, metric: 'probe_signal_dbm', measure: 'hw.signal' },
  { ...common, metric: 'door_open', gear: '{door}', kind: 'door', measure: 'hw.door' },
  { ...common, metric: 'rope_wet', gear: '{rope}', kind: 'rope', measure: 'hw.leak' },
]
