import { groupSentence } from '#core/gear'
import { insertGroup } from '#db/gear'
import { groupForm } from '$lib/server/gear/forms'
import { groupOf } from '$lib/server/gear/groupForms'
import { loadGraph } from '$lib/server/links/paths'
import { presentOf } from '$lib/server/platform/present'
import type { Actions, PageServerLoad } from './$types'
import { formAction } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ depends, locals }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places')
  const present = presentOf(locals)
  const [graph, names] = await Promise.all([loadGraph(present), present.names()])
  return {
    groups: graph.groups.map(({ id, name, note, isService, members, groups, state, ...rule }) => ({
      id,
      name,
      note,
      isService,
      state: state.state,
      sentence: groupSentence(rule, state),
      bad: [
        ...groups.filter((inner) => inner.state.state !== 'well'),
        ...members.filter((member) => member.state !== 'well'),
      ].map((member) => member.name),
    })),
    names: names.map(({ name }) => name),
    mayAdminister: may(locals, 'administer'),
  }
}

export const actions: Actions = {
  add: formAction({
    shape: groupForm,
    taken: ({ name }) => `There is a group ${name} already.`,
    work: async (form, { trx }) => {
      const id = await insertGroup(trx, await groupOf(trx, form))
      return { record: `made group ${form.name}`, tells: [{ topic: 'places' }], to: `/gear/groups/${id}` }
    },
  }),
}
