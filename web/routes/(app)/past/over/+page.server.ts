import { loadOver } from '$lib/server/past/over'
import { askOverWeeks, sayScale } from '$lib/server/past/askedWindow'
import { presentOf } from '$lib/server/platform/present'
import { may } from '$lib/server/platform/signedIn'
import { loadRuleOptions } from '$lib/server/rules/rules'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, url }) => {
  askOverWeeks(url)
  sayScale(url)
  const present = presentOf(locals)
  const [found, places] = await Promise.all([loadOver(present, url), loadRuleOptions(present.db)])
  return { ...found, places, mayOperate: may(locals, 'operate'), mayAdminister: may(locals, 'administer') }
}
