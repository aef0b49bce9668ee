import { error, json } from '@sveltejs/kit'
import { drawing } from '#db/readings'
import { installation } from '$lib/server/platform/installation'
import type { RequestHandler } from './$types'

const PIXELS = 700

/** A stored series over some days, for a line to be moved upon. */
export const GET: RequestHandler = async ({ url }) => {
  const [seriesId, days] = ['series', 'days'].map((name) => Number(url.searchParams.get(name)))
  if (!Number.isInteger(seriesId) || seriesId! < 1 || seriesId! >= 1e9 || !(days! >= 1 && days! <= 366))
    error(400, 'Say which series, and how many days.')
  const toMs = Date.now()
  const fromMs = toMs - days! * 86_400_000
  const { curve } = await drawing(installation().db, seriesId!, {
    fromMs,
    toMs,
    pixels: PIXELS,
    longestGapMs: Infinity,
  })
  return json({ fromMs, toMs, points: Array.from(curve.times, (atMs, index) => [atMs, curve.values[index]]) })
}
