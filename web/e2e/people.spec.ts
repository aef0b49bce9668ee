import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser } from '@playwright/test'
import { addressOf, expect, type Page, test } from './hydrated.ts'
import { choose } from './site.ts'

/** A code of the moment, as Debian's oathtool makes it (RFC 6238) from the key as it stands on the page. */
const codeOf = (key: string): string =>
  execFileSync('oathtool', ['--totp', '--base32', key.replaceAll(/\s/g, '')], { encoding: 'utf8' }).trim()

/** Somebody else, at a browser of their own. */
async function elsewhere(browser: Browser): Promise<Page> {
  const context = await browser.newContext({
    baseURL: addressOf(),
    storageState: { cookies: [], origins: [] },
  })
  return context.newPage()
}
const isReady = (page: Page) => page.locator('html[data-hydrated]').waitFor({ state: 'attached' })

async function signIn(page: Page, email: string, password: string): Promise<void> {
  await page.goto('/sign-in')
  await isReady(page)
  await page.getByLabel('Mail address').fill(email)
  await page.getByLabel('Password').fill(password)
  await page.getByRole('button', { name: 'Sign in' }).click()
}

/** The record as lines of JSON, checked by Debian's openssl against the key that stands on the page. */
async function signedRecord(page: Page): Promise<string> {
  const reply = await page.request.get('/settings/record/file?as=jsonl&w=1h')
  expect(reply.ok()).toBe(true)
  const text = await reply.text()
  const at = text.trimEnd().lastIndexOf('\n') + 1
  const last = JSON.parse(text.slice(at)) as { signature: string; key: string; lines: number }
  expect(text.slice(0, at).split('\n')).toHaveLength(last.lines + 1)
  const folder = mkdtempSync(join(tmpdir(), 'rack-record-'))
  const file = (name: string, content: string | Buffer): string => {
    writeFileSync(join(folder, name), content)
    return join(folder, name)
  }
  const key = file('key.pem', last.key)
  const signature = file('signature', Buffer.from(last.signature, 'base64'))
  const verify = (body: string): string =>
    execFileSync(
      'openssl',
      [
        'pkeyutl',
        '-verify',
        '-pubin',
        '-inkey',
        key,
        '-rawin',
        '-in',
        file('body', body),
        '-sigfile',
        signature,
      ],
      { encoding: 'utf8', stdio: 'pipe' },
    )
  expect(verify(text.slice(0, at))).toContain('Verified Successfully')
  expect(() => verify(text.slice(0, at).replace('signed in', 'signed IN'))).toThrow()
  return text.slice(0, at)
}

test.describe('people', () => {
  test.use({ role: 'administer' })

  test('somebody is invited, takes a second factor, is switched off, and the record shows it all', async ({
    page,
    browser,
  }) => {
    test.skip(!existsSync('/usr/bin/oathtool') || !existsSync('/usr/bin/openssl'), 'Debian has the peers')
    const email = `nils-${Date.now()}@kittiwake.example`
    const name = `Nils ${Date.now() % 100_000}`
    await page.goto('/settings')
    const form = page.getByRole('region', { name: 'Invite person' })
    await form.getByLabel('Name').fill(name)
    await form.getByLabel('Mail address').fill(email)
    await choose(form.getByLabel('Role'), { value: 'operate' })
    await form.getByRole('button', { name: 'Create invitation' }).click()
    const link = await page.getByLabel('To be taken along').inputValue()
    const row = page.getByTestId('account-row').filter({ hasText: email })
    await expect(row).toContainText('invited')

    const theirs = await elsewhere(browser)
    await theirs.goto(link)
    await isReady(theirs)
    const setPassword = async (password: string, again = password) => {
      await theirs.getByLabel('Password', { exact: true }).fill(password)
      await theirs.getByLabel('Repeat password').fill(again)
      await theirs.getByRole('button', { name: 'Set password' }).click()
    }
    await setPassword('password123456')
    await expect(theirs.getByRole('alert')).toContainText('tried first')
    await setPassword('gulls over the pier', 'gulls over the peer')
    await expect(theirs.getByRole('alert')).toContainText('not the same')
    await setPassword('gulls over the pier')
    await expect(theirs.getByRole('status')).toContainText('Your password is set')
    const again = await elsewhere(browser)
    await again.goto(link)
    await expect(again.getByRole('alert')).toContainText('used already')
    await again.context().close()

    await signIn(theirs, email, 'gulls over the pier')
    await expect(theirs).toHaveURL(`${addressOf()}/`)

    await theirs.goto('/own')
    await isReady(theirs)
    const factor = theirs.getByRole('region', { name: 'Second factor' })
    await factor.getByLabel('Your password').fill('not this one')
    await factor.getByRole('button', { name: 'Set up' }).click()
    await expect(factor.getByRole('alert')).toContainText('not your present password')
    await factor.getByLabel('Your password').fill('gulls over the pier')
    await factor.getByRole('button', { name: 'Set up' }).click()
    const key = await theirs.getByTestId('factor-key').innerText()
    const recovery = await factor
      .getByRole('list', { name: 'Recovery codes' })
      .getByRole('listitem')
      .allInnerTexts()
    expect(recovery.length).toBeGreaterThanOrEqual(8)
    await factor.getByLabel('The code it shows now').fill(codeOf(key))
    await factor.getByRole('button', { name: 'Enable' }).click()
    await expect(factor.getByRole('status')).toContainText('password and a code')

    // A password alone is not enough from now on; a code is, and each recovery code once.
    const second = await elsewhere(browser)
    await signIn(second, email, 'gulls over the pier')
    await expect(second.getByRole('heading', { name: 'Second step' })).toBeVisible()
    expect((await second.request.get('/gear', { maxRedirects: 0 })).status()).toBe(401)
    await isReady(second)
    const enter = async (code: string) => {
      await second.getByLabel('Code of this half minute').fill(code)
      await second.getByRole('button', { name: 'Sign in' }).click()
    }
    await enter('000000')
    await expect(second.getByRole('alert')).toContainText('does not fit now')
    await enter(recovery[0]!)
    await expect(second).toHaveURL(`${addressOf()}/`)
    const third = await elsewhere(browser)
    await signIn(third, email, 'gulls over the pier')
    await expect(third.getByRole('heading', { name: 'Second step' })).toBeVisible()
    await isReady(third)
    await third.getByLabel('Code of this half minute').fill(recovery[0]!)
    await third.getByRole('button', { name: 'Sign in' }).click()
    await expect(third.getByRole('alert')).toContainText('does not fit now')
    await third.context().close()

    // They may operate, and no more; what they try beyond is in the record.
    expect((await second.request.get('/settings')).status()).toBe(403)

    await row.getByRole('button', { name: `Edit ${name}` }).click()
    await page.getByRole('button', { name: 'Switch off' }).click()
    await expect(row).toContainText('switched off')
    for (const open of [theirs, second]) {
      await expect(open.getByTestId('freshness')).toContainText(/sign(ed)? (in|out)/i, { timeout: 15_000 })
      expect((await open.request.get('/gear', { maxRedirects: 0 })).status()).toBe(401)
    }
    await signIn(second, email, 'gulls over the pier')
    await expect(second.getByRole('alert')).toContainText('switched off')
    await theirs.context().close()
    await second.context().close()

    await page.goto(`/settings/record?w=1h&q=${encodeURIComponent(name)}`)
    const lines = page.getByTestId('record-line')
    for (const words of [
      `invited ${name} (${email}) to operate`,
      'took up the invitation',
      'signed in with a password',
      'set up a second factor',
      'signed in with a password and a recovery code',
      'tried GET /settings, which needs the right to administer',
      `switched the account of ${name} off`,
      'was not let in: the account is switched off',
    ])
      await expect(lines.filter({ hasText: words }).first(), words).toBeVisible()
    const off = lines.filter({ hasText: `switched the account of ${name} off` })
    await off.getByText(/difference/).click()
    await expect(off).toContainText('banned: no → yes')
    const record = await signedRecord(page)
    expect(record).toContain(email)
    expect(record).not.toContain('gulls over')
    expect(record).not.toContain('argon2')
  })

  test('with the directory they come in as their groups say, and not without one', async ({
    page,
    browser,
  }) => {
    const theirs = await elsewhere(browser)
    const come = async (login: string) => {
      await theirs.context().clearCookies()
      await theirs.goto('/sign-in')
      await theirs.getByRole('link', { name: /Sign in with Kittiwake/ }).click()
      await theirs.locator('input[name=login]').fill(login)
      await theirs.locator('input[name=password]').fill('any')
      await theirs.locator('button[type=submit]').click()
      await theirs.getByRole('button', { name: 'Continue' }).click()
    }
    await come('eir')
    await expect(theirs).toHaveURL(`${addressOf()}/`)
    await theirs.goto('/own')
    await expect(theirs.getByRole('heading', { level: 1 })).toContainText(
      'You are Eir Solvik, and may operate; you sign in by the directory',
    )
    expect((await theirs.request.get('/settings')).status()).toBe(403)

    await come('frode')
    await expect(theirs.getByRole('alert')).toContainText('none of your groups may come in')
    expect((await theirs.request.get('/gear', { maxRedirects: 0 })).status()).toBe(401)

    // An answer that was not asked for by this browser is none.
    await theirs.context().clearCookies()
    await theirs.goto('/sign-in/directory/back?code=made-up&state=made-up')
    await expect(theirs.getByRole('alert')).toContainText('did not let you in')
    await theirs.context().close()

    await page.goto('/settings')
    const row = page.getByTestId('account-row').filter({ hasText: 'eir@kittiwake.example' })
    await expect(row).toContainText('directory')
    await expect(page.getByTestId('account-row').filter({ hasText: 'frode@' })).toHaveCount(0)
    await page.goto('/settings/record?w=1h')
    await expect(
      page.getByTestId('record-line').filter({ hasText: 'signed in with Kittiwake Sound directory' }).first(),
    ).toBeVisible()
  })

  test('a token reads what its role may, changes nothing, and ends when it is ended', async ({
    page,
    playwright,
  }) => {
    const name = `wall ${Date.now()}`
    await page.goto('/settings/tokens')
    await page.getByLabel('Name').fill(name)
    await page.getByRole('button', { name: 'Create token' }).click()
    const token = await page.getByLabel('To be taken along').inputValue()
    const program = await playwright.request.newContext({
      baseURL: addressOf(),
      extraHTTPHeaders: { authorization: `Bearer ${token}` },
    })
    expect(((await (await program.get('/gear/rows')).json()) as unknown[]).length).toBeGreaterThan(10)
    expect((await program.get('/settings/record/file?as=csv')).status()).toBe(403)
    const refused = await program.post('/alerts/1/take')
    expect(refused.status()).toBe(403)
    expect(await refused.text()).toContain('A token reads')
    await page
      .getByTestId('token-row')
      .filter({ hasText: name })
      .getByRole('button', { name: 'Revoke' })
      .click()
    await expect(page.getByTestId('token-row').filter({ hasText: name })).toHaveCount(0)
    expect((await program.get('/gear/rows')).status()).toBe(401)
    await program.dispose()
  })
})

test('how the pages look is of the account: chosen at one browser it holds at another', async ({
  browser,
}) => {
  const chooseTheme = async (page: Page, label: string): Promise<void> => {
    await page.getByRole('button', { name: /▾$/ }).last().click()
    const kept = page.waitForResponse((reply) => reply.url().includes('/own?/theme') && reply.ok())
    await page.getByRole('menuitem', { name: label }).click()
    await kept
  }
  const [here, there] = [await elsewhere(browser), await elsewhere(browser)]
  await signIn(here, 'cleo@kittiwake.example', 'kittiwake-demo')
  await expect(here.locator('html')).toHaveAttribute('data-theme', 'light')
  await chooseTheme(here, 'Dark, for the night')
  await expect(here.locator('html')).toHaveAttribute('data-theme', 'dark')
  await signIn(there, 'cleo@kittiwake.example', 'kittiwake-demo')
  await expect(there.locator('html')).toHaveAttribute('data-theme', 'dark')
  await chooseTheme(there, 'As this device prefers')
  await here.reload()
  await expect(here.locator('html')).toHaveAttribute('data-theme', 'light')
  for (const page of [here, there]) await page.context().close()
})

test.describe('temperatures', () => {
  test.use({ role: 'see' })

  test('who reads °F finds them on pages, in sentences and in fields, and writes them; the line is the same', async ({
    page,
  }) => {
    const readIn = async (scale: string): Promise<void> => {
      await page.goto('/own')
      await choose(page.getByLabel('Scale'), scale)
      const kept = page.waitForResponse((reply) => reply.url().includes('/own?/temperatures') && reply.ok())
      await page.locator('#temperatures').getByRole('button', { name: 'Save' }).click()
      await kept
    }
    const inletOf = async (): Promise<number> => {
      const words = await page.getByRole('heading', { level: 1 }).textContent()
      return Number(/takes in (\d+\.\d)/.exec(words ?? '')?.[1])
    }
    try {
      await page.goto('/rooms?show=inlet')
      await expect(page.getByRole('heading', { level: 1 })).toContainText('°C')
      const celsius = await inletOf()
      await readIn('°F (Fahrenheit)')
      await page.goto('/rooms?show=inlet')
      await expect(page.getByRole('heading', { level: 1 })).toContainText('°F')
      // It may have moved by a degree meanwhile.
      expect(Math.abs((await inletOf()) - (celsius * 1.8 + 32))).toBeLessThan(4)
      await expect(page.getByText('°C')).toHaveCount(0)
      // Typed without a unit it is in the scale of who typed it, and the address says so to whom it is passed on.
      await page.goto('/past/over?m=hw.temperature&w=6h&at=80.6')
      await expect(page).toHaveURL(/at=80\.6(\+|%20)%C2%B0F/)
      await expect(page.getByLabel('Line', { exact: true })).toHaveValue('80.6 °F')
    } finally {
      await readIn('°C (Celsius)')
    }
    await page.goto('/past/over?m=hw.temperature&w=6h&at=80.6%20%C2%B0F')
    await expect(page.getByLabel('Line', { exact: true })).toHaveValue('27 °C')
  })
})
