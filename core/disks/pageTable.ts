import type { MeasureKey } from '../catalogue/index.ts'
import { decodeAtaSmart } from './ata.ts'
import { attributeName, attributeWhy, attributeWords, grouped } from './attributes.ts'
import { decodeNvmeHealth } from './nvme.ts'
import { attributeKey, type DrivePage } from './readings.ts'

/** A field or an attribute of a page, as a line of its table. */
export interface PageRow {
  readonly name: string
  /** In words; `null` where nobody here knows how it is packed. */
  readonly words: string | null
  /** As it stands in the page; in hexadecimal, the highest octet first. Of fields with a fixed meaning `null`. */
  readonly raw: string | null
  /** Which series its curve is. */
  readonly measure: MeasureKey | null
  readonly why: string | null
  readonly isTrouble: boolean
  readonly ata: {
    readonly id: number
    readonly warnsOf: 'failure' | 'age'
    readonly value: number
    readonly worst: number
    readonly threshold: number | null
  } | null
}

/** Everything that a page says, line by line. @throws RangeError when the page cannot be one */
export function pageTable(page: DrivePage): PageRow[] {
  return page.kind === 'nvme-health' ? nvmeRows(page.data) : ataRows(page.data, page.thresholds)
}

function nvmeRows(data: Uint8Array): PageRow[] {
  const page = decodeNvmeHealth(data)
  const row = (
    name: string,
    words: string,
    measure: MeasureKey | null = null,
    { why = null, isTrouble = false }: { readonly why?: string | null; readonly isTrouble?: boolean } = {},
  ): PageRow => ({ name, words, raw: null, measure, why, isTrouble, ata: null })
  const percent = (ratio: number): string => `${Math.round(ratio * 100)} %`
  const warnings = [...page.warnings, ...page.groupWarnings]
  const isOf = (count: bigint | number, unit: string): string => `${grouped(count)} ${unit}`
  return [
    row(
      'Critical warnings',
      warnings.length === 0 ? 'none' : warnings.join('; '),
      'hw.drive.predicted_failure',
      {
        isTrouble: warnings.length > 0,
      },
    ),
    row('Temperature', page.celsius === null ? 'not told' : `${page.celsius} °C`, 'hw.temperature'),
    row('Spare left', percent(page.spare), 'hw.drive.spare', {
      why: 'Blocks that replace those that fail. Below its threshold the drive warns.',
      isTrouble: page.spare < page.spareThreshold,
    }),
    row('Threshold of the spare', percent(page.spareThreshold), 'hw.drive.spare_margin'),
    row('Endurance used', percent(page.used), 'hw.drive.used', {
      why: 'Of what its maker promises. It goes on beyond 100 %: the drive works, and nobody promises for how long.',
      isTrouble: page.used >= 1,
    }),
    row('Read', isOf(page.bytesRead, 'B'), 'hw.drive.read'),
    row('Written', isOf(page.bytesWritten, 'B'), 'hw.drive.written'),
    row('Read commands', grouped(page.readCommands), 'hw.drive.commands.read'),
    row('Write commands', grouped(page.writeCommands), 'hw.drive.commands.written'),
    row('Busy with commands', isOf(page.busyMinutes, 'min'), 'hw.drive.busy'),
    row('Power cycles', grouped(page.powerCycles), 'hw.drive.power_cycles'),
    row('Powered on', isOf(page.powerOnHours, 'h'), 'hw.drive.power_on'),
    row('Unsafe shutdowns', grouped(page.unsafeShutdowns), 'hw.drive.unsafe_shutdowns', {
      why: 'Power went away without notice. What was in flight may be lost.',
    }),
    row('Media errors', grouped(page.mediaErrors), 'hw.drive.media_errors', {
      why: 'Data that it could not give back, or gave back wrong and noticed.',
      isTrouble: page.mediaErrors > 0n,
    }),
    row('Entries in its error log', grouped(page.errorEntries), 'hw.drive.error_entries', {
      why: 'Most are commands that it did not know, and no harm.',
    }),
    row('Above its warning temperature', isOf(page.warmMinutes, 'min'), 'hw.drive.warm'),
    row('Above its critical temperature', isOf(page.hotMinutes, 'min'), 'hw.drive.hot', {
      isTrouble: page.hotMinutes > 0,
    }),
    ...page.sensors.map(({ number, celsius }) => row(`Sensor ${number}`, `${celsius} °C`)),
    ...page.throttled.map(({ times, seconds }, index) =>
      row(
        `Slowed down ${index === 0 ? 'lightly' : 'heavily'} for its temperature`,
        `${grouped(times)} times, ${grouped(seconds)} s in all`,
      ),
    ),
  ]
}

/** 48 bits. */
const HEX_DIGITS = 12

function ataRows(data: Uint8Array, thresholds: Uint8Array | null): PageRow[] {
  return decodeAtaSmart(data, thresholds).attributes.map(
    ({ id, isPrefailure, value, worst, raw, threshold }) => ({
      name: attributeName(id) ?? 'known to its maker alone',
      words: attributeWords(id, raw),
      raw: raw.toString(16).padStart(HEX_DIGITS, '0'),
      measure: attributeKey(id, 'count'),
      why: attributeWhy(id),
      isTrouble: threshold !== null && threshold > 0 && value <= threshold,
      ata: { id, warnsOf: isPrefailure ? 'failure' : 'age', value, worst, threshold },
    }),
  )
}
