import { fail } from '@sveltejs/kit'
import { gearKindOf } from '#core/measures'
import { mayDo } from '#db/accounts'
import { listGear } from '#db/gear'
import { insertRack, insertRoom, listRacks, listRooms, placeGearInRack } from '#db/places'
import { recordChange } from '#db/settings'
import { listSources } from '#db/sources'
import { firstProblem, placing, rack, room } from '$lib/server/forms'
import { silentSourceIds } from '$lib/server/gearStates'
import { installation } from '$lib/server/installation'
import { gearDetails, roomViews } from '$lib/server/rackViews'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:live')
  const { db } = installation()
  const [rooms, racks, gear, sources] = await Promise.all([
    listRooms(db),
    listRacks(db),
    listGear(db),
    listSources(db),
  ])
  return {
    rooms: roomViews(rooms, racks, gear, silentSourceIds(sources, Date.now()), await gearDetails(db, gear)),
    unplaced: gear
      .filter((each) => each.rackId === null && gearKindOf(each.kind).isRacked)
      .map(({ id, name, kind }) => ({ id, name, kind })),
    placed: gear.filter((each) => each.rackId !== null).map(({ id, name }) => ({ id, name })),
    mayBuild: mayDo(locals.user!.role, 'administer'),
  }
}

const isTaken = (error: unknown): boolean =>
  error instanceof Error && 'code' in error && error.code === '23505'

export const actions: Actions = {
  addRoom: async ({ request, locals }) => {
    const parsed = room.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    try {
      await insertRoom(db, parsed.data.name)
    } catch (error) {
      if (isTaken(error)) return fail(400, { message: `There is a room ${parsed.data.name} already.` })
      throw error
    }
    await recordChange(db, locals.user!.name, `made room ${parsed.data.name}`)
    return { message: null }
  },
  addRack: async ({ request, locals }) => {
    const parsed = rack.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    try {
      await insertRack(db, parsed.data)
    } catch (error) {
      if (isTaken(error))
        return fail(400, { message: `There is a rack ${parsed.data.name} in this room already.` })
      throw error
    }
    await recordChange(db, locals.user!.name, `made rack ${parsed.data.name}`)
    return { message: null }
  },
  place: async ({ request, locals }) => {
    const parsed = placing.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { gearId, ...place } = parsed.data
    const { db } = installation()
    const outcome = await placeGearInRack(db, gearId, place)
    switch (outcome.kind) {
      case 'placed':
        await recordChange(
          db,
          locals.user!.name,
          `placed gear ${gearId} in rack ${place.rackId} at unit ${place.unit}`,
        )
        return { message: null }
      case 'occupied':
        return fail(400, {
          message: `Another gear stands between unit ${place.unit} and ${place.unit + place.heightUnits - 1}.`,
        })
      case 'outside':
        return fail(400, { message: `The rack has ${outcome.heightUnits} units; this would reach beyond.` })
      case 'unknown':
        return fail(400, { message: 'This rack or gear is not there any more.' })
      default:
        return outcome satisfies never
    }
  },
}
