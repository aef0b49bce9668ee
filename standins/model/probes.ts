import { FaultBoard } from './faults.ts'
import { noise, round } from './noise.ts'

const DAY_MS = 86_400_000

export interface ProbeSpec {
  readonly name: string
  readonly place: string
  /** Around which it swings, °C. */
  readonly celsius: number
  /** The rack whose air it measures. */
  readonly rack?: string
  /** It has said nothing since so many days before the demo began. */
  readonly silentSinceDays?: number
}

export interface ProbesSpec {
  readonly name: string
  readonly seed: number
  readonly probes: readonly ProbeSpec[]
  readonly doors: readonly string[]
  readonly ropes: readonly string[]
}

/** A gateway with probes, doors and leak ropes: temperature, humidity, battery, signal, and how many messages it heard. */
export class SimProbes {
  readonly faults = new FaultBoard([
    'silent-probe',
    'fade',
    'hot',
    'open-door',
    'wet-rope',
    'deny',
    'cut-off',
  ])

  constructor(
    readonly spec: ProbesSpec,
    private readonly startMs: number,
    /** Air before a rack, °C. */
    private readonly inlet: ((rack: string, atMs: number) => number) | null = null,
  ) {}

  /** Probes that have been heard at a time. */
  heardAt(atMs: number): readonly ProbeSpec[] {
    return this.spec.probes.filter(
      ({ name, silentSinceDays }) =>
        !this.faults.has('silent-probe', name) &&
        this.#faded(name, atMs) < 1 &&
        (silentSinceDays === undefined || atMs < this.startMs - silentSinceDays * DAY_MS),
    )
  }

  /** How far the battery of a probe that fades has come, within a day: 0 as before, 1 empty. */
  #faded(name: string, atMs: number): number {
    const fault = this.faults.find('fade', name)
    if (fault === null) return 0
    return Math.min(1, Math.max(0, ((atMs - fault.sinceMs) * fault.pace) / DAY_MS))
  }

  #seed(probe: ProbeSpec): number {
    return this.spec.seed + this.spec.probes.indexOf(probe) * 11
  }

  celsius(probe: ProbeSpec, atMs: number): number {
    const warmer = this.faults.has('hot', probe.name) ? 9 : 0
    const air = probe.rack === undefined ? undefined : this.inlet?.(probe.rack, atMs)
    return round((air ?? probe.celsius) + warmer + 0.8 * noise(this.#seed(probe), atMs, 2_700_000), 1)
  }

  humidity(probe: ProbeSpec, atMs: number): number {
    return round(0.46 + 0.05 * noise(this.#seed(probe) + 3, atMs, 5_400_000), 3)
  }

  charge(probe: ProbeSpec, atMs: number): number {
    const days = (atMs - this.startMs) / DAY_MS
    const full = 0.9 - (this.#seed(probe) % 5) / 20 - days * 0.0004
    return round(full * (1 - this.#faded(probe.name, atMs)), 2)
  }

  signal(probe: ProbeSpec, atMs: number): number {
    return Math.round(
      -62 -
        (this.#seed(probe) % 17) -
        30 * this.#faded(probe.name, atMs) +
        3 * noise(this.#seed(probe) + 5, atMs, 1_200_000),
    )
  }

  isOpen(door: string, atMs: number): boolean {
    if (this.faults.has('open-door', door)) return true
    // People come and go by day.
    const hour = (atMs % DAY_MS) / 3_600_000
    return hour > 6 && hour < 17 && noise(this.spec.seed + door.length, atMs, 300_000) > 0.93
  }

  wetness(rope: string): number {
    return this.faults.has('wet-rope', rope) ? 2 : 0
  }

  /** The gateway's metrics as an OpenMetrics 1.0 document. */
  metricsAt(atMs: number): string {
    const heard = this.heardAt(atMs)
    const family = (head: readonly string[], name: string, value: (probe: ProbeSpec) => number): string[] => [
      ...head,
      ...heard.map((probe) => `${name}{probe="${probe.name}",place="${probe.place}"} ${value(probe)}`),
    ]
    const states = (
      head: string,
      name: string,
      label: string,
      all: readonly string[],
      value: (each: string) => number,
    ) =>
      all.length === 0
        ? []
        : [
            `# TYPE ${name} gauge`,
            `# HELP ${name} ${head}`,
            ...all.map((each) => `${name}{${label}="${each}"} ${value(each)}`),
          ]
    return [
      ...family(
        [
          '# TYPE probe_temperature_celsius gauge',
          '# UNIT probe_temperature_celsius celsius',
          '# HELP probe_temperature_celsius Air at the probe.',
        ],
        'probe_temperature_celsius',
        (probe) => this.celsius(probe, atMs),
      ),
      ...family(
        ['# TYPE probe_humidity_ratio gauge', '# HELP probe_humidity_ratio Relative humidity.'],
        'probe_humidity_ratio',
        (probe) => this.humidity(probe, atMs),
      ),
      ...family(
        ['# TYPE probe_battery_charge_ratio gauge', '# HELP probe_battery_charge_ratio Its cell.'],
        'probe_battery_charge_ratio',
        (probe) => this.charge(probe, atMs),
      ),
      ...family(
        ['# TYPE probe_signal_dbm gauge', '# HELP probe_signal_dbm How loud it is heard.'],
        'probe_signal_dbm',
        (probe) => this.signal(probe, atMs),
      ),
      ...states('1 when open.', 'door_open', 'door', this.spec.doors, (door) =>
        this.isOpen(door, atMs) ? 1 : 0,
      ),
      ...states('2 when wet.', 'rope_wet', 'rope', this.spec.ropes, (rope) => this.wetness(rope)),
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
