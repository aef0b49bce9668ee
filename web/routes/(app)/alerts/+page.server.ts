import { fail } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import { findAlert, takeAlert, insertQuiet } from '#db/alerts'
import { loadAlerts } from '$lib/server/alerts/alerts'
import { installation } from '$lib/server/platform/installation'
import { parseQuiet } from '$lib/server/alerts/quiet'
import { textFields } from '$lib/server/rules/ruleActions'
import { windowIn } from '$lib/server/readings/window'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ url, locals, depends }) => {
  depends('rack:live')
  const nowMs = Date.now()
  return {
    ...(await loadAlerts(installation().db, url.searchParams, windowIn(url, nowMs), nowMs)),
    nowMs,
    mayOperate: mayDo(locals.user!.role, 'operate'),
  }
}

const idsOf = (form: FormData): number[] =>
  form.getAll('id').map(Number).filter(Number.isInteger).slice(0, 500)

export const actions: Actions = {
  take: async ({ request, locals }) => {
    const ids = idsOf(await request.formData())
    if (ids.length === 0) return fail(400, { message: 'Mark the alerts first.' })
    for (const id of ids) await takeAlert(installation().db, id, locals.user!.name, new Date())
    return { message: null }
  },
  quiet: async ({ request, locals }) => {
    const form = await request.formData()
    const ids = idsOf(form)
    if (ids.length === 0) return fail(400, { message: 'Mark the alerts first.' })
    const { db } = installation()
    const nowMs = Date.now()
    const fields = textFields(form)
    for (const id of ids) {
      const alert = await findAlert(db, id)
      if (alert === undefined) continue
      const [whereKind, whereValue] =
        alert.partId !== null
          ? ['part', String(alert.partId)]
          : alert.gearId !== null
            ? ['gear', String(alert.gearId)]
            : ['everywhere', '']
      const parsed = await parseQuiet(
        db,
        {
          whereKind: whereKind!,
          whereValue: whereValue!,
          ruleKey: alert.ruleKey,
          reason: fields['reason'] ?? '',
          length: fields['length'] ?? '1 h',
        },
        locals.user!.name,
        nowMs,
      )
      if (parsed.kind === 'refused') return fail(400, { message: parsed.message })
      await insertQuiet(db, parsed.quiet)
    }
    return { message: null }
  },
}
