import { error, fail, redirect, type RequestEvent } from '@sveltejs/kit'
import { deleteCallOut, saveCallOut, switchCallOut } from '#db/callouts'
import { writeWebAddress } from '#db/platform'
import { dryAction, testOutcome } from './callOutActions.ts'
import { loadCallOutForm, parseCallOut } from './callOuts.ts'
import { installation } from '../platform/installation.ts'
import { textFields } from '../rules/ruleActions.ts'
import { loadRuleOptions } from '../rules/rules.ts'

/** The form of one call-out, or of a new one. */
export async function callOutPage(id: number | null, params: URLSearchParams) {
  const { db } = installation()
  const [form, options] = await Promise.all([loadCallOutForm(db, id), loadRuleOptions(db)])
  if (form === null) error(404, 'There is no such call-out; it may have been deleted.')
  const { tags: tag, clusters: cluster, rooms: room, racks: rack, groups: group, gear } = options
  return {
    form,
    places: { tag, cluster, room, rack, group, gear },
    dry: await testOutcome(db, params.get('dry') ?? ''),
  }
}

export function callOutActions(
  idOf: (params: Readonly<Record<string, string | undefined>>) => number | null,
) {
  return {
    save: async ({ request, locals, params, url }: RequestEvent) => {
      const parsed = parseCallOut(textFields(await request.formData()))
      if (parsed.kind === 'refused') return fail(400, { message: parsed.message })
      const { db } = installation()
      const id = await saveCallOut(db, idOf(params), parsed.value, locals.user!.name)
      if (id === null)
        return fail(400, { message: `There is a call-out called «${parsed.value.name}» already.` })
      await writeWebAddress(db, `${url.origin}/`)
      redirect(303, '/alerts/callouts')
    },
    switch: async ({ request, locals, params }: RequestEvent) => {
      const isOn = (await request.formData()).get('isOn') === 'yes'
      const id = idOf(params)
      if (id !== null) await switchCallOut(installation().db, id, isOn, locals.user!.name)
      redirect(303, '/alerts/callouts')
    },
    remove: async ({ locals, params }: RequestEvent) => {
      const id = idOf(params)
      if (id !== null) await deleteCallOut(installation().db, id, locals.user!.name)
      redirect(303, '/alerts/callouts')
    },
    dry: async ({ request, locals, url }: RequestEvent) => {
      const fields = textFields(await request.formData())
      const [, what, name = ''] = /^(gear|command) (.+)$/.exec(fields['dry'] ?? '') ?? []
      const action = what === 'command' ? { command: name } : { gearId: Number(name) }
      const id = await dryAction(installation().db, action, locals.user!.name)
      if (id === null) return fail(400, { message: 'That gear is gone.' })
      redirect(303, `${url.pathname}?dry=${id}`)
    },
  }
}
