import { stringify } from 'devalue'
import { loadCharts } from '$lib/server/readings/charts'
import { presentOf } from '$lib/server/platform/present'
import { idOf } from '$lib/server/platform/params'
import { seriesIn } from '$lib/server/readings/seriesParam'
import { windowIn } from '$lib/server/readings/window'
import type { RequestHandler } from './$types'

const MOST_SERIES = 24

export const GET: RequestHandler = async ({ params, url, locals }) => {
  const present = presentOf(locals)
  const window = windowIn(url, present.nowMs)
  const pixels = Math.min(2000, Math.max(100, Number(url.searchParams.get('px') ?? 600) || 600))
  const series = seriesIn(url).slice(0, MOST_SERIES)
  const charts = await loadCharts(present, idOf(params.id), series, { window, pixels })
  return new Response(stringify({ window, charts }), { headers: { 'content-type': 'application/json' } })
}
