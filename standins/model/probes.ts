import { FaultBoard } from './faults.ts'
import { noise, round } from './noise.ts'

export interface ProbesSpec {
  readonly name: string
  readonly seed: number
  /** Name, rack and the temperature around which it swings, °C. */
  readonly probes: readonly { readonly name: string; readonly place: string; readonly celsius: number }[]
}

/** A gateway with wireless probes: temperature, humidity, battery, and how many messages it heard. */
export class SimProbes {
  readonly faults = new FaultBoard(['silent-probe', 'hot', 'deny', 'cut-off'])

  constructor(
    readonly spec: ProbesSpec,
    private readonly startMs: number,
  ) {}

  /** The gateway's metrics as an OpenMetrics 1.0 document. */
  metricsAt(atMs: number): string {
    const heard = this.spec.probes.filter((probe) => !this.faults.has('silent-probe', probe.name))
    const family = (
      head: readonly string[],
      line: (probe: ProbesSpec['probes'][number], seed: number) => string,
    ): string[] => [
      ...head,
      ...heard.map((probe) => line(probe, this.spec.seed + this.spec.probes.indexOf(probe) * 11)),
    ]
    const labels = ({ name, place }: { name: string; place: string }): string =>
      `{probe="${name}",place="${place}"}`
    return [
      ...family(
        [
          '# TYPE probe_temperature_celsius gauge',
          '# UNIT probe_temperature_celsius celsius',
          '# HELP probe_temperature_celsius Air at the probe.',
        ],
        (probe, seed) => {
          const warmer = this.faults.has('hot', probe.name) ? 9 : 0
          const celsius = probe.celsius + warmer + 0.8 * noise(seed, atMs, 2_700_000)
          return `probe_temperature_celsius${labels(probe)} ${round(celsius, 1)}`
        },
      ),
      ...family(
        ['# TYPE probe_humidity_ratio gauge', '# HELP probe_humidity_ratio Relative humidity.'],
        (probe, seed) =>
          `probe_humidity_ratio${labels(probe)} ${round(0.46 + 0.05 * noise(seed + 3, atMs, 5_400_000), 3)}`,
      ),
      ...family(
        ['# TYPE probe_battery_charge_ratio gauge', '# HELP probe_battery_charge_ratio Its cell.'],
        (probe, seed) => `probe_battery_charge_ratio${labels(probe)} ${round(0.9 - (seed % 5) / 20, 2)}`,
      ),
      '# TYPE gateway_messages counter',
      '# HELP gateway_messages Messages heard by radio.',
      `gateway_messages_total ${Math.max(0, Math.floor((atMs - this.startMs) / 5000))}`,
      `gateway_messages_created ${this.startMs / 1000}`,
      '# TYPE gateway info',
      `gateway_info{model="Lichenfield G2",firmware="2.4.1"} 1`,
      ...(this.faults.has('cut-off') ? [] : ['# EOF']),
      '',
    ].join('\n')
  }
}
