import { mayDo } from '#core/accounts'
import { strangers } from '#db/logs'
import { claimSender, listTurnedAway, refuseSender } from '#db/sources'
import { claimForm, refuseForm } from '$lib/server/sources/forms'
import { presentOf } from '$lib/server/platform/present'
import { installation } from '$lib/server/platform/installation'
import { pendingSenders } from '$lib/server/sources/pendingSenders'
import { loadSources } from '$lib/server/sources/sourceRows'
import type { Actions, PageServerLoad } from './$types'
import { Refused } from '$lib/server/platform/refused'
import { formAction } from '$lib/server/platform/formAction'
import { signedIn } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'
import { CLOCK } from '$lib/client/topics'

const DAY_MS = 86_400_000

/** Of more than these only those that are not well are listed at once, and so many at least. */
const AT_ONCE = 200

export const load: PageServerLoad = async ({ locals, depends, url }) => {
  hears(depends, 'sources', 'places', 'items', 'readings', 'texts', CLOCK)
  const { db } = installation()
  const { role } = signedIn(locals)
  const sources = await loadSources(presentOf(locals))
  const unwell = sources.filter(({ state }) => state !== 'well').length
  return {
    sources: url.searchParams.has('all') ? sources : sources.slice(0, Math.max(AT_ONCE, unwell)),
    count: sources.length,
    waiting: await pendingSenders(db),
    strangers: (await strangers(db, Date.now() - DAY_MS)).map(({ last, ...rest }) => ({
      ...rest,
      lastMs: last.getTime(),
    })),
    turnedAway: (await listTurnedAway(db, new Date(Date.now() - 7 * DAY_MS), 50)).map(
      ({ firstAt, lastAt, ...rest }) => ({ ...rest, firstMs: firstAt.getTime(), lastMs: lastAt.getTime() }),
    ),
    mayCheck: mayDo(role, 'operate'),
    mayConnect: mayDo(role, 'administer'),
  }
}

export const actions: Actions = {
  claim: formAction({
    shape: claimForm,
    taken: ({ name }) => `There is a source called ${name} already. Choose another name.`,
    work: async (form, { trx }) => {
      const id = await claimSender(trx, form)
      if (id === null) throw new Refused('This sender does not wait any more; somebody was faster.')
      return { record: `claimed sender ${form.name}`, to: `/sources/${id}` }
    },
  }),
  refuse: formAction({
    shape: refuseForm,
    work: async ({ id }, { trx }) => {
      await refuseSender(trx, id)
      return { record: 'refused a sender' }
    },
  }),
}
