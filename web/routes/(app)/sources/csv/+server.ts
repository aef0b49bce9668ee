import { installation } from '$lib/server/platform/installation'
import { exportSources } from '$lib/server/sources/sourcesCsv'
import type { RequestHandler } from './$types'

/** All sources that are asked, as CSV, without anything secret. */
export const GET: RequestHandler = async () =>
  new Response(await exportSources(installation().db), {
    headers: {
      'content-type': 'text/csv; charset=utf-8; header=present',
      'content-disposition': 'attachment; filename="sources.csv"',
    },
  })
