import { addressOf, expect, type Page, test, waiting } from './hydrated.ts'
import { sessionOf } from './places.ts'
import { cause, expectNothingSerious, expectNoSidewaysScroll, mend } from './site.ts'

test.use({ role: 'administer' })

const SCREENS = [
  '/',
  '/alerts?state=all',
  '/alerts/1',
  '/alerts/rules',
  '/alerts/rules/3',
  '/alerts/quiet',
  '/alerts/callouts',
  '/alerts/callouts/1',
  '/alerts/callouts/channels',
  '/alerts/callouts/teams',
  '/alerts/callouts/self-monitoring',
  '/logs',
  '/rooms',
  '/rooms?show=inlet',
  '/rooms?view=front',
  '/rooms?view=rear&edit=1',
  '/gear',
  '/gear/inventory',
  '/gear/services',
  '/gear/groups',
  '/gear/groups/3',
  '/gear/tags',
  '/gear/changes',
  '/gear/3',
  '/gear/5',
  '/gear/7',
  '/gear/11',
  '/disks',
  '/disks/replace',
  '/disks/ratings',
  '/past',
  '/past?p=system.cpu.utilization~kind~server&w=6h',
  '/past?p=hw.temperature&w=6h',
  '/past/over?w=7d&at=20 %25',
  '/past/availability?w=7d',
  '/past/quiet?p=system.cpu.utilization~kind~server&weeks=1',
  '/ahead',
  '/ahead?show=too-early',
  '/ahead/calendar',
  '/ahead/lead-times',
  '/sources',
  '/sources/3',
  '/sources/connect',
  '/settings',
  '/settings/credentials',
  '/settings/space',
  '/settings/measures',
  '/kit',
]

test.describe('with faults to show', () => {
  // One after the other on one page, as somebody goes through them who has the application open: it keeps its files.
  let page: Page
  test.beforeAll(async ({ browser }) => {
    page = waiting(await browser.newPage({ storageState: sessionOf('administer', addressOf()) }))
    await cause({ gear: 'petrel-07', fault: 'stop-fan', part: '3' })
    await cause({ gear: 'harbour-A', fault: 'lose-mains' })
    await cause({ gear: 'petrel-05', fault: 'silent' })
    await page.goto('/')
    const rows = page.getByTestId('alert-row')
    await expect(rows.filter({ hasText: 'petrel-05' }).first()).toBeVisible({ timeout: 90_000 })
  })
  test.afterAll(async () => {
    await page.close()
    for (const gear of ['petrel-07', 'harbour-A', 'petrel-05']) await mend(gear)
  })

  for (const path of SCREENS) {
    test(`${path} in both themes: nothing serious for assistive technology, no sideways scroll`, async () => {
      const problems: string[] = []
      await page.goto('about:blank')
      page.removeAllListeners('console')
      page.removeAllListeners('pageerror')
      page.on('console', (message) => {
        if (message.type() === 'error') problems.push(message.text())
      })
      page.on('pageerror', (error) => problems.push(error.message))
      await page.emulateMedia({ colorScheme: 'light' })
      await page.goto(path)
      await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
      if (/^\/gear\/\d/.test(path)) {
        // What a chart says where one points at it keeps to the policy of contents, too: what breaks it is a console error.
        await page.getByTestId('chart').first().locator('canvas').hover()
      }
      for (const theme of ['light', 'dark'] as const) {
        await page.emulateMedia({ colorScheme: theme })
        if (theme === 'dark') await page.reload()
        await expect(page.locator('html')).toHaveAttribute('data-theme', theme)
        await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
        // Nothing but the colours differs in the dark.
        await expectNothingSerious(page, theme === 'dark' ? ['color-contrast'] : undefined)
        await expectNoSidewaysScroll(page)
      }
      expect(problems, 'the browser reports no error').toEqual([])
    })
  }
})

test('the keyboard goes everywhere', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByTestId('freshness')).toContainText('heard')
  for (const [letter, path] of [
    ['r', '/rooms'],
    ['g', '/gear'],
    ['s', '/sources'],
    ['w', '/'],
  ] as const) {
    await page.keyboard.press('g')
    await page.keyboard.press(letter)
    await expect(page).toHaveURL(path)
  }
  await page.keyboard.press('/')
  await page.keyboard.type('NV24-00719')
  await expect(page.getByRole('option').first()).toContainText('petrel-07')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { level: 1 })).toContainText('petrel-07')
  await page.getByRole('checkbox').first().focus()
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog')).toContainText('along a list')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  // Focus is on its way back from the dialog: a key pressed meanwhile may belong to nobody.
  await expect(async () => {
    await page.keyboard.press('g')
    await page.keyboard.press('g')
    await expect(page).toHaveURL('/gear', { timeout: 1000 })
  }).toPass({ timeout: 40_000 })
  await page.keyboard.press('j')
  await page.keyboard.press('j')
  await expect(page.locator('[data-row]').nth(1).getByRole('link')).toBeFocused()
})

test('keys pressed on the way to a list wait for it', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByTestId('freshness')).toContainText('heard')
  let letGo = (): void => undefined
  const pressed = new Promise<void>((resolve) => (letGo = resolve))
  await page.route('**/gear/__data.json*', async (route) => {
    await pressed
    await route.continue()
  })
  for (const key of ['g', 'g', 'j', 'j', 'j']) await page.keyboard.press(key)
  letGo()
  await expect(page).toHaveURL('/gear')
  await expect(page.locator('[data-row]').nth(2).getByRole('link')).toBeFocused()
})

test('the list of gear filters by words, kind and state, and keeps it in the address', async ({ page }) => {
  await page.goto('/gear')
  await page.getByLabel('Search in the list').fill('harbour')
  await expect(page).toHaveURL(/q=harbour/)
  // Two UPS units, and three machines that keep their log.
  await expect(page.locator('[data-row]')).toHaveCount(5)
  await page.goto('/gear?kind=store')
  await expect(page.locator('[data-row]')).toHaveCount(9)
  // What needs attention stands first: one of them may be forecast to fill up soon.
  await expect(page.locator('[data-row]').filter({ hasText: 'gannet-01' })).toBeVisible()
})

/** The curves are laid out after the words, and painted with the next frame. */
async function drawn(page: Page): Promise<void> {
  await page.evaluate(
    () =>
      new Promise((painted) => {
        setTimeout(() => requestAnimationFrame(() => requestAnimationFrame(painted)))
      }),
  )
}

/** Drags over a part of the curves, from and to a share of their width, and says how many hours the address then holds. */
async function dragOver(page: Page, from: number, to: number): Promise<number> {
  const before = page.url()
  // The crosshair has a canvas of its own above that of the curves.
  const canvas = page.getByTestId('chart').first().locator('canvas').first()
  // What is called out stands above and may push it out of sight.
  await canvas.evaluate((element) => element.scrollIntoView({ block: 'center' }))
  const box = (await canvas.boundingBox())!
  await page.mouse.move(box.x + box.width * from, box.y + 60)
  await page.mouse.down()
  await page.mouse.move(box.x + (box.width * (from + to)) / 2, box.y + 70, { steps: 4 })
  // What would have the curves drawn anew, now or at any moment, does not take the stretch out of the hand.
  await page.evaluate(() => dispatchEvent(new Event('rack:theme')))
  await drawn(page)
  await page.mouse.move(box.x + box.width * to, box.y + 80, { steps: 4 })
  await page.mouse.up()
  await expect(page).not.toHaveURL(before)
  await expect(page).toHaveURL(/from=\d+&to=\d+|to=\d+&from=\d+/)
  await expect(page.getByRole('heading', { name: 'Zoomed' })).toBeVisible()
  await drawn(page)
  const asked = new URL(page.url()).searchParams
  return (Number(asked.get('to')) - Number(asked.get('from'))) / 3_600_000
}

test('the window of time lies in the address, and a link shows the same', async ({ page }) => {
  await page.goto('/gear/2?w=24h')
  await expect(page.getByRole('heading', { name: 'Last 24 hours' })).toBeVisible()
  const hours = await dragOver(page, 0.5, 0.7)
  expect(hours).toBeGreaterThan(3.5)
  expect(hours).toBeLessThan(7)
  const fewer = await dragOver(page, 0.4, 0.6)
  expect(fewer).toBeGreaterThan(0.5)
  expect(fewer).toBeLessThan(1.6)
})

test('the same box is one gear with two sources', async ({ page }) => {
  await page.goto('/gear?q=petrel-07')
  const own = page.locator('[data-row]').filter({ hasText: 'NV24-00719' })
  await expect(own).toHaveCount(1)
  await own.getByRole('link').click()
  await expect(page.getByText('seen by 2 sources')).toBeVisible()
  await expect(page.getByText('petrel-07 controller', { exact: true })).toBeVisible()
  await expect(page.getByText('petrel-07 hypervisor', { exact: true })).toBeVisible()
})
