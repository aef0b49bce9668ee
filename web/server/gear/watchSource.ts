import { GEAR_STATES, serviceSentence } from '#core/gear'
import { someGroups } from '../links/paths.ts'
import type { WatchSource } from '../shell/watchSource.ts'

const MOST = 4

/** Services that do not work, or of which something is lost: what people outside the machine room notice. */
export const services: WatchSource = {
  hears: ['alerts', 'quiet', 'sources', 'places'],
  async load(present) {
    const groups = await present.groups()
    const own = groups.filter(({ isService }) => isService)
    const saidNothing = { finding: { urgent: 0, clauses: [] }, rows: [], sourceIds: [], notes: [] }
    if (own.length === 0) return saidNothing
    const ill = (await someGroups(present, groups, new Set(own.map(({ id }) => id))))
      .filter(({ isService, state, members, groups: inner }) => {
        const isWell = state.state === 'well' || state.state === 'quiet'
        // One to which nothing belongs yet is being set up.
        return isService && !isWell && members.length + inner.length > 0
      })
      .sort((a, b) => GEAR_STATES.indexOf(a.state.state) - GEAR_STATES.indexOf(b.state.state))
    if (ill.length === 0) return saidNothing
    return {
      ...saidNothing,
      finding: {
        urgent: 0,
        clauses: ill.filter(({ state }) => state.state === 'critical').map(serviceSentence),
      },
      aside: {
        title: 'Services',
        note: `${ill.length} of ${own.length} not as ${own.length === 1 ? 'it' : 'they'} should be`,
        href: '/gear/services',
        rows: ill.slice(0, MOST).map((service) => ({
          href: `/gear/groups/${service.id}`,
          name: serviceSentence(service),
          text: '',
          state: service.state.state,
          atMs: null,
        })),
      },
    }
  },
}
