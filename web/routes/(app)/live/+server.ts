import { liveStream } from '$lib/server/platform/live'
import { signedIn } from '$lib/server/platform/signedIn'
import type { RequestHandler } from './$types'

export const GET: RequestHandler = ({ locals, request }) => {
  const stream = liveStream(signedIn(locals).id, request.headers)
  if (stream === null)
    return new Response('Too many pages of this account are open at once. Close some.', { status: 429 })
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  })
}
