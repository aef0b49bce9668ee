import { error, fail, redirect } from '@sveltejs/kit'
import { mayDo } from '#db/accounts'
import {
  CannotMerge,
  mergesOf,
  splitSource,
  undoMerge,
  listGearChanges,
  findGear,
  listGear,
  listOwnFields,
} from '#db/gear'
import { drawLink, eraseLink } from '#db/links'
import { announce, recordChange } from '#db/platform'
import { listRacks } from '#db/site'
import {
  inventoryForm,
  firstProblem,
  gearForm,
  linkForm,
  mergeForm,
  splitForm,
} from '$lib/server/platform/forms'
import { changeGear } from '$lib/server/gear/gearChange'
import { loadGearPage } from '$lib/server/gear/gearPage'
import { inventoryOf } from '$lib/server/gear/inventory'
import { fieldProblem, writeInventory } from '$lib/server/gear/inventoryFile'
import { loadGraph, pathView } from '$lib/server/links/pathView'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { seriesIn } from '$lib/server/readings/seriesParam'
import { windowIn } from '$lib/server/readings/window'
import { Refused } from '$lib/server/platform/refused'
import type { z } from 'zod'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
  depends('rack:live')
  const nowMs = Date.now()
  const window = windowIn(url, nowMs)
  const view = await loadGearPage(installation().db, idOf(params.id), seriesIn(url), window, nowMs)
  if (view === null) error(404, 'There is no such gear.')
  const { db } = installation()
  const id = idOf(params.id)
  const [racks, merges, graph, changes] = await Promise.all([
    listRacks(db),
    mergesOf(db, id),
    loadGraph(db, nowMs),
    listGearChanges(db, { gearId: id, limit: 50 }),
  ])
  const mayAdminister = mayDo(locals.user!.role, 'administer')
  return {
    ...view,
    window,
    hangs: pathView(graph, [id]),
    changes,
    inventory: await inventoryOf(db, id),
    names: mayAdminister ? [...graph.rows.values()].map(({ name }) => name) : [],
    racks: racks.map(({ id, name, heightUnits }) => ({ id, name, heightUnits })),
    merges: merges.map(({ at, ...merge }) => ({ ...merge, atMs: at.getTime() })),
    mayOperate: mayDo(locals.user!.role, 'operate'),
    mayAdminister,
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
      await changeGear(db, idOf(params.id), form, locals.user!.name)
      await recordChange(db, locals.user!.name, `changed gear ${form.name}`)
    }),
  inventory: async ({ params, request, locals }) => {
    const parsed = inventoryForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { bookMessage: firstProblem(parsed.error) })
    const { db } = installation()
    const { warrantyEnds, ...given } = parsed.data
    const own: Record<string, string | null> = {}
    for (const field of await listOwnFields(db)) {
      const value = given[`own.${field.name}`]
      if (value === undefined) continue
      const problem = value === '' ? null : fieldProblem(field, value)
      if (problem !== null) return fail(400, { bookMessage: problem })
      own[field.name] = value === '' ? null : value
    }
    const gear = await findGear(db, idOf(params.id))
    if (gear === undefined) error(404, 'There is no such gear.')
    await db.transaction().execute(async (trx) => {
      const change = { name: gear.name, warrantyEnds: warrantyEnds === '' ? null : warrantyEnds, own }
      await writeInventory(trx, gear, change, locals.user!.name)
      await announce(trx, { topic: 'places' })
    })
    return { bookMessage: null }
  },
  link: async ({ params, request, locals }) => {
    const parsed = linkForm.safeParse(Object.fromEntries(await request.formData()))
    if (!parsed.success) return fail(400, { linkMessage: firstProblem(parsed.error) })
    const { db } = installation()
    const id = idOf(params.id)
    const { kind, way, other } = parsed.data
    const found = (await listGear(db)).filter(({ name }) => name.toLowerCase() === other.toLowerCase())
    if (found.length !== 1)
      return fail(400, {
        linkMessage:
          found.length === 0
            ? `No gear is called «${other}». Choose one of the list.`
            : `${found.length} gear are called «${other}». Rename them so that one is meant.`,
      })
    const otherId = found[0]!.id
    if (otherId === id) return fail(400, { linkMessage: 'A gear cannot hang on itself.' })
    const [fromGearId, toGearId] = way === 'from' ? [id, otherId] : [otherId, id]
    const isNew = await drawLink(db, { kind, fromGearId, toGearId }, locals.user!.name)
    if (!isNew) return fail(400, { linkMessage: 'This link is drawn already.' })
    await recordChange(
      db,
      locals.user!.name,
      `drew a link ${kind} between gear ${fromGearId} and ${toGearId}`,
    )
    await announce(db, { topic: 'places' })
    return { linkMessage: null }
  },
  unlink: async ({ request, locals }) => {
    const { db } = installation()
    const linkId = Number((await request.formData()).get('link'))
    if (!Number.isInteger(linkId) || !(await eraseLink(db, linkId)))
      return fail(400, {
        linkMessage: 'A source tells of this link; it goes when the source tells otherwise.',
      })
    await recordChange(db, locals.user!.name, `erased link ${linkId}`)
    await announce(db, { topic: 'places' })
    return { linkMessage: null }
  },
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
