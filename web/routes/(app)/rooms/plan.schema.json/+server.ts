import { planSchema } from '$lib/server/site/planFile'
import type { RequestHandler } from './$types'

export const GET: RequestHandler = () =>
  new Response(JSON.stringify(planSchema(), null, 2) + '\n', {
    headers: { 'content-type': 'application/schema+json' },
  })
