import { redirect } from '@sveltejs/kit'

/** What is asked of weeks is not shown for the hours that other screens begin with. @throws Redirect */
export function askOverWeeks(url: URL): void {
  if (url.searchParams.has('w') || url.searchParams.has('from')) return
  const asked = new URLSearchParams(url.search)
  asked.set('w', '30d')
  redirect(302, `${url.pathname}?${asked}`)
}
