import { loadAvailability } from '$lib/server/past/availability'
import { askOverWeeks } from '$lib/server/past/askedWindow'
import { presentOf } from '$lib/server/platform/present'
import { loadRuleOptions } from '$lib/server/rules/rules'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, url }) => {
  askOverWeeks(url)
  const present = presentOf(locals)
  const [found, places] = await Promise.all([loadAvailability(present, url), loadRuleOptions(present.db)])
  return { ...found, places }
}
