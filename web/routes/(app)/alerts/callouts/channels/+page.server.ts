import { fail, redirect } from '@sveltejs/kit'
import { listCommands, deleteChannel, listChannels, channelHealth, listPeople } from '#db/callouts'
import { keepChannel, testChannel, testOutcome } from '$lib/server/callouts/callOutActions'
import { installation } from '$lib/server/platform/installation'
import { textFields } from '$lib/server/rules/ruleActions'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('rack:live')
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

export const actions: Actions = {
  keep: ({ request, locals, url }) => keepChannel(request, locals.user!.name, url.origin),
  remove: async ({ request, locals }) => {
    const id = textFields(await request.formData())['id'] ?? ''
    const users = await deleteChannel(installation().db, Number(id), locals.user!.name)
    if (users.length > 0)
      return fail(400, {
        about: id,
        message: `It stays: ${users.map((name) => `«${name}»`).join(', ')} tells by it. Change that call-out first.`,
        testId: null,
      })
    return { about: '', message: null, testId: null }
  },
  test: async ({ request, locals, url }) => {
    const { id = '', address = '' } = textFields(await request.formData())
    const testId = await testChannel(installation().db, Number(id), address.trim(), locals.user!.name)
    if (testId === null) return fail(400, { about: id, message: 'That channel is gone.', testId: null })
    redirect(303, `${url.pathname}?test=${testId}`)
  },
}
