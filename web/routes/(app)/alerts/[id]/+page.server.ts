import { error } from '@sveltejs/kit'
import { commentAlert, findAlert, acceptAlert, endQuiet, insertQuiet } from '#db/alerts'
import { loadAlert } from '$lib/server/alerts/alerts'
import { presentOf } from '$lib/server/platform/present'
import { idOf } from '$lib/server/platform/params'
import type { Actions, PageServerLoad } from './$types'
import { Refused } from '$lib/server/platform/refused'
import {
  acceptForm,
  commentForm,
  narrowestOf,
  quietOf,
  quietWords,
  stateOfAlert,
  widestOf,
} from '$lib/server/alerts/quiet'
import { formAction, idField } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { z } from 'zod'
import { hears, hearsSources } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ params, locals, depends }) => {
  hears(depends, 'alerts', 'quiet', 'rules', 'callouts', 'texts')
  const loaded = await loadAlert(presentOf(locals), idOf(params.id))
  if (loaded === null) error(404, 'There is no such alert.')
  const { clearedAtMs, readerId } = loaded.alert
  if (clearedAtMs === null && readerId !== null) hearsSources(depends, [readerId])
  return { ...loaded, mayOperate: may(locals, 'operate') }
}

export const actions: Actions = {
  comment: formAction({
    shape: commentForm,
    work: async ({ text }, { trx, user, params }) => {
      await commentAlert(trx, idOf(params['id']!), user.name, text, new Date())
      return undefined
    },
  }),
  quiet: formAction({
    shape: quietWords.extend({ reach: z.enum(['this', 'part', 'gear']).default('this') }),
    work: async ({ reach, reason, length }, { trx, user, params }) => {
      const alert = await findAlert(trx, idOf(params['id']!))
      if (alert === undefined) throw new Refused('There is no such alert.')
      const scope = reach === 'gear' ? widestOf(alert) : narrowestOf(alert)
      const ruleKey = reach === 'this' ? alert.ruleKey : ''
      await insertQuiet(trx, await quietOf(trx, { ...scope, ruleKey, reason, length }, user, Date.now()))
      return undefined
    },
  }),
  accept: formAction({
    shape: acceptForm,
    work: async ({ reason }, { trx, user, params }) => {
      const id = idOf(params['id']!)
      const state = await stateOfAlert(trx, id)
      const outcome = await acceptAlert(trx, id, { who: user.name, reason, at: new Date(), state })
      if (outcome.kind === 'cleared') throw new Refused('It has cleared by itself meanwhile.')
      if (outcome.kind === 'unknown') throw new Refused('There is no such alert.')
      return undefined
    },
  }),
  loud: formAction({
    shape: z.object({ quietId: idField.shape.id }),
    work: async ({ quietId }, { trx, user }) => {
      await endQuiet(trx, quietId, { at: new Date(), by: user.name, why: null })
      return { record: `ended quiet ${quietId}` }
    },
  }),
}
