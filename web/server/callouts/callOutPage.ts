import { error } from '@sveltejs/kit'
import { z } from 'zod'
import type { Action, CallOut } from '#core/callouts'
import { deleteCallOut, saveCallOut, switchCallOut } from '#db/callouts'
import { type Db, writeWebAddress } from '#db/platform'
import { dryAction, testOutcome } from './callOutActions.ts'
import { assertStoppable, callOutOf, coveredBy, loadCallOutForm } from './callOuts.ts'
import { switchForm, textFields } from '../platform/fields.ts'
import { formAction, noFields } from '../platform/formAction.ts'
import { Refused } from '../platform/refused.ts'
import { installation } from '../platform/installation.ts'
import { loadRuleOptions } from '../rules/rules.ts'

/** The form of one call-out, or of a new one. */
export async function callOutPage(id: number | null, params: URLSearchParams) {
  const { db } = installation()
  const [form, options] = await Promise.all([loadCallOutForm(db, id), loadRuleOptions(db)])
  if (form === null) error(404, 'There is no such call-out; it may have been deleted.')
  return {
    form,
    places: options,
    dry: await testOutcome(db, params.get('dry') ?? ''),
  }
}

/** A dry run over so much gear at most. */
const MOST_DRY = 200

async function dryOf(trx: Db, callOut: CallOut, action: Exclude<Action, { do: 'notify' }>) {
  if (action.do === 'command') return { command: action.name }
  if (action.gearId !== null) return { gearId: action.gearId }
  const gearIds = await coveredBy(trx, callOut, action.rules ?? [])
  if (gearIds.length === 0)
    throw new Refused('Its rules and its scope have no gear in common: nothing would be asked.')
  if (gearIds.length > MOST_DRY)
    throw new Refused(
      `It covers ${gearIds.length} gear; a dry run goes over ${MOST_DRY} at most. Narrow the scope.`,
    )
  return { gearIds }
}

type IdOf = (params: Readonly<Record<string, string>>) => number | null

/** What can be done in the form of a call-out; `idOf` says which it is, `null` of a new one. */
export const callOutActions = (idOf: IdOf) => ({
  save: formAction({
    shape: noFields,
    work: async (_form, { trx, user, params, url, data }) => {
      const callOut = callOutOf(textFields(data))
      await assertStoppable(trx, callOut)
      const id = await saveCallOut(trx, idOf(params), callOut, user.name)
      if (id === null) throw new Refused(`There is a call-out called “${callOut.name}” already.`)
      await writeWebAddress(trx, `${url.origin}/`)
      return { to: '/alerts/callouts' }
    },
  }),
  switch: formAction({
    shape: switchForm,
    work: async ({ isOn }, { trx, user, params }) => {
      const id = idOf(params)
      if (id !== null) await switchCallOut(trx, id, isOn, user.name)
      return { to: '/alerts/callouts' }
    },
  }),
  remove: formAction({
    shape: noFields,
    work: async (_form, { trx, user, params }) => {
      const id = idOf(params)
      if (id !== null) await deleteCallOut(trx, id, user.name)
      return { to: '/alerts/callouts' }
    },
  }),
  dry: formAction({
    shape: z.object({ dry: z.coerce.number().int().min(0).max(20) }),
    work: async ({ dry }, { trx, user, url, data }) => {
      const callOut = callOutOf(textFields(data))
      const action = callOut.steps[dry]?.action
      if (action === undefined || action.do === 'notify')
        throw new Refused('That step does nothing but tell.')
      const id = await dryAction(trx, await dryOf(trx, callOut, action), user.name)
      if (id === null) throw new Refused('That gear is gone.')
      return { to: `${url.pathname}?dry=${id}` }
    },
  }),
})
