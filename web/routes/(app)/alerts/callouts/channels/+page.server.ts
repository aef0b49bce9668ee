import { listCommands, deleteChannel, listChannels, channelHealth, listPeople } from '#db/callouts'
import { keepChannel, testChannel, testOutcome, channelForm } from '$lib/server/callouts/callOutActions'
import { installation } from '$lib/server/platform/installation'
import type { Actions, PageServerLoad } from './$types'
import { Refused } from '$lib/server/platform/refused'
import { formAction, idField } from '$lib/server/platform/formAction'
import { quoted } from '#core/units'
import { writeWebAddress } from '#db/platform'
import { z } from 'zod'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ url, depends }) => {
  hears(depends, 'callouts')
  const { db } = installation()
  const [channels, health, people, commands, test] = await Promise.all([
    listChannels(db),
    channelHealth(db, new Date()),
    listPeople(db),
    listCommands(db),
    testOutcome(db, url.searchParams.get('test') ?? ''),
  ])
  return {
    channels: channels.map((each) => {
      const state = health.find(({ id }) => id === each.id)
      return {
        ...each,
        stuck: state?.stuck ?? 0,
        answer: state?.answer ?? null,
        throughAtMs: state?.throughAt?.getTime() ?? null,
      }
    }),
    people: people.map(({ name, email, phone }) => ({ name, email, phone })),
    commands,
    test,
  }
}

const about = (fields: Readonly<Record<string, unknown>>) => ({
  about: typeof fields['id'] === 'string' ? fields['id'] : '',
  testId: null,
})

export const actions: Actions = {
  keep: formAction({
    shape: channelForm,
    about,
    work: async (form, { trx, user, url }) => {
      const id = await keepChannel(trx, form, user.name)
      await writeWebAddress(trx, `${url.origin}/`)
      return { done: { about: String(id) } }
    },
  }),
  remove: formAction({
    shape: idField,
    about,
    work: async ({ id }, { trx, user }) => {
      const users = await deleteChannel(trx, id, user.name)
      if (users.length > 0)
        throw new Refused(`It stays: ${quoted(users)} notifies by it. Change that call-out first.`)
      return { done: { about: '' } }
    },
  }),
  test: formAction({
    shape: idField.extend({ address: z.string().trim().default('') }),
    about,
    work: async ({ id, address }, { trx, user, url }) => {
      const testId = await testChannel(trx, id, address, user.name)
      if (testId === null) throw new Refused('That channel is gone.')
      return { to: `${url.pathname}?test=${testId}` }
    },
  }),
}
