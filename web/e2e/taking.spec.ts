import { expect, test, type Page } from './hydrated.ts'
import { cause, choose, field, mails, mend, texts, threeIntervalsMs } from './site.ts'

test.use({ role: 'administer' })
const SERVERS = ['petrel-05', 'petrel-06', 'petrel-07', 'petrel-08']
const UNTAKEN = 'harbour-B'
const ALL = [...SERVERS, 'harbour-A', UNTAKEN]
test.afterEach(async () => {
  for (const gear of ALL) await mend(gear)
})

const NAME = 'Rack B04, until somebody has it'
const gearIn = (words: string | null): string => ALL.find((name) => words?.includes(name)) ?? 'none of ours'

/** Of this test, or of an earlier try. */
async function removeCallOut(page: Page): Promise<void> {
  await page.goto('/alerts/callouts')
  const own = page.getByTestId('call-out').filter({ hasText: NAME })
  if ((await own.count()) > 0) {
    await own.getByRole('link', { name: NAME }).click()
    await page.getByRole('button', { name: 'Delete call-out' }).click()
  }
  await expect(own).toHaveCount(0)
}

/** A mail to the night team at once, and a text after 75 seconds if nobody has it. */
async function makeCallOut(page: Page): Promise<void> {
  await removeCallOut(page)
  await page.goto('/alerts/callouts/new')
  await field(page, 'name').fill(NAME)
  await choose(field(page, 'whereKind'), { value: 'rack' })
  await choose(field(page, 'whereValue'), 'B04')
  await page.getByRole('button', { name: 'Add a step' }).click()
  await field(page, 'after-1').fill('75 s')
  await choose(field(page, 'does-1'), 'Text messages (text message)')
  await choose(field(page, 'to-1'), 'who of the night team is on duty')
  await page.getByRole('button', { name: 'Add call-out' }).click()
  await expect(page.getByTestId('call-out').filter({ hasText: NAME })).toContainText(
    'after 75 s, if nobody has it',
  )
}

test('whoever takes an alert, from whichever screen, stops the steps of it and of nothing else', async ({
  page,
}) => {
  test.setTimeout(420_000)
  await makeCallOut(page)
  // What runs on a server is named with it.
  const rowOf = (gear: string) =>
    page
      .getByTestId('alert-row')
      .filter({ hasText: gear })
      .filter({ hasText: SERVERS.includes(gear) ? /fan/i : /./ })
  await page.goto('/')
  for (const gear of ALL) await expect(rowOf(gear)).toHaveCount(0, { timeout: 60_000 })
  const [before, mailsBefore] = [(await texts()).length, (await mails()).length]
  // The line under the head of a page shows the two latest: two of the servers, then.
  for (const gear of ['harbour-A', UNTAKEN]) await cause({ gear, fault: 'fail-fan' })
  for (const gear of ['harbour-A', UNTAKEN])
    await expect(rowOf(gear).first()).toBeVisible({ timeout: threeIntervalsMs() + 30_000 })
  for (const gear of SERVERS) await cause({ gear, fault: 'stop-fan', part: '1' })
  for (const gear of SERVERS)
    await expect(rowOf(gear).first()).toBeVisible({ timeout: threeIntervalsMs() + 30_000 })

  await page.goto('/alerts/rules')
  const line = page
    .getByTestId('call-strip')
    .locator('p')
    .filter({ hasText: /petrel-0[5-8]/ })
  const called = gearIn(await line.first().textContent())
  await line.first().getByRole('button', { name: 'I have it' }).click()
  await expect(line.filter({ hasText: called })).toHaveCount(0)
  const [fromWatch, fromList, fromPage] = SERVERS.filter((name) => name !== called) as [
    string,
    string,
    string,
  ]

  await page.goto('/')
  await rowOf(fromWatch).first().getByRole('button', { name: 'Take' }).click()
  await expect(rowOf(fromWatch).getByTestId('taken-by')).toHaveText('Asta Holm has it')

  await page.goto(`/alerts?q=${fromList}`)
  await page.getByTestId('alert-item').first().getByRole('checkbox').check()
  await page.getByRole('button', { name: 'Take' }).click()
  await expect(page.getByTestId('alert-item').first()).toContainText('Asta Holm')

  await page.goto('/')
  await rowOf(fromPage).getByRole('link').first().click()
  await expect(page).toHaveURL(/\/gear\/\d+/)
  await page.getByTestId('why').getByRole('button', { name: 'Take' }).first().click()
  await expect(page.getByTestId('why').first()).toContainText('Asta Holm has it')

  const mailOf = async () =>
    (await mails()).slice(mailsBefore).find(({ text }) => text.includes(NAME) && text.includes('harbour-A'))
  await expect.poll(async () => (await mailOf())?.html, { timeout: 40_000 }).toMatch(/\/alerts\/\d+/)
  // A mail may tell several at once; each has its link.
  const title = page.getByRole('heading', { level: 1 })
  for (const [link] of (await mailOf())!.html.matchAll(/\/alerts\/\d+/g)) {
    await page.goto(link)
    if ((await title.textContent())?.includes('harbour-A') === true) break
  }
  await page.getByRole('button', { name: 'Take', exact: true }).click()
  await expect(page.getByTestId('sentence')).toContainText('Asta Holm has it')

  // What nobody has is texted when its time is up, and by then so would all others have been.
  const told = async () =>
    (await texts())
      .slice(before)
      .filter(({ text }) => text.includes('Still open after 75 s'))
      .map(({ text }) => gearIn(text))
  await expect.poll(told, { timeout: 150_000 }).toContain(UNTAKEN)
  await page.waitForTimeout(8000)
  expect(await told()).toEqual([UNTAKEN])

  await removeCallOut(page)
})
