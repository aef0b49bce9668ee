import { z } from 'zod'
import { deleteCalendarLink, insertCalendarLink, listCalendarLinks } from '#db/forecast'
import { formAction, idField } from '$lib/server/platform/formAction'
import { installation } from '$lib/server/platform/installation'
import { Refused } from '$lib/server/platform/refused'
import { signedIn } from '$lib/server/platform/signedIn'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals }) => ({
  links: (await listCalendarLinks(installation().db, signedIn(locals).id)).map(
    ({ id, name, createdAt, lastUsedAt }) => ({
      id,
      name,
      madeMs: createdAt.getTime(),
      usedMs: lastUsedAt?.getTime() ?? null,
    }),
  ),
})

const newLink = z.object({
  name: z.string().trim().min(1, 'Give it a name, as “telephone”.').max(64, 'At most 64 characters.'),
})

export const actions: Actions = {
  add: formAction({
    shape: newLink,
    taken: ({ name }) => `You have a link called ${name} already.`,
    work: async ({ name }, { trx, user, url }) => {
      const secret = await insertCalendarLink(trx, name, user.id)
      return {
        record: `added the calendar link ${name}`,
        done: { address: new URL(`/calendar/${secret}`, url).href },
      }
    },
  }),
  delete: formAction({
    shape: idField,
    work: async ({ id }, { trx, user }) => {
      const name = await deleteCalendarLink(trx, id, user.id)
      if (name === undefined) throw new Refused('This link is not there any more.')
      return { record: `deleted the calendar link ${name}` }
    },
  }),
}
