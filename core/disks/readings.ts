import type { MeasureKey } from '../catalogue/index.ts'
import { type AtaSmart, decodeAtaSmart, tripped } from './ata.ts'
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
  return {
    readings: [
      health(isFailing, page.warnings.length > 0),
      { measure: 'hw.drive.predicted_failure' as const, value: page.warnings.length > 0 ? 1 : 0 },
      { measure: 'hw.temperature' as const, value: page.celsius },
      { measure: 'hw.drive.life_left' as const, value: Math.max(0, Math.round((1 - page.used) * 100) / 100) },
      { measure: 'hw.drive.spare' as const, value: page.spare },
      { measure: 'hw.drive.media_errors' as const, value: Number(page.mediaErrors) },
      { measure: 'hw.drive.written' as const, value: Number(page.bytesWritten) },
      { measure: 'hw.drive.power_on' as const, value: Number(page.powerOnHours) },
    ],
    facts: { warnings: page.warnings.join('; ') },
  }
}

/** Attributes that most makers give the same meaning. */
const COUNTS: readonly { readonly id: number; readonly measure: MeasureKey; readonly bits: bigint }[] = [
  { id: 5, measure: 'hw.drive.reallocated', bits: 32n },
  { id: 197, measure: 'hw.drive.pending', bits: 32n },
  { id: 187, measure: 'hw.drive.media_errors', bits: 16n },
  { id: 199, measure: 'hw.drive.link_errors', bits: 32n },
  { id: 9, measure: 'hw.drive.power_on', bits: 32n },
]
/** Which tell the life that is left by their value in percent, the first that there is. */
const LIFE = [231, 202, 233, 177]
const WRITTEN = 241
const SECTOR = 512

function ofAta(page: AtaSmart) {
  const of = (id: number) => page.attributes.find((each) => each.id === id)
  const bad = tripped(page)
  const temperature = of(194) ?? of(190)
  const life = LIFE.map(of).find((each) => each !== undefined)
  const written = of(WRITTEN)
  const readings: DriveReading[] = [
    health(bad.length > 0, false),
    { measure: 'hw.drive.predicted_failure', value: bad.length > 0 ? 1 : 0 },
    // The lowest octet; what stands above it is least and most at some makers.
    ...(temperature === undefined
      ? []
      : [{ measure: 'hw.temperature' as const, value: Number(BigInt.asIntN(8, temperature.raw)) }]),
    ...(life === undefined
      ? []
      : [{ measure: 'hw.drive.life_left' as const, value: Math.min(100, life.value) / 100 }]),
    ...(written === undefined
      ? []
      : [{ measure: 'hw.drive.written' as const, value: Number(written.raw) * SECTOR }]),
    ...COUNTS.flatMap(({ id, measure, bits }) => {
      const attribute = of(id)
      return attribute === undefined
        ? []
        : [{ measure, value: Number(BigInt.asUintN(Number(bits), attribute.raw)) }]
    }),
  ]
  const facts = { warnings: bad.map(({ id }) => `attribute ${id} is at its threshold`).join('; ') }
  return { readings, facts }
}
