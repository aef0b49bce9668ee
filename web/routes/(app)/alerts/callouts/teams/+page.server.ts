import { fail } from '@sveltejs/kit'
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
import { firstProblem } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { textFields } from '$lib/server/rules/ruleActions'
import { dutyFrom, teamViews } from '$lib/server/callouts/teams'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ depends }) => {
  depends('rack:live')
  const { db } = installation()
  const [people, teams, site] = await Promise.all([listPeople(db), listTeams(db), readSite(db)])
  return { people, ...teamViews(teams, people, Date.now(), site.timeZone) }
}

const idIn = (fields: Readonly<Record<string, string>>): number | null =>
  Number(fields['id']) > 0 ? Number(fields['id']) : null

export const actions: Actions = {
  person: async ({ request, locals }) => {
    const fields = textFields(await request.formData())
    const parsed = personForm.safeParse(fields)
    if (!parsed.success) return fail(400, { about: 'people', message: firstProblem(parsed.error) })
    const id = await savePerson(installation().db, idIn(fields), parsed.data, locals.user!.name)
    if (id === null)
      return fail(400, { about: 'people', message: `${parsed.data.name} is among the people already.` })
    return { about: 'people', message: null }
  },
  removePerson: async ({ request, locals }) => {
    const id = idIn(textFields(await request.formData()))
    if (id !== null) await deletePerson(installation().db, id, locals.user!.name)
    return { about: 'people', message: null }
  },
  team: async ({ request, locals }) => {
    const form = await request.formData()
    const fields = textFields(form)
    const name = (fields['name'] ?? '').trim()
    if (name === '')
      return fail(400, { about: `team ${fields['id'] ?? ''}`, message: 'Give the team a name.' })
    const personIds = form
      .getAll('person')
      .map(Number)
      .filter((each) => each > 0)
    const id = await saveTeam(installation().db, idIn(fields), { name, personIds }, locals.user!.name)
    if (id === null)
      return fail(400, {
        about: `team ${fields['id'] ?? ''}`,
        message: `There is a team called «${name}» already.`,
      })
    return { about: `team ${id}`, message: null }
  },
  removeTeam: async ({ request, locals }) => {
    const id = idIn(textFields(await request.formData()))
    if (id === null) return { about: '', message: null }
    const users = await deleteTeam(installation().db, id, locals.user!.name)
    if (users.length > 0)
      return fail(400, {
        about: `team ${id}`,
        message: `It stays: ${users.map((name) => `«${name}»`).join(', ')} reaches it. Change that call-out first.`,
      })
    return { about: '', message: null }
  },
  duty: async ({ request, locals }) => {
    const form = await request.formData()
    const fields = textFields(form)
    const id = idIn(fields)
    const { db } = installation()
    const [teams, site] = await Promise.all([listTeams(db), readSite(db)])
    const team = teams.find((each) => each.id === id)
    if (team === undefined) return fail(400, { about: '', message: 'That team is gone.' })
    const parsed = dutyFrom(fields, form.getAll('turn').map(Number), team, site.timeZone)
    if (parsed.kind === 'refused') return fail(400, { about: `team ${team.id}`, message: parsed.message })
    await saveDuty(db, team.id, parsed.duty, locals.user!.name)
    return { about: `team ${team.id}`, message: null }
  },
}
