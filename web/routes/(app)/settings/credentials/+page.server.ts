import { fail } from '@sveltejs/kit'
import { recordChange } from '#db/platform'
import {
  credentialUses,
  deleteCredential,
  insertCredential,
  listCredentials,
  updateCredential,
} from '#db/sources'
import { credentialForm, firstProblem } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { Refused } from '$lib/server/platform/refused'
import { secretOf } from '$lib/server/sources/secretFields'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async () => ({ credentials: await credentialUses(installation().db) })

export const actions: Actions = {
  keep: async ({ request, locals }) => {
    const parsed = credentialForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { id: null, message: firstProblem(parsed.error), done: null })
    const { id, name, kind: asked, ...fields } = parsed.data
    const { db, key } = installation()
    // What a kept credential is cannot be changed: its sources speak one protocol.
    const kind = id === null ? asked : (await listCredentials(db)).find((each) => each.id === id)?.kind
    if (kind === undefined)
      return fail(400, { id: null, message: 'This credential has gone; load the page again.', done: null })
    const isTouched = Object.values(fields).some((value) => value !== '')
    try {
      if (id === null) await insertCredential(db, key, { name, kind, secret: secretOf(kind, fields, null) })
      else
        await updateCredential(db, key, { id, name, secret: isTouched ? secretOf(kind, fields, null) : null })
    } catch (error) {
      const isTaken = error instanceof Error && 'code' in error && error.code === '23505'
      if (!isTaken && !(error instanceof Refused)) throw error
      const message = isTaken ? `There is a credential called ${name} already.` : error.message
      return fail(400, { id, message, done: null })
    }
    await recordChange(db, locals.user!.name, `${id === null ? 'added' : 'changed'} credential ${name}`)
    const what =
      id === null ? 'is kept' : isTouched ? 'is changed; its sources go by it from now on' : 'is renamed'
    return { id, message: null, done: `${name} ${what}.` }
  },
  remove: async ({ request, locals }) => {
    const id = Number((await request.formData()).get('id'))
    if (!Number.isInteger(id))
      return fail(400, { id: null, message: 'There is no such credential.', done: null })
    const { db } = installation()
    if (!(await deleteCredential(db, id)))
      return fail(400, {
        id,
        message: 'Sources use it still. Give them another credential first.',
        done: null,
      })
    await recordChange(db, locals.user!.name, `removed credential ${id}`)
    return { id: null, message: null, done: 'It is removed.' }
  },
}
