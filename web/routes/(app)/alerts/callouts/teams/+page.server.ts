import {
  deletePerson,
  deleteTeam,
  listPeople,
  listTeams,
  personForm,
  saveDuty,
  savePerson,
  saveTeam,
} from '#db/callouts'
import { readSite } from '#db/platform'
import { installation } from '$lib/server/platform/installation'
import { textFields } from '$lib/server/platform/fields'
import { teamViews, aboutTeam, idOrNew, teamForm } from '$lib/server/callouts/teams'
import type { Actions, PageServerLoad } from './$types'
import { Refused } from '$lib/server/platform/refused'
import { dutyFromFields } from '#core/callouts'
import { formAction, idField } from '$lib/server/platform/formAction'
import { quoted } from '#core/units'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ depends }) => {
  hears(depends, 'callouts')
  const { db } = installation()
  const [people, teams, site] = await Promise.all([listPeople(db), listTeams(db), readSite(db)])
  return { people, ...teamViews(teams, people, Date.now(), site.timeZone) }
}

const about = { people: () => ({ about: 'people' }), team: aboutTeam }

export const actions: Actions = {
  person: formAction({
    shape: personForm.and(idOrNew),
    about: about.people,
    work: async ({ id, ...person }, { trx, user }) => {
      if ((await savePerson(trx, id, person, user.name)) === null)
        throw new Refused(`${person.name} exists already.`)
      return undefined
    },
  }),
  removePerson: formAction({
    shape: idField,
    about: about.people,
    work: async ({ id }, { trx, user }) => {
      await deletePerson(trx, id, user.name)
      return undefined
    },
  }),
  team: formAction({
    shape: teamForm,
    about: about.team,
    work: async ({ id, name }, { trx, user, data }) => {
      const personIds = data
        .getAll('person')
        .map(Number)
        .filter((each) => each > 0)
      const saved = await saveTeam(trx, id, { name, personIds }, user.name)
      if (saved === null) throw new Refused(`There is a team called “${name}” already.`)
      return { done: { about: `team ${saved}` } }
    },
  }),
  removeTeam: formAction({
    shape: idField,
    about: about.team,
    work: async ({ id }, { trx, user }) => {
      const users = await deleteTeam(trx, id, user.name)
      if (users.length > 0)
        throw new Refused(`It stays: ${quoted(users)} reaches it. Change that call-out first.`)
      return { done: { about: '' } }
    },
  }),
  duty: formAction({
    shape: idField,
    about: about.team,
    work: async ({ id }, { trx, user, data }) => {
      const [teams, site] = await Promise.all([listTeams(trx), readSite(trx)])
      const team = teams.find((each) => each.id === id)
      if (team === undefined) throw new Refused('That team is gone.')
      const parsed = dutyFromFields(textFields(data), data.getAll('turn').map(Number), team, site.timeZone)
      if (parsed.kind === 'refused') throw new Refused(parsed.message)
      await saveDuty(trx, team.id, parsed.duty, user.name)
      return undefined
    },
  }),
}
