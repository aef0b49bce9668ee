import { readFile } from 'node:fs/promises'
import { expect, test } from './hydrated.ts'
import { choose } from './site.ts'

test.describe('who may operate', () => {
  test.use({ role: 'operate' })

  test('what is typed is picked, laid over another measure, and kept under a name', async ({ page }) => {
    await page.goto('/past?w=24h')
    const add = page.getByRole('combobox', { name: 'Add what to look at' })
    await add.fill('processor north')
    await page.getByRole('option', { name: /^Processor use · cluster north/ }).click()
    await expect(page.getByTestId('pick')).toContainText('Processor use · cluster north')
    await expect(page.getByTestId('curve-row')).toHaveCount(8)
    await add.fill('sent night-copy')
    await page.getByRole('option', { name: /^Sent · night-copy-01/ }).click()
    // The backup of the night over the processors of the hosts: two panels on one axis of time.
    await expect(page.getByTestId('past-panel')).toHaveCount(2)
    await expect(page.getByTestId('past-panel').first().locator('canvas')).toBeVisible()
    await expect(page.getByTestId('curve-row')).toHaveCount(9)

    for (const kind of ['SVG', 'PNG']) {
      const saved = page.waitForEvent('download')
      await page.getByRole('button', { name: kind }).first().click()
      const bytes = await readFile((await (await saved).path())!)
      expect(bytes.subarray(0, 4).toString('latin1')).toBe(kind === 'SVG' ? '<svg' : '\x89PNG')
      expect(bytes.length).toBeGreaterThan(5000)
    }

    await page.getByRole('button', { name: 'Kept views' }).click()
    await page.getByLabel('Keep this view as').fill('Backup over model run')
    await page.getByRole('button', { name: 'Keep', exact: true }).click()
    await expect(page.getByTestId('views')).toContainText('Backup over model run')
    await expect(page.getByTestId('views')).toContainText('by Bo Lindqvist')
  })

  test('one cluster is compared with the mean of another, which is chosen by its name', async ({ page }) => {
    const pick = (cluster: string): string => `p=system.cpu.utilization~cluster~${cluster}`
    await page.goto(`/past?${pick('north')}&${pick('lantern')}&w=6h`)
    const first = page.getByTestId('pick').first()
    await first.getByRole('button').first().click()
    const less = 'less the mean: Processor use · cluster lantern'
    await choose(page.getByLabel('Compared'), less)
    await expect(first).toContainText(
      'Processor use less mean processor use of cluster lantern · cluster north',
    )
    await expect(page.getByTestId('past-panel')).toHaveCount(2)
    await expect(page.getByLabel('Compared')).toContainText(less)
  })

  test('many are a heat map, sorted at a click; one curve of all is chosen, not written', async ({
    page,
  }) => {
    await page.goto('/past?p=hw.temperature&w=6h')
    await expect(page.getByTestId('heat')).toBeVisible()
    await page.getByRole('button', { name: 'Last', exact: true }).click()
    const first = page.getByTestId('curve-row').first()
    await first.hover()
    await expect(page.getByTestId('heat-told')).not.toContainText('Drag over it')
    await page
      .getByTestId('pick')
      .getByRole('button', { name: /^What is made of/ })
      .click()
    await page
      .getByRole('combobox', { name: 'Show' })
      .or(page.getByLabel('Show', { exact: true }))
      .first()
      .click()
    await page.getByRole('option', { name: 'the mean' }).click()
    await expect(page).toHaveURL(/mean/)
    await expect(page.getByTestId('curve-row')).toHaveCount(1)
    const csv = await page.request.get(`/past/file${new URL(page.url()).search}&as=csv`)
    expect(await csv.text()).toMatch(
      /^From \(.*\),mean of \d+ \(°C\)\r\n(.*\r\n)*\d{4}-\d\d-\d\d \d\d:\d\d,\d/,
    )
  })

  test('two days are not enough for quiet hours, and that is said; a known job is noted and taken away', async ({
    page,
  }) => {
    await page.goto('/past/quiet?p=system.cpu.utilization~kind~server')
    await expect(page.getByTestId('sentence')).toContainText('a week of 168 hours is needed')
    await page.getByRole('textbox', { name: /^Job/ }).fill('Model run')
    await page.getByRole('textbox', { name: /^From/ }).fill('25:00')
    await page.getByRole('textbox', { name: /^To/ }).fill('02:30')
    await page.getByRole('button', { name: 'Note job' }).click()
    await expect(
      page.getByRole('alert').filter({ hasText: '“25:00” is no time of the day: write it as 02:30.' }),
    ).toBeVisible()
    await page.getByRole('textbox', { name: /^Job/ }).fill('Model run')
    await page.getByRole('textbox', { name: /^From/ }).fill('00:30')
    await page.getByRole('textbox', { name: /^To/ }).fill('02:30')
    await page.getByRole('button', { name: 'Note job' }).click()
    await expect(page.getByTestId('job')).toContainText('every day')
    await expect(page.getByTestId('job')).toContainText('00:30–02:30')
    await page.getByTestId('job').getByRole('button', { name: 'Delete' }).click()
    await expect(page.getByTestId('job')).toHaveCount(0)
  })
})

test.describe('who may only see', () => {
  test.use({ role: 'see' })

  test('reads how a promise was kept, by gear and by group, with the outages', async ({ page }) => {
    await page.goto('/past/availability?w=24h')
    await expect(page.getByTestId('sentence')).toContainText(/missed what is promised|kept what is promised/)
    await expect(page.getByTestId('availability-row').first()).toBeVisible()
    await page.getByRole('textbox', { name: 'Promised level' }).fill('120 %')
    await page.getByRole('textbox', { name: 'Promised level' }).press('Enter')
    await expect(page.getByText('A promised level lies between 0 and 100 %')).toBeVisible()
  })

  test('opens a view that somebody else has kept', async ({ page }) => {
    await page.goto('/past')
    await page.getByRole('button', { name: 'Kept views' }).click()
    await expect(page.getByLabel('Keep this view as')).toHaveCount(0)
    await page.getByTestId('views').getByRole('link', { name: 'Backup over model run' }).click()
    await expect(page.getByTestId('past-panel')).toHaveCount(2)
  })
})

test.describe('who may administer', () => {
  test.use({ role: 'administer' })

  test('makes a rule of a list over a line', async ({ page }) => {
    await page.goto('/past/over')
    await page.getByRole('link', { name: 'Memory' }).click()
    await expect(page.getByTestId('sentence')).toContainText('memory use above 90.0')
    await page.getByRole('textbox', { name: 'Line' }).fill('30 %')
    await page.getByRole('textbox', { name: 'Line' }).press('Enter')
    await expect(page.getByTestId('sentence')).toContainText('memory use above 30.0')
    await expect(page.getByTestId('over-row').first()).toBeVisible()
    await page.getByRole('link', { name: 'Make a rule of it' }).click()
    await expect(page.getByTestId('rule-sentence')).toContainText('Incomplete')
    await page.getByRole('textbox', { name: /^Name/ }).fill('Memory over thirty')
    await expect(page.getByTestId('rule-sentence')).toContainText(
      'Memory use of everything: warning above 30.0',
    )
  })
})
