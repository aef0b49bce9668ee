import { deleteApiToken, insertApiToken, listApiTokens } from '#db/accounts'
import { endOf, newToken } from '$lib/server/accounts/forms'
import { formAction, idField } from '$lib/server/platform/formAction'
import { installation } from '$lib/server/platform/installation'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async () => ({
  tokens: (await listApiTokens(installation().db)).map(
    ({ id, name, role, owner, expiresAt, lastUsedAt }) => ({
      id,
      name,
      role,
      owner,
      endsMs: expiresAt.getTime(),
      usedMs: lastUsedAt?.getTime() ?? null,
    }),
  ),
})

export const actions: Actions = {
  newToken: formAction({
    shape: newToken,
    taken: ({ name }) => `There is a token called ${name} already.`,
    work: async ({ name, role, days }, { trx, user }) => {
      const expiresAt = endOf(days, Date.now())
      const token = await insertApiToken(trx, { name, userId: null, role, madeBy: user.name, expiresAt })
      return {
        record: `made a token ${name} for a machine to ${role}, for ${days} days`,
        done: { token, name },
      }
    },
  }),
  dropToken: formAction({
    shape: idField,
    work: async ({ id }, { trx }) => {
      const name = await deleteApiToken(trx, id)
      if (name === undefined) throw new Refused('This token is not there any more.')
      return { record: `ended the token ${name}` }
    },
  }),
}
