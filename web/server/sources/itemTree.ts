import { formatReading, GEAR_KINDS, isMeasureKey, isPartKind, measureOf, PART_KINDS } from '#core/catalogue'
import { formatAgo } from '#core/units'
import type { Findings } from '#core/gear'
import type { Item } from '#db/sources'

export interface ItemView {
  readonly gearKey: string
  readonly partKey: string | null
  readonly kind: string
  readonly name: string
  readonly isWatched: boolean
  /** Why it is left out, waits, or where it went. */
  readonly note: string | null
  readonly isWaiting: boolean
  /** “41.2 °C”, “well”; empty where it has no value of its own. */
  readonly values: readonly { readonly label: string; readonly text: string }[]
}

export interface GearTree {
  readonly item: ItemView
  readonly detail: string
  /** Parts by kind, the kinds in the order in which the device gave them. */
  readonly groups: readonly {
    readonly kind: string
    readonly label: string
    readonly parts: readonly ItemView[]
  }[]
}

export interface Valued {
  readonly gear: string
  readonly part: string | null
  readonly measure: string
  readonly value: number | null
  /** When it was read; said only where others of its source are newer. */
  readonly atMs?: number
}

/** What a source has shown, as a tree of gear and parts with what each says now. */
export function itemTree(
  items: readonly Item[],
  values: readonly Valued[],
  facts: ReadonlyMap<string, Readonly<Record<string, string>>>,
  nowMs = 0,
): GearTree[] {
  const newestMs = Math.max(0, ...values.map(({ atMs = 0 }) => atMs))
  const shown = new Map<string, { label: string; text: string }[]>()
  for (const { gear, part, measure, value, atMs } of values) {
    if (value === null || !isMeasureKey(measure)) continue
    const key = `${gear}\n${part ?? ''}`
    const list = shown.get(key) ?? []
    const age = atMs === undefined || atMs === newestMs ? '' : ` (${formatAgo(atMs, nowMs)})`
    shown.set(key, [...list, { label: measureOf(measure).label, text: formatReading(measure, value) + age }])
  }
  const view = (item: Item): ItemView => ({
    gearKey: item.gearKey,
    partKey: item.partKey,
    kind: item.kind,
    name: item.name,
    isWatched: item.state === 'watched',
    isWaiting: item.state === 'waiting',
    note: item.goneAt === null ? item.why : 'not reported any more',
    values: shown.get(`${item.gearKey}\n${item.partKey ?? ''}`) ?? [],
  })
  return items
    .filter((item) => item.partKey === null)
    .map((gear) => {
      const parts = items.filter((item) => item.gearKey === gear.gearKey && item.partKey !== null)
      const kinds = [...new Set(parts.map((part) => part.kind))]
      const { maker, model, serial } = facts.get(gear.gearKey) ?? {}
      const label = GEAR_KINDS[gear.kind as keyof typeof GEAR_KINDS].label
      return {
        item: view(gear),
        detail: [label, named(maker, model), serial].filter(Boolean).join(' · '),
        groups: kinds.map((kind) => ({
          kind,
          label: isPartKind(kind) ? PART_KINDS[kind].label : kind,
          parts: parts.filter((part) => part.kind === kind).map(view),
        })),
      }
    })
}

/** A maker whose name stands in the model already is not said twice. */
const named = (maker = '', model = ''): string =>
  model.toLowerCase().startsWith(maker.toLowerCase()) ? model : `${maker} ${model}`.trim()

export const factsOf = (findings: Findings): Map<string, Readonly<Record<string, string>>> =>
  new Map(findings.gear.map(({ key, facts }) => [key, facts]))
