import { expect, test } from './hydrated.ts'
import { cause, choose, endQuiets, field, hooks, mails, mend, texts, threeIntervalsMs } from './site.ts'

test.use({ role: 'administer' })
test.afterEach(async () => {
  for (const gear of ['petrel-03', 'petrel-12', 'text-gateway', 'light-station']) await mend(gear)
})

const NAME = 'Fans of petrel-03'
/** Mails that our own call-out has sent; every one says in its foot why it came. */
const ours = async (earlier = 0) => (await mails()).filter(({ text }) => text.includes(NAME)).slice(earlier)
test('a fault is told by mail, by text when it persists, once however often it comes back; it is taken, quieted, and over', async ({
  page,
}) => {
  test.setTimeout(420_000)
  await endQuiets(page, 'petrel-03')
  await page.goto('/alerts/callouts')
  const left = page.getByTestId('call-out').filter({ hasText: NAME })
  if ((await left.count()) > 0) {
    await left.getByRole('link').click()
    await page.getByRole('button', { name: 'Delete call-out' }).click()
    await expect(page).toHaveURL('/alerts/callouts')
  }
  await expect(page.getByTestId('sentence')).toContainText('of the night team is on duty')
  await page.getByRole('link', { name: 'New call-out' }).click()
  await expect(page).toHaveURL('/alerts/callouts/new')
  await field(page, 'name').fill(NAME)
  await choose(field(page, 'whereKind'), { value: 'gear' })
  await choose(field(page, 'whereValue'), 'petrel-03')
  await field(page, 'holdOff').fill('a while')
  await page.getByRole('button', { name: 'Add call-out' }).click()
  await expect(page.getByRole('alert')).toContainText('“a while” is no length of time')
  await field(page, 'holdOff').fill('30 min')
  await expect(page.getByTestId('step-words').first()).toHaveText('Reaches all 3 of the night team.')
  await page.getByRole('button', { name: 'Add a step' }).click()
  await field(page, 'after-1').fill('15 s')
  await choose(field(page, 'does-1'), 'Text messages (text message)')
  await choose(field(page, 'to-1'), 'who of the night team is on duty')
  await expect(page.getByTestId('step-words').nth(1)).toContainText(
    'whoever of the night team is on duty then',
  )
  await page.getByRole('button', { name: 'Add call-out' }).click()
  const made = page.getByTestId('call-out').filter({ hasText: NAME })
  await expect(made).toContainText('what is critical or a warning on everything of petrel-03, at any hour')
  await expect(made).toContainText('after 15 s, if nobody has it')

  const before = (await texts()).length
  const earlier = (await ours()).length
  await cause({ gear: 'petrel-03', fault: 'stop-fan', part: '2' })
  await expect
    .poll(async () => (await ours(earlier)).length, { timeout: threeIntervalsMs() + 30_000 })
    .toBeGreaterThan(0)
  const [first] = await ours(earlier)
  expect(first?.subject).toContain('New: Fan 2 stopped in petrel-03')
  expect(first?.html).toContain('<h1')
  expect(first?.html).toMatch(/href="http:\/\/127\.0\.0\.1:\d+\/alerts\/\d+"/)
  await expect
    .poll(async () => (await texts()).slice(before).map(({ text }) => text), { timeout: 60_000 })
    .toContainEqual(
      expect.stringMatching(/^[^:]+: Still open after 15 s, critical: Fan 2 stopped in petrel-03/),
    )

  // It goes and comes back, and our call-out is silent about it.
  const told = (await ours(earlier)).length
  await page.goto('/alerts?q=petrel-03')
  const open = page.getByTestId('alert-item').filter({ hasText: /Fan 2.*petrel-03/ })
  await mend('petrel-03')
  await expect(open).toHaveCount(0, { timeout: threeIntervalsMs() + 40_000 })
  await cause({ gear: 'petrel-03', fault: 'stop-fan', part: '2' })
  await expect(open.first()).toBeVisible({ timeout: threeIntervalsMs() + 40_000 })
  await page.waitForTimeout(9000)
  expect((await ours(earlier)).length, 'one message within the hold-off').toBe(told)

  await open
    .first()
    .getByRole('link', { name: /Fan 2 stopped/ })
    .click()
  await expect(page).toHaveURL(/\/alerts\/\d+$/)
  await page.getByRole('button', { name: 'Take', exact: true }).click()
  await expect(page.getByTestId('sentence')).toContainText('Asta Holm has it', { timeout: 40_000 })
  await expect(page.getByTestId('history')).toContainText('not sent: they know: told at')
  await page.getByLabel('Reason for quiet').fill('work on petrel-03')
  await page.getByRole('button', { name: 'Quiet', exact: true }).click()
  await expect(page.getByTestId('sentence')).toContainText('It is quiet until', { timeout: 40_000 })
  await mend('petrel-03')
  await expect(page.getByTestId('sentence')).toContainText(/over|cleared|well again/i, {
    timeout: threeIntervalsMs() + 40_000,
  })

  await endQuiets(page, 'petrel-03')
  await page.goto('/alerts/callouts')
  await page.getByRole('link', { name: NAME }).click()
  await page.getByRole('button', { name: 'Delete call-out' }).click()
  await expect(page).toHaveURL('/alerts/callouts')
  await expect(page.getByTestId('call-out').filter({ hasText: NAME })).toHaveCount(0)
})

test('a channel is tested: the answer of the far side, and its reason when it refuses', async ({ page }) => {
  await page.goto('/alerts/callouts/channels')
  const gateway = page.getByTestId('channel').filter({ hasText: 'Text messages' })
  const before = (await texts()).length
  await gateway.getByRole('button', { name: 'Send a test' }).click()
  await expect(gateway.getByTestId('test-outcome')).toHaveText('The test is through: 202 queued', {
    timeout: 40_000,
  })
  // A call-out may have sent one of its own meanwhile.
  const sent = (await texts()).slice(before).map(({ text }) => text)
  expect(sent).toContainEqual(expect.stringContaining('Test: Text messages works.'))
  await cause({ gear: 'text-gateway', fault: 'refuse' })
  await gateway.getByRole('button', { name: 'Send a test' }).click()
  await expect(gateway.getByTestId('test-outcome')).toHaveText(
    'The test did not go through: not accepted: 503 the gateway is being serviced',
    { timeout: 40_000 },
  )
  const hook = page.getByTestId('channel').filter({ hasText: 'Log of the harbour office' })
  await hook.getByRole('button', { name: 'Send a test' }).click()
  await expect(hook.getByTestId('test-outcome')).toHaveText('The test is through: 200 kept', {
    timeout: 40_000,
  })
  expect(await hooks()).toContainEqual(
    expect.objectContaining({ isSigned: true, body: expect.objectContaining({ event: 'test' }) }),
  )
})

test('what a stop would do is said before, and a dry run asks nothing', async ({ page }) => {
  await page.goto('/alerts/callouts/new')
  await choose(field(page, 'does-0'), { value: 'stop' })
  await field(page, 'gear-0').fill('hall-north')
  await expect(page.getByText('No entry has these words.')).toBeVisible()
  await choose(field(page, 'gear-0'), 'petrel-12')
  await expect(page.getByTestId('step-words')).toHaveText(
    'Asks petrel-12 through its controller to stop in order. What runs on it ends. What devices say in logs and notifications never leads to it: anybody can send that.',
  )
  await page.getByLabel('Name').fill('Stops petrel-12')
  await page.getByRole('button', { name: 'Dry run of step 1' }).click()
  await expect(page.getByRole('alert')).toHaveText(
    'Choose the rules that step 1 belongs to: what is done is done on those only.',
  )
  await choose(page.getByLabel('Rule of step 1'), 'Air drawn in too warm')
  await page.getByRole('button', { name: 'Dry run of step 1' }).click()
  await expect(page.getByTestId('dry-outcome')).toContainText(
    /petrel-12 is on and offers it: it would be asked by POST .*ComputerSystem\.Reset with GracefulShutdown/,
    { timeout: 40_000 },
  )
  await choose(field(page, 'gear-0'), { value: '' })
  await choose(page.getByLabel('Scope'), { value: 'rack' })
  await choose(page.getByLabel('Which').first(), 'B04')
  await page.getByRole('button', { name: 'Dry run of step 1' }).click()
  await expect(page.getByTestId('dry-outcome')).toContainText(
    /Of \d+ gear that it covers \d+ would be asked now/,
    {
      timeout: 60_000,
    },
  )
  await expect(page.getByTestId('dry-outcome')).toContainText('petrel-07 is on and offers it')
})

test('the page says what the alarm hangs on, and a heartbeat that stays away', async ({ page }) => {
  test.setTimeout(300_000)
  await page.goto('/alerts/callouts/self-monitoring')
  await expect(page.getByTestId('sentence')).toHaveText(
    'Should lantern-U fail, nobody is notified: collector-1 and the database hang on it alone.',
  )
  const collector = page.getByTestId('alarm-part').filter({ hasText: 'collector-1' })
  await expect(collector).toContainText('goes with it')
  const beat = page.getByTestId('beat').filter({ hasText: 'the light station' })
  await expect(beat).toContainText(/last heard \d+.s ago/, { timeout: 40_000 })
  await cause({ gear: 'light-station', fault: 'silent' })
  await page.goto('/')
  const row = page.getByTestId('alert-row').filter({ hasText: 'Heartbeat from the light station' })
  await expect(row).toBeVisible({ timeout: 120_000 })
  await mend('light-station')
  await expect(row).toHaveCount(0, { timeout: 120_000 })
})
