import { fail, redirect } from '@sveltejs/kit'
import { groupState, groupSentence } from '#core/gear'
import { mayDo } from '#db/accounts'
import { insertGroup, listTagRules } from '#db/gear'
import { announce, recordChange } from '#db/platform'
import { firstProblem, groupForm } from '$lib/server/platform/forms'
import { groupOf } from '$lib/server/gear/groupForms'
import { installation } from '$lib/server/platform/installation'
import { loadGraph, membersOf } from '$lib/server/links/pathView'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ depends, locals }) => {
  depends('rack:live')
  const { db } = installation()
  const [graph, rules] = await Promise.all([loadGraph(db, Date.now()), listTagRules(db)])
  return {
    groups: graph.groups.map((group) => {
      const members = membersOf(group, graph.rows.values(), rules)
      const state = groupState(
        members.map((id) => graph.gear.get(id)!.state),
        group,
      )
      return {
        id: group.id,
        name: group.name,
        note: group.note,
        state: state.state,
        members: members.length,
        sentence: groupSentence(group, state),
        bad: members.flatMap((id) => {
          const { name, state: own } = graph.gear.get(id)!
          return own === 'well' ? [] : [{ id, name, state: own }]
        }),
      }
    }),
    names: [...graph.rows.values()].map(({ name }) => name),
    mayAdminister: mayDo(locals.user!.role, 'administer'),
  }
}

export const actions: Actions = {
  add: async ({ request, locals }) => {
    const parsed = groupForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    let id: number
    try {
      id = await insertGroup(db, await groupOf(db, parsed.data))
    } catch (refusal) {
      if (refusal instanceof Refused) return fail(400, { message: refusal.message })
      if (refusal instanceof Error && 'code' in refusal && refusal.code === '23505')
        return fail(400, { message: `There is a group ${parsed.data.name} already.` })
      throw refusal
    }
    await recordChange(db, locals.user!.name, `made group ${parsed.data.name}`)
    await announce(db, { topic: 'places' })
    redirect(303, `/gear/groups/${id}`)
  },
}
