import { error, fail } from '@sveltejs/kit'
import { isMeasureKey, measureOf } from '#core/catalogue'
import { mayDo } from '#db/accounts'
import { commentAlert, findAlert, acceptAlert, endQuiet, insertQuiet } from '#db/alerts'
import { latestReadings } from '#db/readings'
import { loadAlert } from '$lib/server/alerts/alerts'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { parseQuiet } from '$lib/server/alerts/quiet'
import { textFields } from '$lib/server/rules/ruleActions'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ params, locals, depends }) => {
  depends('rack:live')
  const loaded = await loadAlert(installation().db, idOf(params.id), Date.now())
  if (loaded === null) error(404, 'There is no such alert.')
  return { ...loaded, mayOperate: mayDo(locals.user!.role, 'operate') }
}

export const actions: Actions = {
  comment: async ({ request, params, locals }) => {
    const text = (textFields(await request.formData())['text'] ?? '').trim()
    if (text === '') return fail(400, { message: 'There is nothing to keep yet.' })
    await commentAlert(installation().db, idOf(params.id), locals.user!.name, text.slice(0, 2000), new Date())
    return { message: null }
  },
  quiet: async ({ request, params, locals }) => {
    const { db } = installation()
    const id = idOf(params.id)
    const alert = await findAlert(db, id)
    if (alert === undefined) return fail(404, { message: 'There is no such alert.' })
    const fields = textFields(await request.formData())
    const only = fields['reach'] ?? 'this'
    const [whereKind, whereValue] =
      only === 'gear' && alert.gearId !== null
        ? ['gear', String(alert.gearId)]
        : alert.partId !== null
          ? ['part', String(alert.partId)]
          : alert.gearId !== null
            ? ['gear', String(alert.gearId)]
            : ['everywhere', '']
    const parsed = await parseQuiet(
      db,
      {
        whereKind: whereKind!,
        whereValue: whereValue!,
        ruleKey: only === 'this' ? alert.ruleKey : '',
        reason: fields['reason'] ?? '',
        length: fields['length'] ?? '',
      },
      locals.user!.name,
      Date.now(),
    )
    if (parsed.kind === 'refused') return fail(400, { message: parsed.message })
    await insertQuiet(db, parsed.quiet)
    return { message: null }
  },
  accept: async ({ request, params, locals }) => {
    const { db } = installation()
    const id = idOf(params.id)
    const reason = (textFields(await request.formData())['reason'] ?? '').trim()
    if (reason.length < 3) return fail(400, { message: 'Say why it is as it should be.' })
    const alert = await findAlert(db, id)
    const isState =
      alert?.measure != null && isMeasureKey(alert.measure) && measureOf(alert.measure).kind === 'state'
    const state =
      alert?.seriesId != null && isState
        ? ((await latestReadings(db)).get(alert.seriesId)?.value ?? null)
        : null
    const outcome = await acceptAlert(db, id, { who: locals.user!.name, reason, at: new Date(), state })
    if (outcome.kind === 'cleared') return fail(409, { message: 'It has cleared by itself meanwhile.' })
    if (outcome.kind === 'unknown') return fail(404, { message: 'There is no such alert.' })
    return { message: null }
  },
  loud: async ({ request, locals }) => {
    const quietId = Number(textFields(await request.formData())['quietId'])
    await endQuiet(installation().db, quietId, { at: new Date(), by: locals.user!.name, why: null })
    return { message: null }
  },
}
