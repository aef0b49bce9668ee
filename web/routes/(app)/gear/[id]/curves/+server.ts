import { json } from '@sveltejs/kit'
import { loadCharts } from '$lib/server/readings/charts'
import { installation } from '$lib/server/platform/installation'
import { idOf } from '$lib/server/platform/params'
import { seriesIn } from '$lib/server/readings/seriesParam'
import { windowIn } from '$lib/server/readings/window'
import type { RequestHandler } from './$types'

const MOST_SERIES = 24

export const GET: RequestHandler = async ({ params, url }) => {
  const nowMs = Date.now()
  const window = windowIn(url, nowMs)
  const pixels = Math.min(2000, Math.max(100, Number(url.searchParams.get('px') ?? 600) || 600))
  const series = seriesIn(url).slice(0, MOST_SERIES)
  return json({
    window,
    charts: await loadCharts(installation().db, idOf(params.id), series, window, pixels),
  })
}
