import { calledOf, GEAR_STATES, serviceSentence, servicesSentence } from '#core/gear'
import { loadGraph } from '$lib/server/links/paths'
import { keptByServices } from '$lib/server/past/availability'
import { hears } from '$lib/server/platform/hears'
import { presentOf } from '$lib/server/platform/present'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ depends, locals }) => {
  hears(depends, 'alerts', 'quiet', 'sources', 'places')
  const present = presentOf(locals)
  const [{ groups }, scopes] = await Promise.all([loadGraph(present), present.scopes()])
  const services = groups
    .filter(({ isService }) => isService)
    .sort((a, b) => GEAR_STATES.indexOf(a.state.state) - GEAR_STATES.indexOf(b.state.state))
  const kept = await keptByServices(present, services, scopes)
  return {
    sentence: servicesSentence(services),
    services: services.map((service) => {
      const { id, owner, note, level, state } = service
      const called = calledOf(service)
      return {
        id,
        called: `${called[0]!.toUpperCase()}${called.slice(1)}`,
        owner,
        note,
        isPromised: level !== null,
        state: state.state,
        sentence: serviceSentence(service),
        kept: kept.get(id) ?? null,
      }
    }),
  }
}
