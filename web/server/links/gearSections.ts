import { gearSection } from '../gear/section.ts'
import { loadPathAround } from './paths.ts'

/** What it hangs on, and what hangs on it. */
export const hangs = gearSection({
  hears: ['alerts', 'quiet', 'sources', 'places'],
  async load({ present, gear }) {
    const view = await loadPathAround(present, gear)
    return view.path.nodes.length > 1 ? view : null
  },
})

/** Its links, and drawing more of them. */
export const links = gearSection({
  hears: ['places'],
  async load(about) {
    if (!about.asked.mayAdminister) return null
    return { links: await about.links() }
  },
})
