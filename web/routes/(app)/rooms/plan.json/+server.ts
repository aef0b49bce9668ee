import { installation } from '$lib/server/platform/installation'
import { exportPlan } from '$lib/server/site/planFile'
import type { RequestHandler } from './$types'

export const GET: RequestHandler = async () =>
  new Response(JSON.stringify(await exportPlan(installation().db), null, 2) + '\n', {
    headers: {
      'content-type': 'application/json',
      'content-disposition': 'attachment; filename="rooms.json"',
    },
  })
