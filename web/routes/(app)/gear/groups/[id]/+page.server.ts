import { error } from '@sveltejs/kit'
import { groupSentence, serviceSentence } from '#core/gear'
import { serviceHoursText } from '#core/past'
import { writeAmount } from '#core/units'
import { deleteGroup, updateGroup } from '#db/gear'
import { groupForm } from '$lib/server/gear/forms'
import { groupOf } from '$lib/server/gear/groupForms'
import { keptByServices } from '$lib/server/past/availability'
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
  const { members, groups, state, level, hours, ...own } = group
  const containers = graph.groups.filter(({ groupIds }) => groupIds.includes(group.id))
  const kept = group.isService ? await keptByServices(present, [group], await present.scopes()) : null
  return {
    group: {
      ...own,
      members: group.memberIds.flatMap((id) => graph.gear.get(id)?.name ?? []),
      groups: groups.map(({ name }) => name),
      level: level === null ? '' : writeAmount(level, 'ratio'),
      hours: hours === null ? '' : serviceHoursText(hours),
    },
    state: state.state,
    sentence: groupSentence(group, state),
    plainly: group.isService ? serviceSentence(group) : null,
    kept: kept?.get(group.id) ?? null,
    isPromised: level !== null,
    groups: groups.map((inner) => ({
      id: inner.id,
      name: inner.name,
      state: inner.state.state,
      sentence: groupSentence(inner, inner.state),
    })),
    within: containers.map(({ id, name }) => ({ id, name })),
    hangs: await loadPath(present, graph, [-group.id]),
    members: members.map(({ id, name, kind, state: own }) => ({
      id,
      name,
      kind,
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
      const id = idOf(params['id']!)
      await updateGroup(trx, id, await groupOf(trx, form, id))
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
