import { fail, redirect } from '@sveltejs/kit'
import { listCredentials } from '#db/sources'
import { recordChange } from '#db/platform'
import { firstProblem, lookForm } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { loadLook, lookThrough } from '$lib/server/sources/looking'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('rack:live')
  const { db } = installation()
  return {
    look: await loadLook(db, url.searchParams.get('look')),
    credentials: (await listCredentials(db)).filter(({ kind }) => kind.startsWith('snmp')),
  }
}

export const actions: Actions = {
  default: async ({ request, locals }) => {
    const data = await request.formData()
    const parsed = lookForm.safeParse({
      ...Object.fromEntries(data),
      credentials: data.getAll('credentials').map(String),
    })
    const addresses = String(data.get('addresses') ?? '')
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error), addresses })
    const { db } = installation()
    try {
      const id = await lookThrough(db, { form: parsed.data, requestedBy: locals.user!.name })
      await recordChange(db, locals.user!.name, `looked through ${addresses.slice(0, 80)}`)
      redirect(303, `/sources/look?look=${id}`)
    } catch (refusal) {
      if (refusal instanceof Refused) return fail(400, { message: refusal.message, addresses })
      throw refusal
    }
  },
}
