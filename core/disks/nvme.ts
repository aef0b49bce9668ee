/** Critical warnings, by the bits of octet 0. */
export const NVME_WARNINGS = [
  'the spare is below its threshold',
  'a temperature is out of its range',
  'it is no longer reliable',
  'it is read-only now',
  'its volatile memory is not backed up any more',
  'its persistent memory region is unreliable',
] as const
/** Warnings of the endurance groups, by the bits of octet 6. */
const GROUP_WARNINGS: Readonly<Record<number, string>> = {
  0: 'the spare of an endurance group is below its threshold',
  2: 'an endurance group is no longer reliable',
  3: 'an endurance group is read-only now',
}

/** NVM Express Base Specification 2.0, “SMART / Health Information” (log identifier 02h), 512 octets. */
export interface NvmeHealth {
  readonly warnings: readonly string[]
  readonly isReadOnly: boolean
  readonly groupWarnings: readonly string[]
  /** °C; `null` where none is told. */
  readonly celsius: number | null
  /** 0..1 */
  readonly spare: number
  readonly spareThreshold: number
  /** Of its rated endurance, 0..2.55: it may go beyond 1. */
  readonly used: number
  readonly bytesRead: bigint
  readonly bytesWritten: bigint
  readonly readCommands: bigint
  readonly writeCommands: bigint
  readonly busyMinutes: bigint
  readonly powerCycles: bigint
  readonly powerOnHours: bigint
  readonly unsafeShutdowns: bigint
  readonly mediaErrors: bigint
  readonly errorEntries: bigint
  /** Above the temperature that warns, and above the critical one. */
  readonly warmMinutes: number
  readonly hotMinutes: number
  /** Sensors 1 to 8 that there are, °C. */
  readonly sensors: readonly { readonly number: number; readonly celsius: number }[]
  /** Thermal management, lightly and heavily: how often, and seconds in all. */
  readonly throttled: readonly [Throttled, Throttled]
}
interface Throttled {
  readonly times: number
  readonly seconds: number
}

const SIZE = 512
const KELVIN = 273
/** A data unit is a thousand of 512 octets. */
const DATA_UNIT = 512_000n

/** Temperatures are in kelvin; 0 is none. */
const celsiusOf = (kelvin: number): number | null => (kelvin === 0 ? null : kelvin - KELVIN)

/** @throws RangeError when it cannot be such a page */
export function decodeNvmeHealth(page: Uint8Array): NvmeHealth {
  if (page.length !== SIZE) throw new RangeError(`a health page has ${SIZE} octets, this has ${page.length}`)
  if (page.every((octet) => octet === page[0])) throw new RangeError('the health page is empty')
  const view = new DataView(page.buffer, page.byteOffset, page.byteLength)
  const percent = (at: number): number => view.getUint8(at) / 100
  const wide = (at: number): bigint => view.getBigUint64(at, true) | (view.getBigUint64(at + 8, true) << 64n)
  const kelvin = (at: number): number | null => celsiusOf(view.getUint16(at, true))
  const count = (at: number): number => view.getUint32(at, true)
  return {
    warnings: NVME_WARNINGS.filter((_, bit) => (view.getUint8(0) >> bit) & 1),
    isReadOnly: ((view.getUint8(0) >> 3) & 1) === 1,
    groupWarnings: Object.entries(GROUP_WARNINGS).flatMap(([bit, words]) =>
      (view.getUint8(6) >> Number(bit)) & 1 ? [words] : [],
    ),
    celsius: kelvin(1),
    spare: percent(3),
    spareThreshold: percent(4),
    used: percent(5),
    bytesRead: wide(32) * DATA_UNIT,
    bytesWritten: wide(48) * DATA_UNIT,
    readCommands: wide(64),
    writeCommands: wide(80),
    busyMinutes: wide(96),
    powerCycles: wide(112),
    powerOnHours: wide(128),
    unsafeShutdowns: wide(144),
    mediaErrors: wide(160),
    errorEntries: wide(176),
    warmMinutes: count(192),
    hotMinutes: count(196),
    sensors: Array.from({ length: 8 }, (_, index) => kelvin(200 + index * 2)).flatMap((celsius, index) =>
      celsius === null ? [] : [{ number: index + 1, celsius }],
    ),
    throttled: [
      { times: count(216), seconds: count(224) },
      { times: count(220), seconds: count(228) },
    ],
  }
}
