import { expect, test } from './hydrated.ts'
import { cause, mails, mend, settled, threeIntervalsMs } from './site.ts'

test.use({ role: 'operate' })
test.afterEach(async () => {
  for (const gear of ['petrel-07', 'petrel-06', 'harbour-A', 'harbour-B']) await mend(gear)
})

test('a fan stops: which fan, in which server, in which rack, told by mail; and it clears by itself', async ({
  page,
}) => {
  test.setTimeout(300_000)
  await settled(page, /Fan 3 .*petrel-07/)
  await cause({ gear: 'petrel-07', fault: 'stop-fan', part: '3' })
  const row = page.getByTestId('alert-row').filter({ hasText: 'Fan 3 stopped in petrel-07' })
  await expect(row).toBeVisible({ timeout: threeIntervalsMs() })
  await expect(row).toContainText('B04 · U18–19')
  await expect(page.getByTestId('sentence')).toContainText(/needs? you now/)
  await expect(page).toHaveTitle(/needs? you now/)
  await expect(row, 'the measured reason leads, the device’s own word is folded under it').toContainText(
    /0.rpm, below the line of 1.800.rpm, in [23] of the last 3 readings/,
    { timeout: threeIntervalsMs() },
  )
  await expect(row).toContainText('the night team by mail', { timeout: threeIntervalsMs() })
  // The row says whom it is on its way to, too.
  const mailOf = async () =>
    (await mails()).findLast(({ subject }) => subject.includes('New: Fan 3 stopped in petrel-07'))
  await expect.poll(mailOf, { timeout: threeIntervalsMs() }).toBeDefined()
  const mail = await mailOf()
  expect(mail?.subject).toContain('(Breakwater Hall · B04 · U18–19)')
  expect(mail?.text, 'the mail begins with the reason').toMatch(
    /^The device reports this fan failed; fan speed 0.rpm\./,
  )
  expect(mail?.text).toMatch(/Place: +Breakwater Hall · B04 · U18–19/)
  expect(mail?.text, 'and says where to look').toMatch(/Link: +http:/)

  await row.getByRole('link').first().click()
  const fan = page.locator('[data-testid=part][aria-label^="fan 3:"]')
  await expect(fan).toHaveAttribute('data-state', 'critical')
  await expect(page.getByTestId('why').first()).toContainText('Fan 3 stopped')
  const chart = page.getByTestId('chart').filter({ hasText: 'Fan speed' })
  await expect(chart.getByRole('row', { name: 'Fan 3' })).toContainText(/0.rpm/)
  await expect(chart.getByRole('img')).toHaveAttribute('aria-label', /Fan 3 last 0.rpm, from 0.rpm to/)

  await page.goto('/')
  await mend('petrel-07')
  await expect(row).toHaveCount(0, { timeout: threeIntervalsMs() + 10_000 })
  await expect(page.getByTestId('cleared-row').filter({ hasText: 'Fan 3' }).first()).toBeVisible()
  await expect
    .poll(async () => (await mails()).some(({ subject }) => subject.includes('Cleared: Fan 3')), {
      timeout: 40_000,
    })
    .toBe(true)
})

test('a UPS loses mains: its new status in the text, minutes counting down on its page, and told again when back', async ({
  page,
}) => {
  test.setTimeout(300_000)
  await settled(page, /UPS harbour-A/)
  // What the demo has to say in its first minute is no message about this.
  const more = async (): Promise<number> => {
    const { length } = await mails()
    await page.waitForTimeout(8000)
    return (await mails()).length - length
  }
  await expect.poll(more, { timeout: 120_000 }).toBe(0)
  const before = (await mails()).length
  await cause({ gear: 'harbour-A', fault: 'lose-mains', pace: 20 })
  const row = page.getByTestId('alert-row').filter({ hasText: 'UPS harbour-A on battery' })
  await expect(row).toBeVisible({ timeout: threeIntervalsMs() })
  await expect(row).toContainText(/on battery, \d+.min left/)
  await expect(row).toContainText('It runs on battery; charge')
  await expect(row, 'what it means for what hangs on it').toContainText(/Without a second feed: .+/, {
    timeout: threeIntervalsMs(),
  })
  await row.getByRole('link').first().click()
  const minutes = page.getByTestId('minutes-left')
  const left = async () => parseInt((await minutes.textContent()) ?? '', 10)
  const first = await left()
  expect(first).toBeGreaterThan(0)
  await expect.poll(left, { timeout: 60_000 }).toBeLessThan(first)
  await mend('harbour-A')
  await page.goto('/')
  await expect(row).toHaveCount(0, { timeout: 60_000 })
  const told = (await mails()).map(({ subject }) => subject)
  expect(told).toContainEqual(expect.stringMatching(/New: UPS harbour-A on battery, \d+.min left/))
  // What its battery comes to are further words on it, each once.
  const since = (await mails())
    .slice(before)
    .filter(({ subject }) => !/Cleared:|Worse: UPS harbour-A/.test(subject))
  expect(since.length, `one trouble, few messages: ${told.slice(before).join('; ')}`).toBeLessThanOrEqual(3)
  expect(since.find(({ subject }) => subject.includes('harbour-A on battery'))?.text).toMatch(
    /^It runs on battery; charge .*Without a second feed: /,
  )
})

test('an alert is taken with a name, once', async ({ page }) => {
  await settled(page, /UPS harbour-B/)
  await cause({ gear: 'harbour-B', fault: 'fail-fan' })
  const row = page.getByTestId('alert-row').filter({ hasText: 'harbour-B' }).first()
  await expect(row).toBeVisible({ timeout: threeIntervalsMs() })
  await row.getByRole('link').first().focus()
  await page.keyboard.press('t')
  await expect(row.getByTestId('taken-by')).toHaveText('Bo Lindqvist has it')
  await expect(row.getByRole('button', { name: 'Take' })).toHaveCount(0)
})

test('a drive that predicts its failure and a supply without a cord are named', async ({ page }) => {
  await settled(page, /petrel-06/)
  await cause({ gear: 'petrel-06', fault: 'fail-drive', part: '2' })
  await cause({ gear: 'petrel-06', fault: 'unplug-supply', part: '1' })
  const rows = page.getByTestId('alert-row')
  await expect(rows.filter({ hasText: 'd2 in petrel-06 predicts its own failure' })).toBeVisible({
    timeout: threeIntervalsMs(),
  })
  await expect(rows.filter({ hasText: 'Supply 1 in petrel-06' })).toBeVisible({ timeout: threeIntervalsMs() })
})
