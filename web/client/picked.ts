import { goto } from '$app/navigation'
import { page } from '$app/state'

/** Has the curves of these shown, and no others: the address says which. */
export function showSeries(seriesIds: readonly number[]): void {
  const next = new URL(page.url)
  next.searchParams.set('r', seriesIds.join(','))
  void goto(next, { replaceState: true, keepFocus: true, noScroll: true })
}

/** Has all of the page look at this window. */
export function zoomTo(fromMs: number, toMs: number): void {
  const next = new URL(page.url)
  next.searchParams.delete('w')
  next.searchParams.set('from', String(fromMs))
  next.searchParams.set('to', String(toMs))
  void goto(next, { keepFocus: true, noScroll: true })
}
