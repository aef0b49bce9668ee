import { deleteKnownJob, writeKnownJob } from '#db/past'
import { knownJobForm } from '$lib/server/past/forms'
import { loadQuietHours } from '$lib/server/past/quiet'
import { formAction, idField } from '$lib/server/platform/formAction'
import { presentOf } from '$lib/server/platform/present'
import { Refused } from '$lib/server/platform/refused'
import { may } from '$lib/server/platform/signedIn'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, url }) => ({
  ...(await loadQuietHours(presentOf(locals), url)),
  mayOperate: may(locals, 'operate'),
})

export const actions: Actions = {
  addJob: formAction({
    shape: knownJobForm,
    work: async (job, { trx, user }) => {
      await writeKnownJob(trx, job, user.name)
      return { record: `noted when ${job.name} runs` }
    },
  }),
  deleteJob: formAction({
    shape: idField,
    work: async ({ id }, { trx }) => {
      const name = await deleteKnownJob(trx, id)
      if (name === undefined) throw new Refused('This job is not noted any more.')
      return { record: `deleted the known job ${name}` }
    },
  }),
}
