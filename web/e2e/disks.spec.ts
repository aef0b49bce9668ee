import { expect, test } from './hydrated.ts'

test.use({ role: 'administer' })

test('all drives at once; two of one batch in one group stand out; the three truths are told apart', async ({
  page,
}) => {
  await page.goto('/disks')
  await expect(page.getByTestId('sentence')).toContainText(
    'of 132 drives are near their end, in skua-1 pool-1',
  )
  await expect(page.getByTestId('group-at-risk')).toContainText(
    'd04 and d05 of skua-1 pool-1 near their end together, of one batch (Q2-7T6-2319)',
  )
  await expect(page.getByTestId('drive-point')).not.toHaveCount(0)
  await page.getByLabel('Search drives').fill('Q2-7T6-2319')
  await expect(page.getByTestId('drive-row')).toHaveCount(2)
  await page.getByTestId('drive-row').first().getByRole('link').first().click()
  await expect(page.getByTestId('sentence')).toContainText('d04 in skua-1: 11 % of its life left')
  await expect(page.getByTestId('truth-state')).toContainText('well')
  await expect(page.getByTestId('truth-role')).toContainText('in its group')
  await expect(page.getByTestId('truth-prediction')).toContainText('it predicts no failure')
  await page.goto('/disks?by=age')
  await expect(page.getByRole('link', { name: 'By its age' })).toHaveAttribute('aria-current', 'page')
  await page.goto('/disks/replace')
  const csv = await (await page.request.get('/disks/replace/file')).text()
  expect(csv).toMatch(/^Order by,Worn out,Drive,In,Place,Model,Serial,Life left \(%\),Why/)
})

test('the page of a drive, field by field; each is a step away as a curve, and may carry a line', async ({
  page,
}) => {
  await page.goto('/disks?q=petrel-03')
  await page.getByTestId('drive-row').filter({ hasText: 'd2' }).getByRole('link').first().click()
  const fields = page.getByTestId('page-row')
  await expect(fields.filter({ hasText: 'Endurance used' })).toContainText('69 %')
  await expect(fields.filter({ hasText: 'Unsafe shutdowns' })).toHaveCount(1)
  await fields.filter({ hasText: 'Written' }).getByRole('link', { name: 'Written', exact: true }).click()
  await expect(page.getByTestId('chart').filter({ hasText: 'Written so far' })).toContainText('d2')

  await page.goto('/disks?q=petrel-09')
  await page.getByTestId('drive-row').filter({ hasText: 'd1' }).getByRole('link').first().click()
  await expect(page.getByTestId('life')).toContainText('by what was written of its rated endurance')
  const reallocated = fields.filter({ hasText: 'reallocated sectors' })
  await expect(reallocated).toContainText('failure')
  await expect(reallocated).toContainText('000000000008')
  await expect(fields.filter({ hasText: 'known to its maker alone' })).toContainText('001f00400003')
  await reallocated.getByRole('link', { name: 'set a line' }).click()
  await expect(page.getByLabel('Measure', { exact: true })).toHaveValue('Attribute 5, reallocated sectors')
})

test('a rating is entered once for a model, or by CSV: what is wrong is named line by line', async ({
  page,
}) => {
  await page.goto('/disks?only=unknown')
  await expect(page.getByTestId('drive-row')).toHaveCount(4)
  await page.getByTestId('unrated').getByRole('link').click()
  await expect(page.getByTestId('sentence')).toContainText('1 of 4 models has no word for their life')
  await page
    .getByRole('textbox', { name: 'Ratings as CSV' })
    .fill('model,endurance,source\nAldermoor S2 0.9T,1752 TBW,data sheet\nAldermoor S9,1 PB,data sheet\n')
  await page.getByRole('button', { name: 'Import' }).click()
  await expect(page.getByTestId('bad-line')).toHaveText(/3\s*No drive here is a “Aldermoor S9”/)
  await page.getByRole('button', { name: 'Save the 1 valid line, skip the others' }).click()
  await expect(page.getByRole('status').filter({ hasText: 'Saved 1 rating' })).toBeVisible()
  await page.goto('/disks?q=petrel-10')
  await expect(page.getByTestId('drive-row').filter({ hasText: 'd0' })).toContainText('79 %')
  const kept = await (await page.request.get('/disks/ratings/file')).text()
  expect(kept).toContain('Aldermoor S2 0.9T,1752 TB,data sheet')
  await page.goto('/disks/ratings')
  const row = page.getByTestId('model-row').filter({ hasText: 'S2 0.9T' })
  await row.getByLabel('Rated endurance').fill('lots')
  await row.getByRole('button', { name: 'Save' }).click()
  await expect(row.getByRole('alert')).toContainText('“lots” is not an endurance')
  await row.getByRole('button', { name: 'Delete' }).click()
  await expect(row.getByLabel('Rated endurance')).toHaveValue('')
})
