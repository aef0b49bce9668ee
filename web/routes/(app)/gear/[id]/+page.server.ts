import { error } from '@sveltejs/kit'
import { mergesOf, splitSource, undoMerge, listGearChanges } from '#db/gear'
import { drawLink, eraseLink } from '#db/links'
import { listRacks } from '#db/site'
import { inventoryForm, gearForm, mergeForm, splitForm } from '$lib/server/gear/forms'
import { linkForm, linkTo, unlinkForm } from '$lib/server/links/forms'
import { changeGear, changeInventory, mergeable } from '$lib/server/gear/gearChange'
import { loadGearPage } from '$lib/server/gear/gearPage'
import { inventoryOf } from '$lib/server/gear/inventory'
import { loadGraph, pathView } from '$lib/server/links/pathView'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { seriesIn } from '$lib/server/readings/seriesParam'
import { windowIn } from '$lib/server/readings/window'
import { Refused } from '$lib/server/platform/refused'
import type { Actions, PageServerLoad } from './$types'
import { formAction } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { loadCharts } from '$lib/server/readings/charts'
import { hears, hearsSources } from '$lib/server/platform/hears'

const CURVE_PIXELS = 600

export const load: PageServerLoad = async ({ params, url, locals, depends, isDataRequest }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places', 'items', 'series', 'rules', 'callouts', 'texts')
  const nowMs = Date.now()
  const window = windowIn(url, nowMs)
  const view = await loadGearPage(installation().db, idOf(params.id), seriesIn(url), window, nowMs)
  if (view === null) error(404, 'There is no such gear.')
  hearsSources(depends, view.gear.sourceIds)
  const { db } = installation()
  const id = idOf(params.id)
  const [racks, merges, graph, changes] = await Promise.all([
    listRacks(db),
    mergesOf(db, id),
    loadGraph(db, nowMs),
    listGearChanges(db, { gearId: id, limit: 50 }),
  ])
  const mayAdminister = may(locals, 'administer')
  // A page that is open already asks for its curves by themselves: they come with what is read, not with what is looked at.
  const charts = isDataRequest ? null : await loadCharts(db, id, view.picked, window, CURVE_PIXELS)
  return {
    ...view,
    window,
    charts,
    hangs: pathView(graph, [id]),
    changes,
    inventory: await inventoryOf(db, id),
    names: mayAdminister ? [...graph.rows.values()].map(({ name }) => name) : [],
    racks: racks.map(({ id, name, heightUnits }) => ({ id, name, heightUnits })),
    merges: merges.map(({ at, ...merge }) => ({ ...merge, atMs: at.getTime() })),
    mayOperate: may(locals, 'operate'),
    mayAdminister,
  }
}

const PLACES = [{ topic: 'places' }] as const

export const actions: Actions = {
  change: formAction({
    shape: gearForm,
    work: async (form, { trx, user, params }) => {
      await changeGear(trx, idOf(params['id']!), form, user.name)
      return { record: `changed gear ${form.name}` }
    },
  }),
  inventory: formAction({
    shape: inventoryForm,
    says: 'bookMessage',
    work: async (form, { trx, user, params }) => {
      await changeInventory(trx, idOf(params['id']!), form, user.name)
      return { tells: PLACES }
    },
  }),
  link: formAction({
    shape: linkForm,
    says: 'linkMessage',
    work: async (form, { trx, user, params }) => {
      const { kind, fromGearId, toGearId } = await linkTo(trx, idOf(params['id']!), form)
      if (!(await drawLink(trx, { kind, fromGearId, toGearId }, user.name)))
        throw new Refused('This link is drawn already.')
      return { record: `drew a link ${kind} between gear ${fromGearId} and ${toGearId}`, tells: PLACES }
    },
  }),
  unlink: formAction({
    shape: unlinkForm,
    says: 'linkMessage',
    work: async ({ link }, { trx }) => {
      if (!(await eraseLink(trx, link)))
        throw new Refused('A source tells of this link; it goes when the source tells otherwise.')
      return { record: `erased link ${link}`, tells: PLACES }
    },
  }),
  undo: formAction({
    shape: mergeForm,
    work: async ({ merge }, { trx, user, params }) => {
      await mergeable(() => undoMerge(trx, merge, user.name))
      return { record: `took gear ${params['id']} apart again` }
    },
  }),
  split: formAction({
    shape: splitForm,
    work: async ({ source }, { trx, user, params }) => {
      const gearId = idOf(params['id']!)
      const made = await mergeable(() => splitSource(trx, { gearId, sourceId: source, who: user.name }))
      return { record: `took what source ${source} sees apart from gear ${gearId}`, to: `/gear/${made}` }
    },
  }),
}
