import { error } from '@sveltejs/kit'
import { listForecasts, useCalendarLink } from '#db/forecast'
import { readSite } from '#db/platform'
import { aheadCalendar } from '$lib/server/forecast/aheadCalendar'
import { installation } from '$lib/server/platform/installation'
import type { RequestHandler } from './$types'

/** What is ahead, for programs that keep calendars: whoever has the address reads it, until it is taken back. */
export const GET: RequestHandler = async ({ params, url }) => {
  const { db } = installation()
  if (!/^rr_[\w-]{32}$/.test(params.token) || !(await useCalendarLink(db, params.token)))
    error(404, 'There is no such calendar; its link may have been deleted.')
  const site = await readSite(db)
  const body = aheadCalendar(await listForecasts(db, ['crosses', 'over']), {
    name: `${site.name}: ahead`,
    timeZone: site.timeZone,
    origin: url.origin,
    nowMs: Date.now(),
  })
  return new Response(body, {
    headers: { 'content-type': 'text/calendar; charset=utf-8', 'cache-control': 'private, max-age=300' },
  })
}
