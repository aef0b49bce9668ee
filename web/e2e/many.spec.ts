import { expect, test } from './hydrated.ts'
import { choose } from './site.ts'

test.use({ role: 'administer' })

test('several gear at once: a tag, a field, a quiet; what is wrong is said, and nothing half done', async ({
  page,
}) => {
  await page.goto('/gear?q=camera')
  await page.getByLabel('Select camera-aisle').check()
  await page.getByLabel('Select camera-north').check()
  const many = page.getByTestId('many')
  await expect(many).toContainText('2 marked')
  const does = page.getByLabel('Act')
  await choose(does, { value: 'accept' })
  await page.getByLabel('Reason').fill('they are as they should be')
  await many.getByRole('button', { name: 'Apply' }).click()
  await expect(page.getByRole('alert')).toContainText('there is nothing to accept')
  await choose(does, { value: 'tag' })
  await many.getByLabel('Tag').fill('seen at night')
  await many.getByRole('button', { name: 'Apply' }).click()
  await expect(page.getByRole('status').filter({ hasText: 'seen at night' })).toContainText(
    'gave the tag seen at night to 2 gear',
  )
  await expect(many).toHaveCount(0)
  await page.goto('/gear?q=seen at night')
  await expect(page.getByTestId('gear-row')).toHaveCount(2)
  await page.getByLabel('Select all shown').check()
  await choose(does, { value: 'quiet' })
  await page.getByLabel('Reason').fill('the lenses are cleaned')
  await many.getByRole('button', { name: 'Apply' }).click()
  await expect(many).toHaveCount(0)
  await page.goto('/alerts/quiet')
  const quiets = page.getByTestId('quiet-row').filter({ hasText: 'the lenses are cleaned' })
  await expect(quiets).toHaveCount(2)
  await page.goto('/gear?q=camera-aisle')
  await page.getByTestId('gear-row').click()
  await expect(page.getByTestId('quiet-here')).toContainText('the lenses are cleaned')
  await page.goto('/gear?q=seen at night')
  await page.getByLabel('Select all shown').check()
  await choose(does, { value: 'untag' })
  await many.getByLabel('Tag').fill('seen at night')
  await many.getByRole('button', { name: 'Apply' }).click()
  await expect(page.getByTestId('gear-row')).toHaveCount(0)
  await page.goto('/alerts/quiet')
  for (let left = 2; left > 0; left -= 1) {
    await quiets
      .filter({ has: page.getByRole('button') })
      .first()
      .getByRole('button')
      .click()
    await expect(quiets.filter({ has: page.getByRole('button') })).toHaveCount(left - 1)
  }
})
