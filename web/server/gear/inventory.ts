import { GEAR_KINDS, PART_KINDS } from '#core/catalogue'
import { placeLabel } from '#core/site'
import { tagsOf } from '#core/gear'
import type { Db } from '#db/platform'
import {
  type GearRow,
  listGear,
  listTagRules,
  type TagRuleRow,
  type FeedRow,
  listAllParts,
  listFeeds,
  listOwnFields,
  type OwnField,
} from '#db/gear'
import type { Present } from '../platform/present.ts'

/** One gear as it stands in the inventory. */
export interface InventoryRow {
  readonly id: number
  readonly name: string
  /** In words: “Server”. */
  readonly kind: string
  readonly maker: string
  readonly model: string
  readonly serial: string
  readonly firmware: string
  readonly warrantyEnds: string | null
  readonly place: string
  readonly feeds: string
  readonly sources: string
  readonly tags: string
  readonly firstSeen: string
  readonly lastSeen: string
  /** Fields of one's own: name and value. */
  readonly own: readonly (readonly [name: string, value: string])[]
}

const day = (at: Date | null): string => (at === null ? '' : at.toISOString().slice(0, 10))

export function inventoryRow(
  gear: GearRow,
  feeds: FeedRow | undefined,
  fields: readonly OwnField[],
  rules: readonly TagRuleRow[],
): InventoryRow {
  const fact = (name: string): string => gear.facts[name] ?? ''
  return {
    id: gear.id,
    name: gear.name,
    kind: GEAR_KINDS[gear.kind].label,
    maker: fact('maker'),
    model: fact('model'),
    serial: fact('serial'),
    firmware: fact('firmware'),
    warrantyEnds: gear.warrantyEnds,
    place: placeOf(gear) ?? '',
    feeds: feeds?.feeds.join(', ') ?? '',
    sources: feeds?.sources.join(', ') ?? '',
    tags: tagsOf(gear, rules).join(', '),
    firstSeen: day(gear.createdAt),
    lastSeen: day(feeds?.lastHeardAt ?? null),
    own: fields.map(({ name }) => [name, gear.own[name] ?? ''] as const),
  }
}

export const placeOf = (gear: GearRow): string | null =>
  placeLabel({
    room: gear.roomName,
    rack: gear.rackName,
    position:
      gear.unit === null || gear.heightUnits === null
        ? null
        : { unit: gear.unit, heightUnits: gear.heightUnits },
    face: gear.face,
    onName: gear.onName,
  })

/**
 * Gear for the inventory, by name.
 * @param most the first of it; all when not said
 */
export async function loadInventory(db: Db, most?: number): Promise<InventoryRow[]> {
  const [gear, feeds, fields, rules] = await Promise.all([
    listGear(db, most),
    listFeeds(db),
    listOwnFields(db),
    listTagRules(db),
  ])
  return gear.map((each) => inventoryRow(each, feeds.get(each.id), fields, rules))
}

export async function inventoryOf(
  { db, ownFields, tagRules }: Pick<Present, 'db' | 'ownFields' | 'tagRules'>,
  gear: GearRow,
): Promise<InventoryRow> {
  const [feeds, fields, rules] = await Promise.all([listFeeds(db, gear.id), ownFields(), tagRules()])
  return inventoryRow(gear, feeds.get(gear.id), fields, rules)
}

/** One part as it stands in the inventory. */
export interface PartInventoryRow {
  readonly id: number
  readonly gearId: number
  readonly name: string
  readonly gear: string
  readonly kind: string
  readonly model: string
  readonly serial: string
  readonly firmware: string
  readonly place: string
  readonly firstSeen: string
  readonly warrantyEnds: null
}

/**
 * Parts that are there, by gear.
 * @param most the first of them; all when not said
 */
export async function loadPartInventory(db: Db, most?: number): Promise<PartInventoryRow[]> {
  // The parts of the first gear by name are the first parts.
  const [gear, parts] = await Promise.all([listGear(db, most), listAllParts(db, most)])
  const of = new Map(gear.map((each) => [each.id, each]))
  return parts.flatMap(({ id, gearId, name, kind, facts, firstSeenAt }) => {
    const whole = of.get(gearId)
    if (whole === undefined) return []
    const fact = (key: string): string => facts[key] ?? ''
    return [
      {
        id,
        gearId,
        name,
        gear: whole.name,
        kind: PART_KINDS[kind].label,
        model: fact('model'),
        serial: fact('serial'),
        firmware: fact('firmware'),
        place: placeOf(whole) ?? '',
        firstSeen: day(firstSeenAt),
        warrantyEnds: null,
      },
    ]
  })
}
