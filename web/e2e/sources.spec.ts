import { expect, test } from './hydrated.ts'
import { cause, mend, threeIntervalsMs } from './site.ts'

test.use({ role: 'operate' })
test.afterEach(async () => {
  for (const gear of ['petrel-05', 'petrel-07', 'harbour-B']) await mend(gear)
})

const cases = [
  {
    gear: 'petrel-05',
    fault: 'garbage',
    source: 'petrel-05 controller',
    says: /is not JSON, it begins with/,
  },
  {
    gear: 'petrel-05',
    fault: 'huge',
    source: 'petrel-05 controller',
    says: /more than 4.0.MiB in one answer/,
  },
  { gear: 'petrel-05', fault: 'endless', source: 'petrel-05 controller', says: /did not answer within/ },
  { gear: 'petrel-05', fault: 'deny', source: 'petrel-05 controller', says: /refused the credential/ },
  { gear: 'harbour-B', fault: 'silent', source: 'harbour-B card', says: /wrong password of a v3 user/ },
]
for (const { gear, fault, source, says } of cases) {
  test(`${source} with “${fault}” says why, and is heard again`, async ({ page }) => {
    await page.goto('/sources')
    const row = page.getByTestId('source-row').filter({ hasText: source })
    const checkNow = row.getByRole('button', { name: 'Check now' })
    if (await checkNow.isVisible()) await checkNow.click()
    await expect(row.getByTestId('failure')).toHaveCount(0, { timeout: 60_000 })
    await cause({ gear, fault })
    await expect(row.getByTestId('failure')).toContainText(says, { timeout: threeIntervalsMs() + 5000 })
    await mend(gear)
    if (await checkNow.isVisible()) await checkNow.click()
    await expect(row.getByTestId('failure')).toHaveCount(0, { timeout: 60_000 })
  })
}

test('a push with a token that is not its own changes nothing of the source, and is listed by its address', async ({
  page,
}) => {
  await page.goto('/sources')
  const row = page.getByTestId('source-row').filter({ hasText: 'petrel-07 hypervisor' })
  await expect(row.getByTestId('failure')).toHaveCount(0, { timeout: 60_000 })
  await cause({ gear: 'petrel-07', fault: 'deny' })
  const met = page.getByTestId('turned-away').filter({ hasText: 'the token is not known' })
  await expect(async () => {
    await page.reload()
    await expect(met).toContainText('127.0.0.1', { timeout: 1000 })
  }).toPass({ timeout: 60_000 })
  await expect(row.getByTestId('failure')).toHaveCount(0)
  await mend('petrel-07')
})

test('a silent source becomes no data on its gear, never an old value; check now hears it again', async ({
  page,
}) => {
  await cause({ gear: 'petrel-05', fault: 'silent' })
  await page.goto('/gear?q=petrel-05')
  const entry = page.locator('[data-row]').filter({ hasText: 'NV24-00717' })
  await expect(entry).toContainText('no data', { timeout: threeIntervalsMs() + 8000 })
  await entry.getByRole('link').click()
  await expect(page.getByRole('heading', { level: 1 })).toContainText('without data')
  await expect(page.locator('[data-testid=part]').first()).toHaveAttribute('data-state', 'noData')
  await expect(page.locator('[data-testid=part]').first()).toContainText('no data')
  await mend('petrel-05')
  await page.getByRole('button', { name: 'Check now' }).click()
  await expect(page.getByRole('heading', { level: 1 })).not.toContainText('without data', { timeout: 40_000 })
})
