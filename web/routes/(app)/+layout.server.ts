import { loadShell } from '$lib/server/shell/shell'
import { presentOf } from '$lib/server/platform/present'
import type { LayoutServerLoad } from './$types'
import { signedIn } from '$lib/server/platform/signedIn'
import { hears } from '$lib/server/platform/hears'
import { ownMeasures } from '$lib/server/readings/ownMeasures'
import { CLOCK } from '$lib/client/topics'

export const load: LayoutServerLoad = async ({ locals, depends }) => {
  hears(
    depends,
    'alerts',
    'quiet',
    'sources',
    'places',
    'callouts',
    'demo',
    'accounts',
    'measures',
    'forecasts',
    CLOCK,
  )
  const { name, role, theme, temperatures } = signedIn(locals)
  const present = presentOf(locals)
  const [shell, measures] = await Promise.all([loadShell(present), ownMeasures(present.db)])
  return { user: { name, role, theme, temperatures }, shell, measures }
}
