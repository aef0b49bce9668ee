import { fitsGearList, gearListFilterOf, isFiltering } from '#core/gear'
import { countGearByKind, keepApart, likelyPairs, mergeGear } from '#db/gear'
import type { Db } from '#db/platform'
import { listClocks } from '#db/sources'
import { pairForm } from '$lib/server/gear/forms'
import {
  acceptForm,
  acceptMany,
  ownForm,
  placeForm,
  placeMany,
  quietMany,
  quietWords,
  tagAll,
  tagForm,
  writeMany,
} from '$lib/server/gear/many'
import { FIRST_ROWS, loadGearList } from '$lib/server/gear/gearList'
import { presentOf } from '$lib/server/platform/present'
import type { Actions, PageServerLoad } from './$types'
import { formAction } from '$lib/server/platform/formAction'
import { may } from '$lib/server/platform/signedIn'
import { mergeable } from '$lib/server/gear/gearChange'
import { hears } from '$lib/server/platform/hears'

export const load: PageServerLoad = async ({ depends, locals, url, untrack }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places', 'items', 'series')
  const present = presentOf(locals)
  // The page that is open filters by itself.
  const filter = untrack(() => gearListFilterOf(url.searchParams))
  const most = isFiltering(filter) ? undefined : FIRST_ROWS
  const [list, kinds, states, pairs] = await Promise.all([
    loadGearList(present, most),
    countGearByKind(present.db),
    present.states(),
    likelyPairs(present.db),
  ])
  const count = kinds.reduce((sum, kind) => sum + kind.count, 0)
  const seenBy = await sourceNames(
    present.db,
    pairs.flatMap(({ a, b }) => [...a.sourceIds, ...b.sourceIds]),
  )
  const fitting = list.filter((gear) => fitsGearList(gear, filter))
  const mayAdminister = may(locals, 'administer')
  const [racks, ownFields] = mayAdminister
    ? await Promise.all([present.racks(), present.ownFields()])
    : [[], []]
  return {
    mayAdminister,
    mayOperate: may(locals, 'operate'),
    racks: racks.map(({ id, name }) => ({ id, name })),
    ownFields: ownFields.map(({ name }) => name),
    pairs: pairs.map(({ a, b, why }) => ({
      why,
      a: { id: a.id, name: a.name, kind: a.kind, seenBy: seenBy(a.sourceIds) },
      b: { id: b.id, name: b.name, kind: b.kind, seenBy: seenBy(b.sourceIds) },
    })),
    list: {
      rows: fitting.slice(0, FIRST_ROWS),
      isWhole: count <= FIRST_ROWS && most !== undefined,
    },
    count,
    fitCount: most === undefined ? fitting.length : count,
    kinds: Object.fromEntries(kinds.map(({ kind, count: some }) => [kind, some])),
    unwell: states.size,
  }
}

async function sourceNames(db: Db, ids: readonly number[]) {
  const sources = await listClocks(db, ids)
  return (some: readonly number[]): string =>
    sources
      .filter(({ id }) => some.includes(id))
      .map(({ name }) => name)
      .sort()
      .join(', ')
}

export const actions: Actions = {
  quiet: formAction({ shape: quietWords, work: quietMany }),
  accept: formAction({ shape: acceptForm, work: acceptMany }),
  tag: formAction({ shape: tagForm, work: tagAll }),
  own: formAction({ shape: ownForm, work: writeMany }),
  place: formAction({ shape: placeForm, work: placeMany }),
  merge: formAction({
    shape: pairForm,
    work: async ({ a, b }, { trx, user }) => {
      await mergeable(() => mergeGear(trx, { keptId: a, mergedId: b, who: user.name }))
      return { record: `made one of gear ${a} and ${b}` }
    },
  }),
  apart: formAction({
    shape: pairForm,
    work: async ({ a, b }, { trx, user }) => {
      await keepApart(trx, [a, b], user.name)
      return { record: `said that gear ${a} and ${b} are two` }
    },
  }),
}
