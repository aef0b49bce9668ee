import { fail, redirect } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import { recordChange } from '#db/platform'
import { strangers } from '#db/logs'
import { claimSender, refuseSender } from '#db/sources'
import { claimForm, firstProblem, refuseForm } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { pendingSenders } from '$lib/server/sources/pendingSenders'
import { loadSources } from '$lib/server/sources/sourceRows'
import type { Actions, PageServerLoad } from './$types'

const DAY_MS = 86_400_000

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('rack:live')
  const { db } = installation()
  const { role } = locals.user!
  return {
    sources: await loadSources(db, Date.now()),
    waiting: await pendingSenders(db),
    strangers: (await strangers(db, Date.now() - DAY_MS)).map(({ last, ...rest }) => ({
      ...rest,
      lastMs: last.getTime(),
    })),
    mayCheck: mayDo(role, 'operate'),
    mayConnect: mayDo(role, 'administer'),
  }
}

export const actions: Actions = {
  claim: async ({ request, locals }) => {
    const parsed = claimForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    const id = await claimSender(db, parsed.data).catch((error: unknown) => {
      if (error instanceof Error && 'code' in error && error.code === '23505') return 'taken' as const
      throw error
    })
    if (id === 'taken')
      return fail(400, {
        message: `There is a source called ${parsed.data.name} already. Choose another name.`,
      })
    if (id === null) return fail(400, { message: 'This sender does not wait any more; somebody was faster.' })
    await recordChange(db, locals.user!.name, `claimed sender ${parsed.data.name}`)
    redirect(303, `/sources/${id}`)
  },
  refuse: async ({ request, locals }) => {
    const parsed = refuseForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    await refuseSender(db, parsed.data.id)
    await recordChange(db, locals.user!.name, `refused a sender`)
    return { message: null }
  },
}
