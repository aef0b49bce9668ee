import type { MeasureKey } from '#core/catalogue'
import type { PartFinding, ReadingFinding } from '#core/gear'
import type { Status } from './schema.ts'

/** Redfish `Status.Health` (DSP0268 Resource): the numbers of our measure `hw.status`. */
const HEALTH: Record<string, number> = { OK: 0, Warning: 1, Critical: 2 }

export const isThere = (status: Status): boolean => status?.State !== 'Absent'
export const healthOf = (status: Status): number | null => HEALTH[status?.Health ?? ''] ?? null

export const factsOf = (
  entries: Record<string, string | number | null | undefined>,
): Record<string, string> =>
  Object.fromEntries(
    Object.entries(entries).flatMap(([key, value]) =>
      value == null || value === '' ? [] : [[key, String(value)]],
    ),
  )

type Values = Partial<Record<MeasureKey, number | null | undefined>>

/** Parts and readings of one gear, as they are come upon. */
export class Collected {
  readonly parts: PartFinding[] = []
  readonly readings: ReadingFinding[] = []

  constructor(private readonly gear: string) {}

  /** A part with its values; `undefined` is what the device does not have, `null` what it does not know now. */
  add(part: PartFinding, values: Values): void {
    const key = this.#uniqueKey(part.key)
    this.parts.push({ ...part, key })
    this.#read(key, values)
  }

  /** A place for a part that nothing is in. */
  addEmpty(part: Omit<PartFinding, 'facts' | 'idle'>): void {
    this.parts.push({ ...part, key: this.#uniqueKey(part.key), facts: {}, idle: 'empty' })
  }

  /** Two enclosures of one gear may each have a fan 0. */
  #uniqueKey(key: string): string {
    const same = this.parts.filter((part) => part.key === key || part.key.startsWith(`${key} #`)).length
    return same === 0 ? key : `${key} #${same + 1}`
  }

  /** Values of the gear itself. */
  own(values: Values): void {
    this.#read(null, values)
  }

  #read(part: string | null, values: Values): void {
    for (const [measure, value] of Object.entries(values))
      if (value !== undefined)
        this.readings.push({ gear: this.gear, part, measure: measure as MeasureKey, value })
  }
}

/** A value of an excerpt: `undefined` where the excerpt is not there. */
export const reading = (
  excerpt: { readonly Reading?: number | null | undefined } | null | undefined,
  factor = 1,
): number | null | undefined =>
  excerpt == null ? undefined : excerpt.Reading == null ? null : excerpt.Reading * factor
