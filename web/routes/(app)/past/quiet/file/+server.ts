import { error } from '@sveltejs/kit'
import { quietCalendar } from '$lib/server/past/quiet'
import { presentOf } from '$lib/server/platform/present'
import type { RequestHandler } from './$types'

/** A quiet window as iCalendar (RFC 5545), every week. */
export const GET: RequestHandler = async ({ locals, url }) => {
  const calendar = await quietCalendar(presentOf(locals), url)
  if (calendar === null)
    error(404, 'This window is none of those that are quiet now: look at the page again.')
  return new Response(calendar, {
    headers: {
      'content-type': 'text/calendar; charset=utf-8',
      'content-disposition': 'attachment; filename="quiet-window.ics"',
    },
  })
}
