import { ping } from '#db/platform'
import { installation } from '$lib/server/platform/installation'

/** Whether a page could be gathered now: the database answers. */
export const GET = async () => {
  try {
    await ping(installation().db)
    return new Response('ready\n', { headers: { 'content-type': 'text/plain' } })
  } catch {
    return new Response('the database is away\n', { status: 503, headers: { 'content-type': 'text/plain' } })
  }
}
