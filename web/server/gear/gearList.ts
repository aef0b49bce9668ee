import { GEAR_STATES, type GearListRow, tagsOf } from '#core/gear'
import { listGear } from '#db/gear'
import type { Present } from '../platform/present.ts'
import { placeOf } from './inventory.ts'

/** So many rows of a long list come with the page; the rest when it is open. */
export const FIRST_ROWS = 100

/**
 * Gear with its state: what needs attention first, then by name.
 * @param most the first of it; all when not said
 */
export async function loadGearList(present: Present, most?: number): Promise<GearListRow[]> {
  const states = await present.states()
  const [gear, rules, alerts] = await Promise.all([
    listGear(present.db, most, [...states.keys()]),
    present.tagRules(),
    present.openAlerts(),
  ])
  const open = new Map<number, number>()
  for (const { gearId } of alerts) if (gearId !== null) open.set(gearId, (open.get(gearId) ?? 0) + 1)
  const rows = gear.map((each) => ({
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
  return rows.sort((a, b) => GEAR_STATES.indexOf(a.state) - GEAR_STATES.indexOf(b.state))
}
