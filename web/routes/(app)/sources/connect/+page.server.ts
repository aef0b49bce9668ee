import { fail, redirect } from '@sveltejs/kit'
import type { z } from 'zod'
import { isServerAway, recordChange } from '#db/platform'
import { listMappings, listCredentials } from '#db/sources'
import { listRacks } from '#db/site'
import {
  checkFromForm,
  loadCheck,
  mapAndCheck,
  saveChecked,
  trustAndCheck,
} from '$lib/server/sources/connecting'
import { checkForm, firstProblem, mapForm, newSender, saveForm, trustForm } from '$lib/server/platform/forms'
import { installation } from '$lib/server/platform/installation'
import { addSender } from '$lib/server/sources/newSender'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('rack:live')
  const { db, receiverPort } = installation()
  const asked = url.searchParams.get('check')
  const check = asked === null ? null : await loadCheck(db, asked)
  return {
    check,
    prefill: check === null ? prefillOf(url) : null,
    hasGone: asked !== null && check === null,
    credentials: await listCredentials(db),
    mappings: (await listMappings(db)).map(({ id, name, protocol }) => ({ id, name, protocol })),
    racks: await listRacks(db),
    receiverPort,
  }
}

/** What another screen has found out already. */
function prefillOf(url: URL) {
  const of = (name: string): string => (url.searchParams.get(name) ?? '').slice(0, 300)
  const address = of('address')
  if (address === '') return null
  const credential = Number(of('credential'))
  return {
    id: '',
    protocol: of('protocol') || 'redfish',
    address,
    settings: Object.fromEntries(
      ['version', 'authentication', 'privacy', 'access'].map((name) => [name, of(name)]),
    ) as Record<string, unknown>,
    credentialId: credential > 0 ? credential : null,
    hasOwnSecret: false,
  }
}

/** Parses a form, does the work, and turns what a person can mend into a sentence beside the form. */
async function answered<Shape extends z.ZodType, Result>(
  about: 'address' | 'trust' | 'map' | 'save' | 'push',
  { shape, request }: { shape: Shape; request: Request },
  work: (form: z.infer<Shape>) => Promise<Result>,
) {
  const refuse = (message: string) => fail(400, { about, message, token: null, name: null })
  const parsed = shape.safeParse(Object.fromEntries(await request.formData()))
  if (!parsed.success) return refuse(firstProblem(parsed.error))
  try {
    return await work(parsed.data)
  } catch (error) {
    if (isServerAway(error)) throw error
    if (error instanceof Refused) return refuse(error.message)
    if (error instanceof Error && 'code' in error && error.code === '23505')
      return refuse('A source, a credential or a mapping of this name is there already. Choose another name.')
    throw error
  }
}

export const actions: Actions = {
  check: ({ request, locals }) =>
    answered('address', { shape: checkForm, request }, async (form) => {
      const { db, key } = installation()
      const id = await checkFromForm(db, key, { form, requestedBy: locals.user!.name })
      redirect(303, `/sources/connect?check=${id}`)
    }),
  trust: ({ request, locals }) =>
    answered('trust', { shape: trustForm, request }, async ({ check, trust }) => {
      const { db, key } = installation()
      const id = await trustAndCheck(db, key, { id: check, trust, requestedBy: locals.user!.name })
      redirect(303, `/sources/connect?check=${id}`)
    }),
  map: ({ request, locals }) =>
    answered('map', { shape: mapForm, request }, async ({ check, map }) => {
      const { db, key } = installation()
      const id = await mapAndCheck(db, key, { id: check, map, requestedBy: locals.user!.name })
      redirect(303, `/sources/connect?check=${id}`)
    }),
  save: ({ request, locals }) =>
    answered('save', { shape: saveForm, request }, async (form) => {
      const { db, key } = installation()
      const id = await saveChecked(db, key, form)
      await recordChange(db, locals.user!.name, `connected source ${form.name}`)
      redirect(303, `/sources/${id}`)
    }),
  push: ({ request, locals }) =>
    answered('push', { shape: newSender, request }, async (form) => {
      const { db } = installation()
      const token = await addSender(db, form)
      await recordChange(db, locals.user!.name, `connected source ${form.name}`)
      return { about: 'push' as const, message: null, token, name: form.name }
    }),
}
