import { error } from '@sveltejs/kit'
import { findGear } from '#db/gear'
import { gearActions } from '$lib/server/gear/gearActions'
import { GEAR_SECTIONS, loadGearPage } from '$lib/server/gear/gearPage'
import { GearAbout } from '$lib/server/gear/section'
import { linkActions } from '$lib/server/links/gearActions'
import { hears, hearsSources } from '$lib/server/platform/hears'
import { idOf } from '$lib/server/platform/params'
import { presentOf } from '$lib/server/platform/present'
import { powerActions } from '$lib/server/power/gearActions'
import { may } from '$lib/server/platform/signedIn'
import { seriesIn } from '$lib/server/readings/seriesParam'
import { windowIn } from '$lib/server/readings/window'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ params, url, locals, depends, isDataRequest }) => {
  hears(depends, 'places', ...Object.values(GEAR_SECTIONS).flatMap((section) => section.hears))
  const present = presentOf(locals)
  const gear = await findGear(present.db, idOf(params.id))
  if (gear === undefined) error(404, 'There is no such gear.')
  hearsSources(depends, gear.sourceIds)
  const window = windowIn(url, present.nowMs)
  const mayAdminister = may(locals, 'administer')
  const about = new GearAbout(present, gear, {
    window,
    seriesIds: seriesIn(url),
    isFirst: !isDataRequest,
    mayAdminister,
  })
  return { ...(await loadGearPage(about)), window, mayOperate: may(locals, 'operate'), mayAdminister }
}

export const actions = { ...gearActions, ...linkActions, ...powerActions } satisfies Actions
