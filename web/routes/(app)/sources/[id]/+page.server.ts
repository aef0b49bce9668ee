import { error, fail, redirect } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import { recordChange } from '#db/platform'
import { deleteSource } from '#db/sources'
import { firstProblem, likeForm, mapForm, picksForm, sourceChange } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { Refused } from '$lib/server/platform/refused'
import {
  askAgain,
  changeMapping,
  checkAnother,
  changePicks,
  changeSource,
  loadSourcePage,
} from '$lib/server/sources/sourcePage'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
  depends('rack:live')
  const found = await loadSourcePage(
    installation().db,
    idOf(params.id),
    url.searchParams.get('check'),
    Date.now(),
  )
  if (found === null) error(404, 'There is no such source.')
  const { role } = locals.user!
  return { ...found, mayCheck: mayDo(role, 'operate'), mayConnect: mayDo(role, 'administer') }
}

export const actions: Actions = {
  check: async ({ params, locals }) => {
    const { db, key } = installation()
    const id = await askAgain(db, key, { sourceId: idOf(params.id), requestedBy: locals.user!.name })
    if (id === null) error(404, 'There is no such source, or it is not asked but pushes.')
    redirect(303, `/sources/${params.id}?check=${id}`)
  },
  map: async ({ params, request, locals }) => {
    const parsed = mapForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db, key } = installation()
    try {
      const name = await changeMapping(db, idOf(params.id), parsed.data.map)
      await recordChange(db, locals.user!.name, `changed mapping ${name}`)
    } catch (error) {
      if (error instanceof Refused) return fail(400, { message: error.message })
      throw error
    }
    const id = await askAgain(db, key, { sourceId: idOf(params.id), requestedBy: locals.user!.name })
    redirect(303, `/sources/${params.id}?check=${id}`)
  },
  like: async ({ params, request, locals }) => {
    const parsed = likeForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db, key } = installation()
    try {
      const id = await checkAnother(db, key, {
        sourceId: idOf(params.id),
        address: parsed.data.address,
        requestedBy: locals.user!.name,
      })
      redirect(303, `/sources/connect?check=${id}`)
    } catch (error) {
      if (error instanceof Refused) return fail(400, { message: error.message })
      throw error
    }
  },
  pick: async ({ params, request, locals }) => {
    const parsed = picksForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    const changed = await changePicks(db, idOf(params.id), parsed.data.left)
    await recordChange(db, locals.user!.name, `changed what is watched of source ${params.id}: ${changed}`)
    return { message: null }
  },
  change: async ({ params, request, locals }) => {
    const parsed = sourceChange.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    const isDone = await changeSource(db, idOf(params.id), parsed.data)
    if (!isDone)
      return fail(400, {
        message: `There is a source called ${parsed.data.name} already. Choose another name.`,
      })
    await recordChange(db, locals.user!.name, `changed source ${parsed.data.name}`)
    return { message: null }
  },
  remove: async ({ params, locals }) => {
    const { db } = installation()
    await deleteSource(db, idOf(params.id))
    await recordChange(db, locals.user!.name, `removed source ${params.id}`)
    redirect(303, '/sources')
  },
}
