import { fail } from '@sveltejs/kit'
import { gearKindOf } from '#core/catalogue'
import { isPlanSubject } from '#core/site'
import { mayDo } from '#db/accounts'
import { announce, recordChange } from '#db/platform'
import { deleteRack, insertRack, insertRoom, listRooms, updateRoom } from '#db/site'
import { firstProblem, rack, room } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { importPlan } from '$lib/server/site/planFile'
import { Refused } from '$lib/server/platform/refused'
import { roomSentence } from '$lib/server/site/roomSentence'
import { listSeen, loadRooms, roomStates } from '$lib/server/site/roomViews'
import type { Actions, PageServerLoad } from './$types'

const VIEWS = ['plan', 'front', 'rear'] as const

export const load: PageServerLoad = async ({ locals, depends, url }) => {
  depends('rack:live')
  const { db } = installation()
  const nowMs = Date.now()
  const [rooms, seen] = await Promise.all([listRooms(db), listSeen(db, nowMs)])
  const asked = Number(url.searchParams.get('room'))
  const chosen = rooms.find(({ id }) => id === asked) ?? rooms[0] ?? null
  const shown = chosen === null ? null : (await loadRooms(db, nowMs, chosen.id, seen))[0]!
  const states = roomStates(seen)
  const subject = url.searchParams.get('show')
  const plan = isPlanSubject(subject) ? subject : 'state'
  const mayBuild = mayDo(locals.user!.role, 'administer')
  return {
    rooms: rooms.map(({ id, name, building }) => ({ id, name, building, state: states.get(id) ?? 'well' })),
    room: shown,
    sentence: shown === null ? 'No room is drawn yet.' : roomSentence(shown, plan),
    subject: plan,
    view: VIEWS.find((view) => view === url.searchParams.get('view')) ?? 'plan',
    stock: mayBuild
      ? seen.gear
          .filter(
            (each) =>
              // A blade stands where its chassis does.
              each.roomId === null &&
              each.onName === null &&
              (gearKindOf(each.kind).isRacked || gearKindOf(each.kind).isFloor),
          )
          .map(({ id, name, kind }) => ({ id, name, kind }))
      : [],
    mayBuild,
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
      await insertRoom(db, parsed.data)
    } catch (error) {
      if (isTaken(error)) return fail(400, { message: `There is a room ${parsed.data.name} already.` })
      throw error
    }
    await recordChange(db, locals.user!.name, `made room ${parsed.data.name}`)
    return { message: null }
  },
  changeRoom: async ({ request, locals }) => {
    const form = Object.fromEntries(await request.formData())
    const parsed = room.safeParse(form)
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    const id = Number(form['id'])
    const known = (await loadRooms(db, Date.now(), id))[0]
    if (known === undefined) return fail(400, { message: 'This room is not there any more.' })
    const { widthMm, depthMm } = parsed.data
    const beyond = [
      ...known.racks.flatMap((each) =>
        each.xMm === null || each.yMm === null ? [] : [{ ...each, xMm: each.xMm, yMm: each.yMm }],
      ),
      ...known.floor,
    ].find((each) => each.xMm + 100 > widthMm || each.yMm + 100 > depthMm)
    if (beyond !== undefined)
      return fail(400, { message: `${beyond.name} would stand outside then. Move it first.` })
    try {
      await updateRoom(db, id, parsed.data)
    } catch (error) {
      if (isTaken(error)) return fail(400, { message: `There is a room ${parsed.data.name} already.` })
      throw error
    }
    await recordChange(db, locals.user!.name, `changed room ${parsed.data.name}`)
    await announce(db, { topic: 'places' })
    return { message: null }
  },
  addRack: async ({ request, locals }) => {
    const parsed = rack.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    const room = (await loadRooms(db, Date.now(), parsed.data.roomId))[0]
    if (room === undefined) return fail(400, { message: 'This room is not there any more.' })
    // Beside the last one, or in the corner.
    const last = room.racks.toSorted((a, b) => (b.xMm ?? 0) - (a.xMm ?? 0))[0]
    const xMm = Math.min(room.widthMm - 600, (last?.xMm ?? -600) + 600 + (last === undefined ? 600 : 0))
    const place = { xMm, yMm: last?.yMm ?? 600 }
    try {
      await insertRack(db, { ...parsed.data, ...place })
    } catch (error) {
      if (isTaken(error))
        return fail(400, { message: `There is a rack ${parsed.data.name} in this room already.` })
      throw error
    }
    await recordChange(db, locals.user!.name, `made rack ${parsed.data.name}`)
    return { message: null }
  },
  removeRack: async ({ request, locals }) => {
    const { db } = installation()
    const id = Number((await request.formData()).get('id'))
    if (!(await deleteRack(db, id)))
      return fail(400, {
        message: 'Something is still in this rack. Move it to the stock or elsewhere first.',
      })
    await recordChange(db, locals.user!.name, `took rack ${id} away`)
    await announce(db, { topic: 'places' })
    return { message: null }
  },
  importPlan: async ({ request, locals }) => {
    const file = (await request.formData()).get('plan')
    if (!(file instanceof File) || file.size === 0) return fail(400, { message: 'Choose a file of a plan.' })
    const { db } = installation()
    try {
      const done = await importPlan(db, await file.text(), locals.user!.name)
      return { message: null, done }
    } catch (refusal) {
      if (refusal instanceof Refused) return fail(400, { message: refusal.message })
      throw refusal
    }
  },
}
