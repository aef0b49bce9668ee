import { placeLabel } from '#core/topology'
import { listGear } from '#db/gear'
import { listSources } from '#db/sources'
import { silentSourceIds, stateOf } from '$lib/server/gearStates'
import { installation } from '$lib/server/installation'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ depends }) => {
  depends('rack:live')
  const { db } = installation()
  const [gear, sources] = await Promise.all([listGear(db), listSources(db)])
  const silent = silentSourceIds(sources, Date.now())
  return {
    gear: gear.map((each) => {
      const position =
        each.unit === null || each.heightUnits === null
          ? null
          : { unit: each.unit, heightUnits: each.heightUnits }
      return {
        id: each.id,
        name: each.name,
        kind: each.kind,
        state: stateOf(each, silent),
        model: each.facts['model'] ?? '',
        serial: each.facts['serial'] ?? '',
        place: placeLabel({ room: each.roomName, rack: each.rackName, position, onName: each.onName }),
        openCount: each.openSeverities.length,
        sourceCount: each.sourceIds.length,
      }
    }),
  }
}
