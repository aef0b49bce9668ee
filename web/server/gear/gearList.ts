import { type GearListRow, tagsOf } from '#core/gear'
import { listGear } from '#db/gear'
import type { Present } from '../platform/present.ts'
import { placeOf } from './inventory.ts'

/** So many rows of a long list come with the page; the rest when it is open. */
export const FIRST_ROWS = 100

/**
 * Gear by name with its state.
 * @param most the first of it; all when not said
 */
export async function loadGearList(present: Present, most?: number): Promise<GearListRow[]> {
  const [gear, rules, states, alerts] = await Promise.all([
    listGear(present.db, most),
    present.tagRules(),
    present.states(),
    present.openAlerts(),
  ])
  const open = new Map<number, number>()
  for (const { gearId } of alerts) if (gearId !== null) open.set(gearId, (open.get(gearId) ?? 0) + 1)
  return gear.map((each) => ({
    id: each.id,
    name: each.name,
    kind: each.kind,
    state: states.get(each.id) ?? 'well',
    model: each.facts['model'] ?? '',
    serial: each.facts['serial'] ?? '',
    place: placeOf(each),
    tags: tagsOf(each, rules),
    openCount: open.get(each.id) ?? 0,
  }))
}
