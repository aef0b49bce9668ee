import {
  changeRole,
  deleteAccount,
  dropSecondFactor,
  endSessions,
  findAccount,
  insertAccountLink,
  insertInvited,
  LastAdministrator,
  listAccounts,
  switchAccount,
} from '#db/accounts'
import type { Db } from '#db/platform'
import { accountId, accountSwitch, invitation, roleChange } from '$lib/server/accounts/forms'
import { formAction } from '$lib/server/platform/formAction'
import { installation } from '$lib/server/platform/installation'
import { Refused } from '$lib/server/platform/refused'
import { signedIn } from '$lib/server/platform/signedIn'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals }) => ({
  ownId: signedIn(locals).id,
  people: (await listAccounts(installation().db)).map(({ lastSignInAt, ...account }) => ({
    ...account,
    lastMs: lastSignInAt?.getTime() ?? null,
  })),
})

const DAY_MS = 86_400_000
/** An invitation lies in a mailbox over a holiday; what opens an account that is in use does not. */
const HOLDS_MS = { invite: 7 * DAY_MS, reset: DAY_MS }

const about = () => ({ about: 'people' })

async function accountOf(trx: Db, id: string) {
  const account = await findAccount(trx, id)
  if (account === undefined) throw new Refused('This account is not there any more.')
  return account
}

/** @throws Refused when nobody would administer any more */
async function someoneStays(work: () => Promise<void>): Promise<void> {
  try {
    await work()
  } catch (error) {
    if (error instanceof LastAdministrator)
      throw new Refused('Somebody has to administer: this is the last account that does.')
    throw error
  }
}

async function linkFor(
  trx: Db,
  { id, purpose, by, url }: { id: string; purpose: 'invite' | 'reset'; by: string; url: URL },
): Promise<string> {
  const expiresAt = new Date(Date.now() + HOLDS_MS[purpose])
  const secret = await insertAccountLink(trx, { userId: id, purpose, madeBy: by, expiresAt })
  return `${url.origin}/welcome/${secret}`
}

export const actions: Actions = {
  invite: formAction({
    shape: invitation,
    about,
    work: async (form, { trx, user, url }) => {
      const id = await insertInvited(trx, form)
      if (id === null) throw new Refused(`${form.email} has an account already.`)
      const link = await linkFor(trx, { id, purpose: 'invite', by: user.name, url })
      return {
        record: `invited ${form.name} (${form.email}) to ${form.role}`,
        done: { link, linkFor: form.name, holds: 'seven days' },
      }
    },
  }),
  link: formAction({
    shape: accountId,
    about,
    work: async ({ id }, { trx, user, url }) => {
      const account = await accountOf(trx, id)
      if (account.isOff) throw new Refused(`${account.name} is switched off; switch the account on first.`)
      const purpose = account.waits ? ('invite' as const) : ('reset' as const)
      const link = await linkFor(trx, { id, purpose, by: user.name, url })
      return {
        record: `made a link by which ${account.name} chooses a password`,
        done: { link, linkFor: account.name, holds: account.waits ? 'seven days' : 'a day' },
      }
    },
  }),
  role: formAction({
    shape: roleChange,
    about,
    work: async ({ id, role }, { trx }) => {
      const { name, role: was } = await accountOf(trx, id)
      await someoneStays(() => changeRole(trx, id, role))
      return { record: `gave ${name} the right to ${role}; it was ${was}` }
    },
  }),
  switch: formAction({
    shape: accountSwitch,
    about,
    work: async ({ id, isOn }, { trx, user }) => {
      if (id === user.id) throw new Refused('Nobody switches off the account that they are using.')
      const { name } = await accountOf(trx, id)
      await someoneStays(() => switchAccount(trx, id, isOn === 'yes'))
      return {
        record: `switched the account of ${name} ${isOn === 'yes' ? 'on' : 'off'}`,
        tells: [{ topic: 'accounts' }],
      }
    },
  }),
  endSessions: formAction({
    shape: accountId,
    about,
    work: async ({ id }, { trx, user }) => {
      const { name } = await accountOf(trx, id)
      await endSessions(trx, id, id === user.id ? user.sessionId : null)
      return { record: `signed ${name} out everywhere`, tells: [{ topic: 'accounts' }] }
    },
  }),
  dropFactor: formAction({
    shape: accountId,
    about,
    work: async ({ id }, { trx }) => {
      const { name } = await accountOf(trx, id)
      await dropSecondFactor(trx, id)
      return { record: `took the second factor of ${name} away` }
    },
  }),
  remove: formAction({
    shape: accountId,
    about,
    work: async ({ id }, { trx, user }) => {
      if (id === user.id) throw new Refused('Nobody deletes the account that they are using.')
      const { name, email } = await accountOf(trx, id)
      await someoneStays(() => deleteAccount(trx, id))
      return { record: `deleted the account of ${name} (${email})`, tells: [{ topic: 'accounts' }] }
    },
  }),
}
