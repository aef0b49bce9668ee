import { hash01, noise } from './noise.ts'

/** A drive as its electronics could measure it. */
export interface DriveState {
  readonly serial: string
  readonly model: string
  readonly firmware: string
  readonly capacityBytes: number
  /** 0..1 of its endurance; may be below nothing. */
  readonly lifeLeft: number
  readonly ratedBytes: number
  readonly writtenBytes: number
  readonly readBytes: number
  readonly readCommands: number
  readonly writeCommands: number
  readonly busyMinutes: number
  /** Percent. */
  readonly spare: number
  readonly powerOnHours: number
  readonly powerCycles: number
  readonly unsafeShutdowns: number
  readonly celsius: number
  readonly fails: boolean
}

/** What a maker promises of a model. */
export interface DriveModel {
  readonly model: string
  readonly firmware: string
  readonly capacityBytes: number
  readonly ratedBytes: number
  readonly protocol: 'NVMe' | 'SAS' | 'SATA'
}

const TB = 1e12
const model = (
  name: string,
  firmware: string,
  capacityBytes: number,
  ratedTb: number,
  protocol: DriveModel['protocol'],
): DriveModel => ({ model: name, firmware, capacityBytes, ratedBytes: ratedTb * TB, protocol })

export const Q4 = model('Aldermoor Q4 3.8T', 'GQ21', 3_840_755_982_336, 7_008, 'NVMe')
export const Q2 = model('Aldermoor Q2 7.6T', 'Q2A7', 7_681_501_126_656, 14_016, 'SAS')
export const S1 = model('Aldermoor S1 1.9T', 'S1K3', 1_920_383_410_176, 3_504, 'SATA')
export const S2 = model('Aldermoor S2 0.9T', 'S2B1', 960_197_124_096, 1_752, 'SATA')

const HOUR_MS = 3_600_000
/** New so long before the demo began. */
const AGE_HOURS = 14_000

/** From what is left of its life follows what was written; the rest goes by the hour. */
export function driveState(
  of: DriveModel,
  given: {
    readonly serial: string
    readonly lifeLeft: number
    readonly seed: number
    readonly startMs: number
    readonly isNew?: boolean
    readonly fails: boolean
  },
  atMs: number,
): DriveState {
  const { seed, lifeLeft } = given
  const hours = Math.floor((atMs - given.startMs) / HOUR_MS)
  const written = Math.max(0, Math.round((1 - lifeLeft) * of.ratedBytes))
  const read = Math.round(written * (2 + hash01(seed, 3)))
  const powerOnHours = Math.max(
    0,
    given.isNew === true ? hours : AGE_HOURS + Math.round(hash01(seed, 1) * 900) + hours,
  )
  return {
    serial: given.serial,
    model: of.model,
    firmware: of.firmware,
    capacityBytes: of.capacityBytes,
    lifeLeft,
    ratedBytes: of.ratedBytes,
    writtenBytes: written,
    readBytes: read,
    readCommands: Math.round(read / 65_536),
    writeCommands: Math.round(written / 32_768),
    busyMinutes: powerOnHours * 4,
    spare: given.fails ? 4 : Math.round(100 - Math.max(0, 0.3 - lifeLeft) * 40),
    powerOnHours,
    powerCycles: 18 + Math.round(hash01(seed, 2) * 20),
    unsafeShutdowns: Math.round(hash01(seed, 4) * 4),
    celsius: Math.round(36 + 4 * hash01(seed, 5) + 2 * noise(seed, atMs, 600_000)),
    fails: given.fails,
  }
}
