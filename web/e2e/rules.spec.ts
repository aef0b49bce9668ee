import { expect, test } from './hydrated.ts'
import { cause, choose, endQuiets, field, mend, threeIntervalsMs } from './site.ts'

test.use({ role: 'administer' })
test.afterEach(() => mend('petrel-08'))

test('a rule is written, rehearsed and saved; it raises, is quieted for maintenance, and clears', async ({
  page,
}) => {
  test.setTimeout(300_000)
  await endQuiets(page, 'petrel-08')
  await page.goto('/alerts/rules')
  const own = page.getByTestId('rule-row').filter({ hasText: 'Fans of petrel-08' })
  if ((await own.count()) > 0) {
    await own.getByRole('link').click()
    await page.getByRole('button', { name: 'Delete' }).click()
    await expect(page).toHaveURL('/alerts/rules')
  }
  await page.goto('/alerts/rules/new')
  await expect(page.getByTestId('rule-sentence')).toContainText('Incomplete: Give the rule a name.')
  await choose(field(page, 'measure'), { value: 'hw.fan.speed' })
  await choose(field(page, 'direction'), { value: 'below' })
  await field(page, 'warning').fill('a lot')
  await expect(page.getByTestId('rule-sentence')).toContainText('“a lot” is no number')
  await field(page, 'warning').fill('1 000 rpm')
  await field(page, 'k').fill('1')
  await field(page, 'n').fill('1')
  await choose(field(page, 'partKind'), { value: 'fan' })
  await choose(field(page, 'whereKind'), { value: 'gear' })
  await choose(field(page, 'whereValue'), 'petrel-08')
  await field(page, 'name').fill('Fans of petrel-08')
  await expect(page.getByTestId('rule-sentence')).toContainText(
    /Fan speed of every fan of this gear petrel-08: warning below 1.000.rpm\./,
  )
  await page.getByRole('button', { name: 'Rehearse' }).click()
  await expect(page.getByTestId('rehearsed')).toContainText(/It would have raised .* of \d+ series/, {
    timeout: 60_000,
  })

  await page.getByRole('button', { name: 'Save rule' }).click()
  await expect(own).toContainText('every fan of petrel-08, by Asta Holm')
  await expect(page.getByTestId('rule-row').filter({ hasText: 'Fan slow or stopped' })).toContainText(
    'overridden on',
  )

  await cause({ gear: 'petrel-08', fault: 'stop-fan', part: '2' })
  // By its rule: in the list of all it is folded under what the device says of the same fan.
  const id = /\d+$/.exec((await own.getByRole('link').getAttribute('href')) ?? '')?.[0]
  await page.goto(`/alerts?rule=own-${id}`)
  const row = page.getByTestId('alert-item').filter({ hasText: 'Fans of petrel-08' })
  await expect(row).toContainText(/0.rpm, below the line of 1.000.rpm/, {
    timeout: threeIntervalsMs() + 15_000,
  })
  await row.getByRole('link', { name: /Fan 2 stopped/ }).click()
  await expect(page.getByTestId('history')).toContainText('opened')
  await page.getByLabel('Comment').fill('the new fan is in the drawer')
  await page.getByRole('button', { name: 'Add comment' }).click()
  await expect(page.getByTestId('history')).toContainText(/the new fan is in the drawer\s*— Asta Holm/)
  await choose(page.getByLabel('Scope'), { value: 'part' })
  await page.getByRole('button', { name: 'Quiet', exact: true }).click()
  await expect(page.getByRole('alert')).toHaveText('Say why, so that others know.')
  await choose(page.getByLabel('Scope'), { value: 'part' })
  await page.getByLabel('Reason for quiet').fill('the fan is changed')
  await page.getByRole('button', { name: 'Quiet', exact: true }).click()
  await expect(page.getByTestId('sentence')).toContainText('It is quiet until', { timeout: 40_000 })
  await page.goto('/alerts/quiet')
  await expect(page.getByTestId('quiet-row').filter({ hasText: 'the fan is changed' }).first()).toContainText(
    'Fan 2 in petrel-08',
  )
  await page.goto('/')
  await expect(page.getByTestId('alert-row').filter({ hasText: 'Fan 2 stopped in petrel-08' })).toHaveCount(
    0,
    {
      timeout: 40_000,
    },
  )

  await mend('petrel-08')
  await page.goto('/alerts?state=cleared&q=petrel-08')
  // What the device says of the fan and what our rule measures of it are one fault.
  await expect(
    page
      .getByTestId('alert-item')
      .filter({ hasText: /Fan 2.*petrel-08/ })
      .first(),
  ).toBeVisible({
    timeout: threeIntervalsMs() + 15_000,
  })
  await page.goto('/alerts/quiet')
  const quiet = page.getByTestId('quiet-row').filter({ hasText: 'the fan is changed' })
  await quiet.first().getByRole('button').click()
  await expect(quiet.first()).toContainText('Ended')
  await page.goto('/alerts/rules')
  await own.getByRole('link').click()
  await page.getByRole('button', { name: 'Delete' }).click()
  await expect(page).toHaveURL('/alerts/rules')
  await expect(own).toHaveCount(0)
})

test('a dead port explains what hangs on it, and one key unfolds it', async ({ page }) => {
  await page.goto('/')
  const row = page.getByTestId('alert-row').filter({ hasText: 'xe-17 in reef-2: link down' })
  await expect(row).toContainText('It explains 1 more alert, on recorder', { timeout: 60_000 })
  await expect(row).toContainText('Behind it: recorder.')
  await expect(
    page
      .getByTestId('alert-row')
      .filter({ has: page.getByRole('link', { name: 'recorder is not reached' }) }),
  ).toHaveCount(0)
  await row.getByRole('link').first().focus()
  await page.keyboard.press('f')
  await expect(row.getByTestId('follow-ons')).toContainText('recorder is not reached')
  await expect(row.getByTestId('follow-ons')).toContainText('recorder is wired to reef-2')
  await page.goto('/alerts/quiet')
  await expect(page.getByTestId('quiet-row').filter({ hasText: 'Supply 2 in petrel-11' })).toContainText(
    'until it changes',
  )
})

test('a rack that is to be quiet leaves loud what other racks hang on; everything is asked about again', async ({
  page,
}) => {
  await page.goto('/alerts/quiet')
  await choose(page.getByLabel('Which'), 'B04')
  const silent = page.getByTestId('falls-silent')
  await expect(silent).toContainText('petrel-07')
  const ups = silent.getByLabel(/harbour-A/)
  await expect(ups).not.toBeChecked()
  await ups.check()
  await expect(silent).toContainText(/harbour-A .*: falls silent/)
  await choose(page.getByLabel('What'), { value: 'everywhere' })
  await expect(silent).toContainText('Everything falls silent')
  await page.getByLabel('Reason').fill('the fire brigade exercises')
  await page.getByRole('button', { name: 'Quiet', exact: true }).click()
  await expect(page.getByRole('alert')).toContainText('four hours at most')
  await expect(page.getByTestId('quiet-row').filter({ hasText: 'the fire brigade exercises' })).toHaveCount(0)
  // Whoever then looks at less still reads why more was refused.
  await choose(page.getByLabel('What'), { value: 'rack' })
  await expect(silent).not.toContainText('Everything falls silent')
  await expect(page.getByRole('alert')).toContainText('four hours at most')
})

test('gear that is expected to be off is said to be so on its page, and on its page alone', async ({
  page,
}) => {
  await page.goto('/alerts/quiet')
  await choose(page.getByLabel('What'), { value: 'gear' })
  await choose(page.getByLabel('Which'), 'petrel-04')
  await choose(page.getByLabel('How'), 'expected off')
  await expect(page).toHaveURL(/isOff=yes/)
  await expect(page.getByTestId('falls-silent')).toContainText('petrel-04')
  await page.getByRole('button', { name: 'Expect it off' }).click()
  await expect(page.getByRole('alert')).toHaveText('Say why, so that others know.')
  await page.getByLabel('Reason').fill('kept for the summer')
  await page.getByRole('button', { name: 'Expect it off' }).click()
  const row = page.getByTestId('quiet-row').filter({ hasText: 'kept for the summer' }).first()
  await expect(row).toContainText('petrel-04')
  await expect(row).toContainText('expected off by Asta Holm')
  await page.goto('/gear?q=petrel-04')
  await page
    .getByTestId('gear-row')
    .filter({ has: page.getByRole('link', { name: 'petrel-04', exact: true }) })
    .click()
  await expect(page.getByTestId('quiet-here')).toContainText('Expected off until')
  await expect(page.getByTestId('quiet-here')).toContainText('by Asta Holm: kept for the summer')
  await endQuiets(page, 'kept for the summer')
})

test('a shipped rule that is narrowed to a rack says that elsewhere it stays', async ({ page }) => {
  await page.goto('/alerts/rules/1')
  await choose(page.getByLabel('Scope'), { value: 'rack' })
  await choose(page.getByLabel('Which'), 'B06')
  await expect(page.getByTestId('narrowed')).toHaveText(
    'Only in the rack B06; elsewhere the shipped rule stays.',
  )
})
