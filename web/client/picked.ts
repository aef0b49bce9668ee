import { goto } from '$app/navigation'
import { page } from '$app/state'

/** Has the page asked for anew with these in its address; what is empty goes out of it. */
export function ask(change: Readonly<Record<string, string>>): void {
  const next = new URL(page.url)
  for (const [name, value] of Object.entries(change))
    if (value === '') next.searchParams.delete(name)
    else next.searchParams.set(name, value)
  void goto(next, { replaceState: true, keepFocus: true, noScroll: true })
}

/** Has the page shown with another address, to which one can go back from the next. */
export function show(change: (query: URLSearchParams) => void): void {
  const next = new URL(page.url)
  change(next.searchParams)
  void goto(next, { keepFocus: true, noScroll: true })
}

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
