import type { MeasureKey } from '../catalogue/index.ts'
import { type AtaSmart, decodeAtaSmart, tripped } from './ata.ts'
import { attributeCount } from './attributes.ts'
import { decodeNvmeHealth, type NvmeHealth } from './nvme.ts'

/** A page of a drive as it was read from it. */
export type DrivePage =
  | { readonly kind: 'nvme-health'; readonly data: Uint8Array }
  | { readonly kind: 'ata-smart'; readonly data: Uint8Array; readonly thresholds: Uint8Array | null }

export interface DriveReading {
  readonly measure: MeasureKey
  readonly value: number | null
}

/** What a page says, as measures and as facts in words. @throws RangeError when the page cannot be one */
export function readDrivePage(page: DrivePage): {
  readonly readings: readonly DriveReading[]
  readonly facts: Readonly<Record<string, string>>
} {
  return page.kind === 'nvme-health'
    ? ofNvme(decodeNvmeHealth(page.data))
    : ofAta(decodeAtaSmart(page.data, page.thresholds))
}

const health = (isFailing: boolean, isWarned: boolean): DriveReading => ({
  measure: 'hw.status',
  value: isFailing ? 2 : isWarned ? 1 : 0,
})

function ofNvme(page: NvmeHealth) {
  const isFailing = page.warnings.some((warning) => /reliable|read-only/.test(warning))
  const counts: readonly (readonly [MeasureKey, bigint])[] = [
    ['hw.drive.media_errors', page.mediaErrors],
    ['hw.drive.written', page.bytesWritten],
    ['hw.drive.read', page.bytesRead],
    ['hw.drive.power_on', page.powerOnHours],
    ['hw.drive.commands.read', page.readCommands],
    ['hw.drive.commands.written', page.writeCommands],
    ['hw.drive.busy', page.busyMinutes],
    ['hw.drive.power_cycles', page.powerCycles],
    ['hw.drive.unsafe_shutdowns', page.unsafeShutdowns],
    ['hw.drive.error_entries', page.errorEntries],
  ]
  const percent = (ratio: number): number => Math.round(ratio * 100) / 100
  const readings: DriveReading[] = [
    health(isFailing, page.warnings.length > 0),
    { measure: 'hw.drive.predicted_failure', value: page.warnings.length > 0 ? 1 : 0 },
    { measure: 'hw.drive.read_only', value: page.isReadOnly ? 1 : 0 },
    { measure: 'hw.temperature', value: page.celsius },
    // What is left ends at nothing; what is used goes on beyond the whole.
    { measure: 'hw.drive.life_left', value: Math.max(0, percent(1 - page.used)) },
    { measure: 'hw.drive.used', value: page.used },
    { measure: 'hw.drive.spare', value: page.spare },
    { measure: 'hw.drive.spare_margin', value: percent(page.spare - page.spareThreshold) },
    ...counts.map(([measure, count]) => ({ measure, value: Number(count) })),
    { measure: 'hw.drive.warm', value: page.warmMinutes },
    { measure: 'hw.drive.hot', value: page.hotMinutes },
  ]
  return { readings, facts: { warnings: [...page.warnings, ...page.groupWarnings].join('; ') } }
}

/** Attributes that most makers give the same meaning. */
const COUNTS: readonly { readonly id: number; readonly measure: MeasureKey }[] = [
  { id: 5, measure: 'hw.drive.reallocated' },
  { id: 197, measure: 'hw.drive.pending' },
  { id: 198, measure: 'hw.drive.uncorrectable' },
  { id: 187, measure: 'hw.drive.media_errors' },
  { id: 199, measure: 'hw.drive.link_errors' },
  { id: 9, measure: 'hw.drive.power_on' },
  { id: 12, measure: 'hw.drive.power_cycles' },
]
/** Which tell the life that is left by their value in percent, the first that there is. */
const LIFE = [231, 202, 233, 177]
const [WRITTEN, READ] = [241, 242]
const SECTOR = 512

/** The series of an attribute: what it counts, or the value that its maker holds against the threshold. */
export const attributeKey = (id: number, what: 'count' | 'value'): MeasureKey =>
  `hw.drive.attribute.${id}${what === 'value' ? '.value' : ''}` as MeasureKey

function ofAta(page: AtaSmart) {
  const of = (id: number) => page.attributes.find((each) => each.id === id)
  const bad = tripped(page)
  const temperature = of(194) ?? of(190)
  const life = LIFE.map(of).find((each) => each !== undefined)
  const bytes = (id: number, measure: MeasureKey): DriveReading[] => {
    const sectors = of(id)
    return sectors === undefined ? [] : [{ measure, value: Number(sectors.raw) * SECTOR }]
  }
  const readings: DriveReading[] = [
    health(bad.length > 0, false),
    { measure: 'hw.drive.predicted_failure', value: bad.length > 0 ? 1 : 0 },
    // The lowest octet; what stands above it is least and most at some makers.
    ...(temperature === undefined
      ? []
      : [{ measure: 'hw.temperature' as const, value: attributeCount(194, temperature.raw) }]),
    ...(life === undefined
      ? []
      : [{ measure: 'hw.drive.life_left' as const, value: Math.min(100, life.value) / 100 }]),
    ...bytes(WRITTEN, 'hw.drive.written'),
    ...bytes(READ, 'hw.drive.read'),
    ...COUNTS.flatMap(({ id, measure }) => {
      const attribute = of(id)
      return attribute === undefined ? [] : [{ measure, value: attributeCount(id, attribute.raw) }]
    }),
    ...page.attributes.flatMap(({ id, raw, value }) => [
      { measure: attributeKey(id, 'count'), value: attributeCount(id, raw) },
      { measure: attributeKey(id, 'value'), value },
    ]),
  ]
  const facts = { warnings: bad.map(({ id }) => `attribute ${id} is at its threshold`).join('; ') }
  return { readings, facts }
}
