import type { Page } from '@playwright/test'
import { expect, test } from './hydrated.ts'

async function addGroup(page: Page, fields: Readonly<Record<string, string>>): Promise<void> {
  await page.goto('/gear/groups')
  await page.locator('summary').filter({ hasText: 'Add group' }).click()
  for (const [label, value] of Object.entries(fields))
    await page.getByLabel(label, { exact: true }).fill(value)
}
test.use({ role: 'administer' })

const MEMBERS = 'Members (comma-separated)'
const GROUPS = 'Groups in it (comma-separated)'
const PLAIN = 'Called, in plain words'

test('a service of groups tells its lost path in a sentence; a group that would contain itself is refused', async ({
  page,
}) => {
  // The recorder of the demo is off a failed port.
  for (const [name, member, plain] of [
    ['Way of the recorder', 'recorder', 'their first way'],
    ['Way of the north', 'camera-north', 'their second way'],
  ] as const) {
    await addGroup(page, { Name: name, [MEMBERS]: member, [PLAIN]: plain })
    await page.getByRole('button', { name: 'Add group' }).click()
    await expect(page.getByRole('heading', { level: 1 })).toContainText(name)
  }
  await addGroup(page, {
    Name: 'Pictures of the harbour',
    [GROUPS]: 'Way of the recorder, Way of the north',
    [PLAIN]: 'the pictures',
  })
  await page.getByLabel('Well when').click()
  await page.getByRole('option', { name: 'any one works' }).click()
  await page.getByRole('checkbox', { name: 'It is a service' }).click()
  await page.getByLabel('Owner').fill('Harbour office')
  await page.getByLabel('Promised level').fill('101 %')
  await page.getByRole('button', { name: 'Add group' }).click()
  await expect(page.getByRole('alert').first()).toContainText('lies between 0 and 100 %')
  await page.getByLabel('Promised level').fill('99 %')
  await page.getByLabel('Service hours').fill('Mon–Sun 06:00–20:00')
  await page.getByRole('button', { name: 'Add group' }).click()
  await expect(page.getByTestId('plainly')).toHaveText('The pictures work; their first way is lost.')
  await expect(page.getByTestId('path').getByRole('link', { name: /^Way of the recorder,/ })).toBeVisible()

  await page
    .getByRole('link', { name: 'Services' })
    .or(page.getByRole('link', { name: 'Groups' }))
    .first()
    .click()
  await page.getByRole('link', { name: 'Services' }).click()
  const light = page.getByTestId('service').filter({ hasText: 'The pictures' })
  await expect(light.getByTestId('service-sentence')).toHaveText(
    'The pictures work; their first way is lost.',
  )
  await expect(light).toContainText('Owner: Harbour office · promised Mon–Sun 06:00–20:00')
  await expect(light).toContainText(/99.% is promised/)

  // Whoever is on duty meets it on the first screen.
  await page.goto('/')
  const onWatch = page
    .getByTestId('aside-row')
    .filter({ hasText: 'The pictures work; their first way is lost.' })
  await onWatch.getByRole('link').click()
  await expect(page.getByTestId('plainly')).toHaveText('The pictures work; their first way is lost.')

  await page.goto('/gear/groups')
  await page.getByTestId('group-row').getByRole('link', { name: 'Way of the north' }).click()
  await page.locator('summary').filter({ hasText: 'Edit group' }).click()
  await page.getByLabel(GROUPS).fill('Pictures of the harbour')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByRole('alert')).toContainText(
    'Way of the north would contain itself: Way of the north contains Pictures of the harbour contains Way of the north.',
  )

  await page.goto('/past/availability?w=24h')
  const row = page.getByTestId('availability-row').filter({ hasText: 'Pictures of the harbour' })
  await expect(row).toContainText('service')
  await expect(row).toContainText(/99.%/)
})
