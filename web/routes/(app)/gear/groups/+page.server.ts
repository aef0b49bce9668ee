import { groupState, groupSentence } from '#core/gear'
import { insertGroup, listTagRules } from '#db/gear'
import { groupForm } from '$lib/server/gear/forms'
import { groupOf } from '$lib/server/gear/groupForms'
import { installation } from '$lib/server/platform/installation'
import { loadGraph, membersOf } from '$lib/server/links/pathView'
import type { Actions, PageServerLoad } from './$types'
import { formAction } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ depends, locals }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places')
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
