import { redirect } from '@sveltejs/kit'
import { isMeasureKey, measureOf } from '#core/catalogue'
import { symbolOf, temperatureScale } from '#core/units'

/**
 * An address may be passed on: a temperature without a unit, as it was typed, is written out in the scale of who typed it.
 * @throws Redirect
 */
export function sayScale(url: URL): void {
  const at = url.searchParams.get('at') ?? ''
  const measure = url.searchParams.get('m') ?? ''
  if (!/^\s*[-−]?\d+([.,]\d+)?\s*$/.test(at)) return
  if (temperatureScale() === 'celsius' || !isMeasureKey(measure) || measureOf(measure).unit !== 'celsius')
    return
  const asked = new URLSearchParams(url.search)
  asked.set('at', `${at.trim()} ${symbolOf('celsius')}`)
  redirect(302, `${url.pathname}?${asked}`)
}

/** What is asked of weeks is not shown for the hours that other screens begin with. @throws Redirect */
export function askOverWeeks(url: URL): void {
  if (url.searchParams.has('w') || url.searchParams.has('from')) return
  const asked = new URLSearchParams(url.search)
  asked.set('w', '30d')
  redirect(302, `${url.pathname}?${asked}`)
}
