import { liveStream } from '$lib/server/platform/live'

export const GET = () =>
  new Response(liveStream(), {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  })
