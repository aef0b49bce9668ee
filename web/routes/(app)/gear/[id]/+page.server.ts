import { error, fail, redirect } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import { CannotMerge, mergesOf, splitSource, undoMerge } from '#db/oneThing'
import { listRacks } from '#db/places'
import { recordChange } from '#db/settings'
import { firstProblem, gearForm, mergeForm, splitForm } from '$lib/server/forms'
import { changeGear } from '$lib/server/gearChange'
import { loadGearPage } from '$lib/server/gearPage'
import { installation } from '$lib/server/installation'
import { idOf } from '$lib/server/params'
import { seriesIn } from '$lib/server/seriesParam'
import { windowIn } from '$lib/server/window'
import { Refused } from '$lib/server/refused'
import type { z } from 'zod'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
  depends('rack:live')
  const nowMs = Date.now()
  const window = windowIn(url, nowMs)
  const view = await loadGearPage(installation().db, idOf(params.id), seriesIn(url), window, nowMs)
  if (view === null) error(404, 'There is no such gear.')
  const { db } = installation()
  const [racks, merges] = await Promise.all([listRacks(db), mergesOf(db, idOf(params.id))])
  return {
    ...view,
    window,
    racks: racks.map(({ id, name, heightUnits }) => ({ id, name, heightUnits })),
    merges: merges.map(({ at, ...merge }) => ({ ...merge, atMs: at.getTime() })),
    mayOperate: mayDo(locals.user!.role, 'operate'),
    mayAdminister: mayDo(locals.user!.role, 'administer'),
  }
}

/** Parses a form, does the work, and turns what a person can mend into a sentence. */
async function answered<Shape extends z.ZodType>(
  shape: Shape,
  request: Request,
  work: (form: z.infer<Shape>) => Promise<void>,
) {
  const parsed = shape.safeParse(Object.fromEntries(await request.formData()))
  if (!parsed.success) return fail(400, { message: firstProblem(parsed.error) })
  try {
    await work(parsed.data)
    return { message: null }
  } catch (refusal) {
    if (refusal instanceof Refused || refusal instanceof CannotMerge)
      return fail(400, { message: refusal.message })
    throw refusal
  }
}

export const actions: Actions = {
  change: ({ params, request, locals }) =>
    answered(gearForm, request, async (form) => {
      const { db } = installation()
      await changeGear(db, idOf(params.id), form)
      await recordChange(db, locals.user!.name, `changed gear ${form.name}`)
    }),
  undo: ({ params, request, locals }) =>
    answered(mergeForm, request, async ({ merge }) => {
      const { db } = installation()
      await undoMerge(db, merge, locals.user!.name)
      await recordChange(db, locals.user!.name, `took gear ${params.id} apart again`)
    }),
  split: ({ params, request, locals }) =>
    answered(splitForm, request, async ({ source }) => {
      const { db } = installation()
      const made = await splitSource(db, {
        gearId: idOf(params.id),
        sourceId: source,
        who: locals.user!.name,
      })
      await recordChange(
        db,
        locals.user!.name,
        `took what source ${source} sees apart from gear ${params.id}`,
      )
      redirect(303, `/gear/${made}`)
    }),
}
