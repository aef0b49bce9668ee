import { sql } from 'kysely'
import { installation } from '$lib/server/platform/installation'

/** Whether a page could be gathered now: the database answers. */
export const GET = async () => {
  try {
    await sql`select 1`.execute(installation().db)
    return new Response('ready\n', { headers: { 'content-type': 'text/plain' } })
  } catch {
    return new Response('the database is away\n', { status: 503, headers: { 'content-type': 'text/plain' } })
  }
}
