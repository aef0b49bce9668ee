import { fail } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import { endQuiet, insertQuiet } from '#db/alerts'
import { installation } from '$lib/server/platform/installation'
import { loadQuiets, localTime, parseQuiet } from '$lib/server/alerts/quiet'
import { textFields } from '$lib/server/rules/ruleActions'
import { loadRuleOptions } from '$lib/server/rules/rules'
import { readSite } from '#db/platform'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  depends('rack:live')
  const { db } = installation()
  const nowMs = Date.now()
  const [quiets, options, site] = await Promise.all([
    loadQuiets(db, nowMs),
    loadRuleOptions(db),
    readSite(db),
  ])
  return {
    quiets,
    options,
    asked: {
      whereKind: url.searchParams.has('gear') ? 'gear' : 'rack',
      whereValue: url.searchParams.get('gear') ?? '',
    },
    nowLocal: localTime(nowMs, site.timeZone),
    mayOperate: mayDo(locals.user!.role, 'operate'),
  }
}

export const actions: Actions = {
  add: async ({ request, locals }) => {
    const { db } = installation()
    const fields = textFields(await request.formData())
    const parsed = await parseQuiet(db, fields, locals.user!.name, Date.now())
    if (parsed.kind === 'refused') return fail(400, { message: parsed.message })
    await insertQuiet(db, parsed.quiet)
    return { message: null }
  },
  end: async ({ request, locals }) => {
    const id = Number(textFields(await request.formData())['id'])
    await endQuiet(installation().db, id, { at: new Date(), by: locals.user!.name, why: null })
    return { message: null }
  },
}
