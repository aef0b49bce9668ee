import { type Page, test as base } from '@playwright/test'
import { type Role, sessionOf } from './places.ts'

export { expect, type Page } from '@playwright/test'

/** Where the tests of this project look, or the installation of this test. */
export const addressOf = (): string => test.info().project.use.baseURL!

/** Pages are used once their own script answers: what is chosen in a form before that is set back by it. */
export const test = base.extend<{
  /** Who has signed in; nobody when not said. */
  role: Role | null
}>({
  role: [null, { option: true }],
  storageState: async ({ role, baseURL }, use) =>
    use(role === null ? { cookies: [], origins: [] } : sessionOf(role, baseURL!)),
  page: async ({ page }, use) => use(waiting(page)),
})

/** A page that is there once its own script answers. */
export function waiting(page: Page): Page {
  const isHydrated = () => page.locator('html[data-hydrated]').waitFor({ state: 'attached' })
  const [goTo, reload] = [page.goto.bind(page), page.reload.bind(page)]
  page.goto = async (url, options) => {
    const answer = await goTo(url, options)
    if ((answer?.status() ?? 0) >= 500) throw new Error(`${url} answers ${await answer?.text()}`)
    if (answer?.headers()['content-type']?.startsWith('text/html')) await isHydrated()
    return answer
  }
  page.reload = async (options) => {
    const answer = await reload(options)
    await isHydrated()
    return answer
  }
  return page
}
