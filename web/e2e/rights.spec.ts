import { mayDo } from '#core/accounts'
import { neededRole } from '../server/platform/access.ts'
import { addressOf, expect, test } from './hydrated.ts'
import { cause, mend, threeIntervalsMs } from './site.ts'

const SECRETS = ['only-reads-the-demo', 'harbour-read', 'harbour-auth-demo', 'harbour-priv-demo', 'rr_demo_']

test.describe('who may only see', () => {
  test.use({ role: 'see' })
  test.afterEach(() => mend('petrel-08'))

  test('cannot take an alert, by the screen or by the route', async ({ page }) => {
    await cause({ gear: 'petrel-08', fault: 'stop-fan', part: '2' })
    await page.goto('/')
    const row = page.getByTestId('alert-row').filter({ hasText: 'Fan 2 stopped in petrel-08' })
    await expect(row).toBeVisible({ timeout: threeIntervalsMs() })
    await expect(page.getByRole('button', { name: 'Take' })).toHaveCount(0)
    for (let id = 1; id <= 12; id += 1) {
      const reply = await page.request.post(`/alerts/${id}/take`, { headers: { origin: addressOf() } })
      expect(reply.status()).toBe(403)
      expect(await reply.text()).toContain('needs the right to operate')
    }
    await expect(row.getByTestId('taken-by')).toHaveCount(0)
  })

  test('sees no credential and nothing to connect with, and the routes refuse', async ({ page }) => {
    await page.goto('/sources')
    await expect(page.getByRole('link', { name: 'Connect' })).toHaveCount(0)
    await expect(page.getByRole('link', { name: 'Settings' })).toHaveCount(0)
    const origin = { origin: addressOf() }
    const replies = await Promise.all([
      page.request.get('/sources/connect'),
      ...['?/claim', '?/refuse'].map((path) =>
        page.request.post(`/sources${path}`, { headers: origin, form: { id: '1' } }),
      ),
      ...['connect?/check', 'connect?/trust', 'connect?/save', 'connect?/push', '1?/pick', '1?/remove'].map(
        (path) => page.request.post(`/sources/${path}`, { headers: origin, form: { name: 'x' } }),
      ),
      page.request.post('/sources/1/check', { headers: origin }),
      page.request.post('/rooms?/addRoom', { headers: origin, form: { name: 'x' } }),
      page.request.post('/settings?/let-in', { headers: origin, form: { name: 'x' } }),
      page.request.get('/settings'),
      page.request.get('/settings/credentials'),
    ])
    expect(replies.map((reply) => reply.status())).toEqual(replies.map(() => 403))
  })
})

for (const role of ['see', 'operate'] as const)
  test.describe(`who may ${role} only`, () => {
    test.use({ role })
    test('is offered nothing that they may not do; a page without the right has its frame and a sentence', async ({
      page,
    }) => {
      await page.goto('/settings')
      await expect(page.getByTestId('sentence')).toHaveText(
        `This needs the right to administer; your account may ${role}.`,
      )
      await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible()
      expect(await (await page.request.get('/settings/__data.json')).json()).toEqual({
        type: 'redirect',
        location: '/not-allowed?needs=administer',
      })
      const pages = {
        '/': '/(app)',
        '/alerts': '/(app)/alerts',
        '/alerts/rules': '/(app)/alerts/rules',
        '/alerts/rules/1': '/(app)/alerts/rules/[id]',
        '/alerts/callouts': '/(app)/alerts/callouts',
        '/alerts/quiet': '/(app)/alerts/quiet',
        '/logs': '/(app)/logs',
        '/rooms': '/(app)/rooms',
        '/gear': '/(app)/gear',
        '/gear/1': '/(app)/gear/[id]',
        '/gear/groups': '/(app)/gear/groups',
        '/gear/services': '/(app)/gear/services',
        '/gear/tags': '/(app)/gear/tags',
        '/gear/inventory': '/(app)/gear/inventory',
        '/sources': '/(app)/sources',
        '/sources/1': '/(app)/sources/[id]',
      }
      const offered: string[] = []
      for (const [path, route] of Object.entries(pages)) {
        await page.goto(path)
        const actions = await page
          .locator('form[method="POST"], [formaction]')
          .evaluateAll((all) =>
            all.map((each) => each.getAttribute('formaction') ?? each.getAttribute('action') ?? ''),
          )
        for (const action of new Set(actions)) {
          const isOwn = action.startsWith('?/')
          const needed = neededRole(isOwn ? route : `/(app)${action}`, 'POST', isOwn ? action.slice(2) : null)
          if (needed !== null && !mayDo(role, needed)) offered.push(`${path} ${action}`)
        }
      }
      // A rule is read in its form, which is shut.
      await page.goto('/alerts/rules/1')
      await expect(page.getByRole('button', { name: /Save|Rehearse|Delete|Switch/ })).toHaveCount(0)
      expect(offered.filter((each) => each !== '/alerts/rules/1 ?/save')).toEqual([])
    })
  })

for (const role of ['see', 'administer'] as const) {
  test.describe(`who may ${role}`, () => {
    test.use({ role })
    test('is never sent a secret', async ({ page }) => {
      const paths = [
        '/',
        '/gear',
        '/gear/1',
        '/rooms',
        '/sources',
        '/sources/3',
        ...(role === 'see' ? [] : ['/settings', '/settings/credentials', '/sources/connect']),
      ]
      for (const path of paths) {
        for (const address of [path, `${path === '/' ? '' : path}/__data.json`]) {
          const reply = await page.request.get(address)
          expect(reply.ok(), address).toBe(true)
          const text = await reply.text()
          for (const secret of SECRETS)
            expect(text.includes(secret), `${address} holds ${secret}`).toBe(false)
          expect(text).not.toMatch(/\bsealed\b["']|tokenHash/)
        }
      }
    })
  })
}

test.describe('without a session', () => {
  test('pages lead to the sign-in, everything else is refused', async ({ page }) => {
    await page.goto('/rooms')
    await expect(page).toHaveURL(/\/sign-in\?to=%2Frooms/)
    const bare = { accept: 'application/json', origin: addressOf() }
    for (const path of ['/live', '/find?q=petrel', '/gear/1/curves?r=1', '/sources/__data.json']) {
      expect((await page.request.get(path, { headers: bare })).status(), path).toBe(401)
    }
    expect((await page.request.post('/alerts/1/take', { headers: bare })).status()).toBe(401)
  })
  test('the sign-in follows no address but its own', async ({ page }) => {
    await page.goto('/sign-in?to=//elsewhere.example/')
    await page.getByLabel('Mail address').fill('cleo@kittiwake.example')
    await page.getByLabel('Password').fill('kittiwake-demo')
    await page.getByRole('button', { name: 'Sign in' }).click()
    await expect(page).toHaveURL('/')
  })
})

test.describe('a request from another page', () => {
  test.use({ role: 'operate' })
  test('is refused, whoever is signed in', async ({ page }) => {
    for (const origin of ['https://elsewhere.example', 'null', '']) {
      const headers = { origin }
      const reply = await page.request.post('/alerts/1/take', { headers })
      expect(reply.status()).toBe(403)
      expect(await reply.text()).toContain('did not come from a page of this installation')
    }
  })
  test('answers carry the security headers', async ({ page }) => {
    const headers = (await page.request.get('/')).headers()
    expect(headers['content-security-policy']).toMatch(/default-src 'none'.*script-src 'self' 'nonce-/)
    expect(headers['content-security-policy']).toContain("frame-ancestors 'none'")
    expect(headers['content-security-policy']).not.toContain('unsafe-inline')
    expect(headers['x-content-type-options']).toBe('nosniff')
    expect(headers['cache-control']).toContain('no-store')
  })
})
