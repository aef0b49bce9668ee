import { expect, test } from './hydrated.ts'
import { readFileSync } from 'node:fs'

test.describe('space', () => {
  test.use({ role: 'administer' })

  test('what is typed on a page that was just loaded stays, whatever is drawn beside it', async ({
    page,
  }) => {
    await page.goto('/settings/space')
    const row = page
      .getByTestId('space-row')
      .filter({ hasText: /hw\.power(?!\.)/ })
      .first()
    const days = row.getByLabel(/days of summaries/)
    await days.click()
    await page.keyboard.press('Control+A')
    // Each key has what it would free asked for, and drawn beside the field.
    await page.keyboard.type('2999', { delay: 120 })
    await expect(row.getByRole('button', { name: 'Save' })).toBeVisible()
    await expect(row.getByRole('status')).not.toBeEmpty()
    await expect(days).toHaveValue('2999')
  })

  test('the screen says in a sentence what the store takes, and retention says what it frees', async ({
    page,
  }) => {
    await page.goto('/settings')
    await page.getByRole('navigation', { name: 'Settings' }).getByRole('link', { name: 'Space' }).click()
    await expect(page.getByRole('heading', { level: 1 })).toContainText(/The store takes [\d.]+.[KMG]iB\./)
    const row = page.getByTestId('space-row').filter({ hasText: /hw\.fan\.speed(?!_)/ })
    await expect(row).toContainText('Fan speed')
    const days = row.getByLabel('Fan speed: days of readings')
    await expect(days).toHaveValue('366')
    await days.fill('0')
    await expect(row.getByRole('status')).toContainText('at least a day')
    await days.fill('90')
    await expect(row.getByRole('status')).toContainText('frees nothing now')
    await row.getByRole('button', { name: 'Save' }).click()
    await expect(page.getByText('Kept for Fan speed')).toBeVisible()
    await page.reload()
    await expect(days).toHaveValue('90')
  })

  test('readings go out of the gear page as a file, and come in again without doubles', async ({ page }) => {
    await page.goto('/gear/2?w=1h')
    await expect(page.getByTestId('chart').first()).toBeVisible()
    const waiting = page.waitForEvent('download')
    await page.getByRole('link', { name: 'CSV' }).click()
    const download = await waiting
    const path = await download.path()
    const text = readFileSync(path, 'utf8')
    expect(text.split('\n')[0]).toBe('time,gear,part,measure,unit,value')
    const count = text.trim().split('\n').length - 1
    expect(count).toBeGreaterThan(50)

    await page.goto('/settings/space')
    await page.getByLabel('File of readings').setInputFiles({
      name: 'readings.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(`${text}2026-01-01T00:00:00Z,nobody,,hw.power,W,1\n`),
    })
    await expect(
      page.getByText(`${count} readings taken in.`.replace(/\B(?=(\d{3})+ r)/g, '\u202f')),
    ).toBeVisible()
    await expect(page.getByText('hw.power of nobody is not known here')).toBeVisible()
  })

  test('a line runs while curves take longer than at once, and goes when they are there', async ({
    page,
  }) => {
    await page.route('**/curves?*', async (route) => {
      await new Promise((resolve) => setTimeout(resolve, 1500))
      await route.continue()
    })
    await page.goto('/gear/2?w=1h')
    // The first answer brings its curves along.
    await expect(page.getByTestId('chart').first()).toBeVisible()
    await page.getByRole('button', { name: 'wider' }).click()
    await expect(page.getByText('Reading the curves', { exact: true })).toBeAttached()
    await expect(page.getByText('Reading the curves', { exact: true })).toHaveCount(0)
  })

  test('the window widens to a year, and says what it is drawn from', async ({ page }) => {
    await page.goto('/gear/2?w=7d')
    await page.getByRole('button', { name: 'wider' }).click()
    await expect(page).toHaveURL(/from=\d+&to=\d+/)
    await page.goto('/gear/2?w=1y')
    await expect(page.getByTestId('chart').first()).toContainText('min and max of whole hours')
  })
})

test.describe('who may only see', () => {
  test.use({ role: 'see' })
  test('can take readings out, not in, and sends nothing large anywhere', async ({ page, baseURL }) => {
    const origin = { origin: baseURL! }
    expect((await page.request.get('/readings?r=1&from=0')).ok()).toBe(true)
    expect((await page.request.post('/readings', { headers: origin, data: 'time,gear\n' })).status()).toBe(
      403,
    )
    expect((await page.request.get('/settings/space')).status()).toBe(403)
    const large = await page.request.post('/alerts/1/take', { headers: origin, data: 'x'.repeat(600_000) })
    expect(large.status()).toBe(413)
  })
})
