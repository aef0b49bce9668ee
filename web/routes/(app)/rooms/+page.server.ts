import { gearKindOf } from '#core/catalogue'
import { isPlanSubject, placeForRack, roomSentence, standsBeyond } from '#core/site'
import { deleteRack, insertRack, insertRoom, updateRoom } from '#db/site'
import { rack, room } from '$lib/server/site/forms'
import { importPlan } from '$lib/server/site/planFile'
import { Refused } from '$lib/server/platform/refused'
import { listRoomStates, loadRooms } from '$lib/server/site/rooms'
import { Present, presentOf } from '$lib/server/platform/present'
import { listUnplaced } from '#db/gear'
import type { Actions, PageServerLoad } from './$types'
import { formAction, idField, noFields } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'

const VIEWS = ['plan', 'front', 'rear'] as const

export const load: PageServerLoad = async ({ locals, depends, url }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places', 'series', 'readings')
  const present = presentOf(locals)
  const rooms = await listRoomStates(present)
  const asked = Number(url.searchParams.get('room'))
  const chosen = rooms.find(({ id }) => id === asked) ?? rooms[0] ?? null
  const shown = chosen === null ? null : ((await loadRooms(present, chosen.id))[0] ?? null)
  const subject = url.searchParams.get('show')
  const plan = isPlanSubject(subject) ? subject : 'state'
  const mayBuild = may(locals, 'administer')
  return {
    rooms,
    room: shown,
    sentence: shown === null ? 'No room is drawn yet.' : roomSentence(shown, plan),
    subject: plan,
    view: VIEWS.find((view) => view === url.searchParams.get('view')) ?? 'plan',
    stock: mayBuild
      ? (await listUnplaced(present.db)).filter(
          ({ kind }) => gearKindOf(kind).isRacked || gearKindOf(kind).isFloor,
        )
      : [],
    mayBuild,
  }
}

const PLACES = [{ topic: 'places' }] as const
const gone = 'This room is not there any more.'

export const actions: Actions = {
  addRoom: formAction({
    shape: room,
    taken: ({ name }) => `There is a room ${name} already.`,
    work: async (form, { trx }) => {
      await insertRoom(trx, form)
      return { record: `made room ${form.name}`, tells: PLACES }
    },
  }),
  changeRoom: formAction({
    shape: room.extend(idField.shape),
    taken: ({ name }) => `There is a room ${name} already.`,
    work: async ({ id, ...form }, { trx }) => {
      const known = (await loadRooms(new Present(trx, Date.now()), id))[0]
      if (known === undefined) throw new Refused(gone)
      const beyond = standsBeyond(known, form)
      if (beyond !== null) throw new Refused(`${beyond} would stand outside then. Move it first.`)
      await updateRoom(trx, id, form)
      return { record: `changed room ${form.name}`, tells: PLACES }
    },
  }),
  addRack: formAction({
    shape: rack,
    taken: ({ name }) => `There is a rack ${name} in this room already.`,
    work: async (form, { trx }) => {
      const known = (await loadRooms(new Present(trx, Date.now()), form.roomId))[0]
      if (known === undefined) throw new Refused(gone)
      await insertRack(trx, { ...form, ...placeForRack(known) })
      return { record: `made rack ${form.name}`, tells: PLACES }
    },
  }),
  removeRack: formAction({
    shape: idField,
    work: async ({ id }, { trx }) => {
      if (!(await deleteRack(trx, id)))
        throw new Refused('Something is still in this rack. Move it to the stock or elsewhere first.')
      return { record: `took rack ${id} away`, tells: PLACES }
    },
  }),
  importPlan: formAction({
    shape: noFields,
    work: async (_form, { trx, user, data }) => {
      const file = data.get('plan')
      if (!(file instanceof File) || file.size === 0) throw new Refused('Choose a file of a plan.')
      return { done: { done: await importPlan(trx, await file.text(), user.name) } }
    },
  }),
}
