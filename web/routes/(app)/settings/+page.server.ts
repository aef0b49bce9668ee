import { fail } from '@sveltejs/kit'
import { changeRole, insertAccount, listAccounts } from '#db/accounts'
import { seal } from '#db/secrets'
import { readMailSetting, recordChange, writeMailSetting } from '#db/settings'
import { firstProblem, mail, person, roleChange } from '$lib/server/forms'
import { installation } from '$lib/server/installation'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async () => {
  const { db } = installation()
  const setting = await readMailSetting(db)
  return {
    people: await listAccounts(db),
    mail:
      setting === null
        ? null
        : {
            host: setting.host,
            port: setting.port,
            from: setting.from,
            team: setting.team,
            to: setting.to.join(', '),
            username: setting.username,
            hasPassword: setting.sealedPassword !== null,
          },
  }
}

export const actions: Actions = {
  addPerson: async ({ request, locals }) => {
    const parsed = person.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { about: 'people', message: firstProblem(parsed.error) })
    const { db } = installation()
    if ((await insertAccount(db, parsed.data)) === null) {
      return fail(400, { about: 'people', message: `${parsed.data.email} has an account already.` })
    }
    await recordChange(db, locals.user!.name, `let ${parsed.data.email} in to ${parsed.data.role}`)
    return { about: 'people', message: null }
  },
  changeRole: async ({ request, locals }) => {
    const parsed = roleChange.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { about: 'people', message: firstProblem(parsed.error) })
    const { db } = installation()
    if (!(await changeRole(db, parsed.data.id, parsed.data.role))) {
      return fail(400, {
        about: 'people',
        message: 'Somebody has to administer: this is the last account that does.',
      })
    }
    await recordChange(db, locals.user!.name, `gave ${parsed.data.id} the right to ${parsed.data.role}`)
    return { about: 'people', message: null }
  },
  mail: async ({ request, locals, url }) => {
    const parsed = mail.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { about: 'mail', message: firstProblem(parsed.error) })
    const { db, key } = installation()
    const { password, ...rest } = parsed.data
    const kept = (await readMailSetting(db))?.sealedPassword ?? null
    const sealedPassword =
      password === '' ? (rest.username === '' ? null : kept) : seal(key, { password }).toString('base64')
    await writeMailSetting(db, { ...rest, sealedPassword, webAddress: `${url.origin}/` })
    await recordChange(
      db,
      locals.user!.name,
      `set mail to ${rest.host}:${rest.port}, told to ${rest.to.join(', ')}`,
    )
    return { about: 'mail', message: null }
  },
}
