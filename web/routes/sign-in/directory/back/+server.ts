import { redirect } from '@sveltejs/kit'
import { findAccount, giveRole, openDirectory } from '#db/accounts'
import { recordChange, transact } from '#db/platform'
import { atOf, recordRefusedSignIn, recordSignIn } from '$lib/server/accounts/at'
import { backFromDirectory, userOf } from '$lib/server/platform/auth'
import { passCookies } from '$lib/server/platform/cookies'
import { installation } from '$lib/server/platform/installation'
import type { RequestHandler } from './$types'

/** Where the directory sends the browser back to: what it says decides what they may, each time anew. */
export const GET: RequestHandler = async (event) => {
  const { url, cookies, locals } = event
  const { db, key } = installation()
  const directory = await openDirectory(db, key)
  if (directory === undefined) redirect(303, '/sign-in?error=directory')
  const outcome = await backFromDirectory(atOf(event), directory, url.search)
  if (outcome.kind !== 'in') {
    const isKnown = outcome.kind === 'noGroup'
    await recordRefusedSignIn(
      locals.address,
      null,
      isKnown
        ? `no group that ${directory.name} tells of may come in`
        : `${directory.name} did not say who it is`,
    )
    redirect(303, `/sign-in?error=${isKnown ? 'no-group' : 'directory'}`)
  }
  passCookies(cookies, outcome.cookies)
  const pairs = outcome.cookies.map((line) => line.split(';')[0]!).join('; ')
  const user = await userOf(new Headers({ cookie: pairs }))
  const account = user === null ? undefined : await findAccount(db, user.id)
  if (account === undefined) redirect(303, '/sign-in?error=directory')
  if (account.role !== outcome.role)
    await transact(db, async (trx) => {
      const isGiven = await giveRole(trx, account.id, outcome.role)
      await recordChange(
        trx,
        directory.name,
        isGiven
          ? `gave ${account.name} the right to ${outcome.role}, as its groups say; it was ${account.role}`
          : `says that ${account.name} may ${outcome.role}; it stays ${account.role}, as nobody else administers`,
      )
    })
  await recordSignIn(account, locals.address, `with ${directory.name}`)
  redirect(303, '/')
}
