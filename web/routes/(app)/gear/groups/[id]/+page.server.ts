import { error } from '@sveltejs/kit'
import { groupSentence, groupState } from '#core/gear'
import { deleteGroup, updateGroup } from '#db/gear'
import { groupForm } from '$lib/server/gear/forms'
import { groupOf } from '$lib/server/gear/groupForms'
import { presentOf } from '$lib/server/platform/present'
import { idOf } from '$lib/server/platform/params'
import { loadGraph, loadPath } from '$lib/server/links/paths'
import type { Actions, PageServerLoad } from './$types'
import { formAction, noFields } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ depends, locals, params }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places', 'readings')
  const present = presentOf(locals)
  const graph = await loadGraph(present)
  const group = graph.groups.find(({ id }) => id === idOf(params.id))
  if (group === undefined) error(404, 'There is no such group.')
  const state = groupState(
    group.members.map((member) => member.state),
    group,
  )
  return {
    group: { ...group, members: group.memberIds.flatMap((id) => graph.gear.get(id)?.name ?? []) },
    state: state.state,
    sentence: groupSentence(group, state),
    hangs: await loadPath(present, graph, [-group.id]),
    members: group.members.map(({ id, name, kind, state: own }) => ({
      id,
      name,
      kind: kind as Exclude<typeof kind, 'group'>,
      state: own,
    })),
    mayAdminister: may(locals, 'administer'),
  }
}

export const actions: Actions = {
  change: formAction({
    shape: groupForm,
    taken: ({ name }) => `There is a group ${name} already.`,
    work: async (form, { trx, params }) => {
      await updateGroup(trx, idOf(params['id']!), await groupOf(trx, form))
      return { record: `changed group ${form.name}`, tells: [{ topic: 'places' }] }
    },
  }),
  remove: formAction({
    shape: noFields,
    work: async (_form, { trx, params }) => {
      await deleteGroup(trx, idOf(params['id']!))
      return { record: `took group ${params['id']} away`, tells: [{ topic: 'places' }], to: '/gear/groups' }
    },
  }),
}
