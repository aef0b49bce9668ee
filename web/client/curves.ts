import { parse } from 'devalue'
import type { TimeWindow } from '#core/readings'
import type { ChartView } from '$lib/server/readings/charts'

export interface Charts {
  readonly window: TimeWindow
  readonly charts: readonly ChartView[]
}

/** The curves of some series of a gear; `search` is the address's own, so that the window is the same. */
export async function fetchCharts(
  gearId: number,
  seriesIds: readonly number[],
  search: string,
  signal: AbortSignal,
): Promise<Charts> {
  const asked = new URLSearchParams(search)
  asked.set('r', seriesIds.join(','))
  const reply = await fetch(`/gear/${gearId}/curves?${asked}`, { signal })
  if (!reply.ok) throw new Error(`the server answered ${reply.status}`)
  return parse(await reply.text()) as Charts
}
