import { FaultBoard } from './faults.ts'
import { noise, round } from './noise.ts'

const DAY_MS = 86_400_000

export interface VolumeSpec {
  readonly namespace: string
  readonly name: string
  readonly uuid: string
  readonly capacityBytes: number
  readonly usedRatio: number
  /** Its claim has been waiting since so many days before the demo began. */
  readonly pendingSinceDays: number | null
}

/** Container volumes and their claims, as the cluster tells of them. */
export class SimVolumes {
  readonly faults = new FaultBoard(['lose-claim', 'fill-volume', 'silent', 'garbage', 'deny'])

  constructor(
    readonly spec: { readonly name: string; readonly volumes: readonly VolumeSpec[] },
    readonly startMs: number,
  ) {}

  /** Whether it is there at all yet. */
  exists({ pendingSinceDays }: VolumeSpec, atMs: number): boolean {
    return pendingSinceDays === null || atMs >= this.startMs - pendingSinceDays * DAY_MS
  }

  /** 0 bound, 1 pending, 2 lost. */
  claim(volume: VolumeSpec): number {
    if (this.faults.has('lose-claim', volume.name)) return 2
    return volume.pendingSinceDays === null ? 0 : 1
  }

  usedRatio(volume: VolumeSpec, atMs: number): number | null {
    if (volume.pendingSinceDays !== null) return null
    const days = (atMs - this.startMs) / DAY_MS
    const fault = this.faults.find('fill-volume', volume.name)
    const filling = fault === null ? 0 : ((atMs - fault.sinceMs) / 1_800_000) * 0.3 * fault.pace
    const own = volume.usedRatio + days * 0.0003 + 0.02 * noise(volume.name.length * 31, atMs, 10_800_000)
    return round(Math.min(0.99, Math.max(0.01, own + filling)), 4)
  }

  inodesRatio(volume: VolumeSpec, atMs: number): number | null {
    const used = this.usedRatio(volume, atMs)
    return used === null ? null : round(used * 0.4, 4)
  }
}
