import { fail } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import { isServerAway } from '#db/connect'
import { recordChange } from '#db/settings'
import { deleteSource, listCredentials } from '#db/sources'
import { firstProblem, newSource } from '$lib/server/forms'
import { installation } from '$lib/server/installation'
import { addSource } from '$lib/server/newSource'
import { loadSources } from '$lib/server/sourceRows'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:live')
  const { db, receiverPort } = installation()
  const { role } = locals.user!
  const mayConnect = mayDo(role, 'administer')
  return {
    sources: await loadSources(db, Date.now()),
    credentials: mayConnect ? await listCredentials(db) : [],
    receiverPort,
    mayCheck: mayDo(role, 'operate'),
    mayConnect,
  }
}

export const actions: Actions = {
  add: async ({ request, locals }) => {
    const parsed = newSource.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error), token: null, name: null })
    const { db, key } = installation()
    try {
      const { token } = await addSource(db, key, parsed.data)
      await recordChange(db, locals.user!.name, `connected source ${parsed.data.name}`)
      return { message: null, token, name: parsed.data.name }
    } catch (error) {
      if (isServerAway(error)) throw error
      const message =
        error instanceof Error && 'code' in error && error.code === '23505'
          ? `There is a source or a credential called ${parsed.data.name} already.`
          : error instanceof RangeError
            ? error.message
            : null
      if (message === null) throw error
      return fail(400, { message, token: null, name: null })
    }
  },
  remove: async ({ request, locals }) => {
    const id = Number((await request.formData()).get('id'))
    if (!Number.isInteger(id))
      return fail(400, { message: 'There is no such source.', token: null, name: null })
    const { db } = installation()
    await deleteSource(db, id)
    await recordChange(db, locals.user!.name, `removed source ${id}`)
    return { message: null, token: null, name: null }
  },
}
