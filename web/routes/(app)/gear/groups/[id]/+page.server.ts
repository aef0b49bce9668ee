import { error, fail, redirect } from '@sveltejs/kit'
import { groupSentence, groupState } from '#core/gear'
import { mayDo } from '#db/accounts'
import { deleteGroup, listTagRules, updateGroup } from '#db/gear'
import { announce, recordChange } from '#db/platform'
import { firstProblem, groupForm } from '$lib/server/platform/forms'
import { groupOf } from '$lib/server/gear/groupForms'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { loadGraph, membersOf, pathView } from '$lib/server/links/pathView'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ depends, locals, params }) => {
  depends('rack:live')
  const { db } = installation()
  const [graph, rules] = await Promise.all([loadGraph(db, Date.now()), listTagRules(db)])
  const group = graph.groups.find(({ id }) => id === idOf(params.id))
  if (group === undefined) error(404, 'There is no such group.')
  const members = membersOf(group, graph.rows.values(), rules)
  const state = groupState(
    members.map((id) => graph.gear.get(id)!.state),
    group,
  )
  return {
    group: {
      ...group,
      members: group.memberIds.flatMap((id) => graph.rows.get(id)?.name ?? []),
    },
    state: state.state,
    sentence: groupSentence(group, state),
    hangs: pathView(graph, [-group.id]),
    members: members
      .map((id) => graph.gear.get(id)!)
      .map(({ id, name, kind, state: own }) => ({
        id,
        name,
        kind: kind as Exclude<typeof kind, 'group'>,
        state: own,
      })),
    mayAdminister: mayDo(locals.user!.role, 'administer'),
  }
}

export const actions: Actions = {
  change: async ({ request, locals, params }) => {
    const parsed = groupForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
    const { db } = installation()
    try {
      const group = await groupOf(db, parsed.data)
      await db.transaction().execute((trx) => updateGroup(trx, idOf(params.id), group))
    } catch (refusal) {
      if (refusal instanceof Refused) return fail(400, { message: refusal.message })
      if (refusal instanceof Error && 'code' in refusal && refusal.code === '23505')
        return fail(400, { message: `There is a group ${parsed.data.name} already.` })
      throw refusal
    }
    await recordChange(db, locals.user!.name, `changed group ${parsed.data.name}`)
    await announce(db, { topic: 'places' })
    return { message: null }
  },
  remove: async ({ locals, params }) => {
    const { db } = installation()
    await deleteGroup(db, idOf(params.id))
    await recordChange(db, locals.user!.name, `took group ${params.id} away`)
    await announce(db, { topic: 'places' })
    redirect(303, '/gear/groups')
  },
}
