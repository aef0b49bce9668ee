import ICAL from 'ical.js'
import { expect, test } from './hydrated.ts'
import { choose, field } from './site.ts'

test.use({ role: 'operate' })

test('what is finite is on one axis of dates; what it is too early for is counted and can be reached', async ({
  page,
}) => {
  // The job looks ahead once a minute or so after a start; the demo of the tests has a past of a few days only.
  await expect(async () => {
    await page.goto('/ahead?show=too-early')
    await page.getByLabel('Search what is ahead').fill('d04 in skua-1')
    await expect(page.getByTestId('ahead-row').first()).toContainText('d04 in skua-1', { timeout: 2000 })
  }).toPass({ timeout: 180_000 })
  await expect(page.getByTestId('sentence')).toContainText(/For \d+ of \d+ it is too early to say\./)
  await expect(page.getByTestId('ahead-row').first()).toContainText(/Only \d days? of readings; 7 are needed/)
  const csv = await page.request.get('/ahead/file?as=csv')
  expect(await csv.text()).toMatch(/^Name,What,Topic,Verdict,Line,Order by,Run-out/)
  await page.getByTestId('ahead-row').first().getByRole('link').focus()
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('sentence')).toContainText('d04 in skua-1: too early to say.')
  await expect(page.getByTestId('ahead-chart').locator('canvas')).toBeVisible()

  // Who writes on the array that the drive is of: machines, by way of their datastores.
  const drivers = page.getByTestId('drivers')
  await expect(drivers).toContainText(/what they write there, since/)
  await expect(drivers.getByRole('row').first()).toContainText(/(GiB|TiB) a day/)
  await expect(drivers).toContainText(/\d+ others/)

  await page.getByRole('textbox', { name: 'Order' }).fill('two drives, order 4711')
  await page.getByRole('button', { name: 'Save order' }).click()
  const orders = page.getByRole('region', { name: 'Orders' })
  await expect(orders).toContainText('two drives, order 4711, expected')
  await expect(orders).toContainText('noted by Bo Lindqvist')
  await page.goto('/ahead?show=too-early&q=d04 in skua-1')
  await expect(page.getByTestId('ahead-row').first()).toContainText('two drives, order 4711, expected')
  await page.getByTestId('ahead-row').first().getByRole('link').click()
  await orders.getByRole('button', { name: 'Remove order' }).click()
  await expect(orders).not.toContainText('order 4711')
})

test('a calendar link is read without signing in, until it is deleted', async ({
  page,
  playwright,
  baseURL,
}) => {
  await page.goto('/ahead/calendar')
  await page.getByLabel('Name').fill('telephone')
  await page.getByRole('button', { name: 'Add link' }).click()
  const address = await page.getByLabel('To be taken along').inputValue()
  expect(address).toContain(`${baseURL}/calendar/rr_`)
  const stranger = await playwright.request.newContext()
  const answer = await stranger.get(address)
  expect(answer.status()).toBe(200)
  expect(answer.headers()['content-type']).toContain('text/calendar')
  const calendar = new ICAL.Component(ICAL.parse(await answer.text()) as unknown[])
  expect(calendar.name).toBe('vcalendar')
  await page.goto('/ahead/calendar')
  const row = page.getByTestId('calendar-link').filter({ hasText: 'telephone' })
  await expect(row).toContainText('ago')
  await row.getByRole('button', { name: 'Delete' }).click()
  await expect(row).toHaveCount(0)
  expect((await stranger.get(address)).status()).toBe(404)
  expect((await stranger.get(`${baseURL}/calendar/anything`)).status()).toBe(404)
  await stranger.dispose()
})

test('a cluster is gear of its own: what its hosts use, and what they would if the largest were lost', async ({
  page,
}) => {
  // It is summed up once a minute.
  await expect(async () => {
    await page.goto('/gear?kind=cluster')
    await expect(page.getByTestId('gear-row')).toHaveCount(2, { timeout: 2000 })
  }).toPass({ timeout: 180_000 })
  await page.getByTestId('gear-row').filter({ hasText: 'lantern' }).getByRole('link').first().click()
  await expect(page.getByRole('heading', { level: 1 })).toContainText('lantern')
  const main = page.getByRole('main')
  await expect(main).toContainText('hosts petrel-09, petrel-10, petrel-11, petrel-12')
  await expect(main).toContainText(/Memory, host lost\s*1\d\d\.\d.%/)
})

test.describe('of an administrator', () => {
  test.use({ role: 'administer' })

  test('the age of a battery is noted on the page of its UPS, and a rule on days left is rehearsed on it', async ({
    page,
  }) => {
    test.setTimeout(300_000)
    await page.goto('/gear?kind=ups')
    await page.getByTestId('gear-row').filter({ hasText: 'lantern-U' }).getByRole('link').first().click()
    const battery = page.locator('summary', { hasText: /^Battery/ })
    await expect(battery).toContainText(/made for 4 years: it reaches that age on/)
    await battery.click()
    const made = page.getByLabel('Made for')
    await made.fill('long')
    await page.getByRole('button', { name: 'Save' }).first().click()
    await expect(page.getByRole('alert')).toContainText('“long” is not the life of a battery')
    await made.fill('6')
    await page.getByRole('button', { name: 'Save' }).first().click()
    await expect(battery).toContainText('made for 6 years: it reaches')
    // It folds up again once what was refused is mended.
    await battery.click()
    await made.fill('4')
    await page.getByRole('button', { name: 'Save' }).first().click()
    await expect(battery).toContainText('made for 4 years: it reaches')

    await page.goto('/alerts/rules/new')
    await choose(field(page, 'kind'), { value: 'ahead' })
    await choose(field(page, 'measure'), { value: 'ups.battery.age' })
    await field(page, 'criticalDays').fill('')
    await field(page, 'name').fill('Batteries half a year ahead')
    // It is held against what is forecast whenever something is typed: the first forecasts may still be made.
    await expect(async () => {
      await field(page, 'warningDays').fill('199')
      await field(page, 'warningDays').fill('200')
      await expect(page.getByTestId('rehearsed')).toContainText(
        'in force on nothing. On 3 things in its scope a rule with a narrower scope has precedence.',
        { timeout: 3000 },
      )
    }).toPass({ timeout: 180_000 })
    await choose(field(page, 'gearKind'), { value: 'ups' })
    // That of harbour-B reaches its five years 120 days after the demo begins, the others years later.
    await expect(page.getByTestId('rehearsed')).toContainText(
      'It would tell of 1 thing now, and of no more within 90 days, if all goes as forecast. It looks at 3 things.',
    )
    const told = page.getByRole('row').filter({ hasText: 'in harbour-B' })
    await expect(told).toContainText(/Battery of \w+ \d{4} in harbour-B\s*warning\s*now/)
    await field(page, 'warningDays').fill('60')
    await expect(told).toContainText(/warning\s*on \d+ \w+ \d{4}/)
  })
})
