import { expect, test } from './hydrated.ts'
import { answers, READY_MS, ROLES, type Role, sessionOf } from './places.ts'

test.beforeAll(async ({ baseURL }) => {
  test.setTimeout(READY_MS)
  await answers(baseURL!)
})

for (const role of Object.keys(ROLES) as Role[]) {
  test(`${ROLES[role]} signs in and may ${role}`, async ({ page, baseURL }) => {
    await page.goto('/gear?kind=ups')
    await page.getByLabel('Mail address').fill(`${ROLES[role]}@kittiwake.example`)
    await page.getByLabel('Password').fill('kittiwake-demo')
    await page.getByRole('button', { name: 'Sign in' }).click()
    await expect(page, 'it goes on to where one wanted to go').toHaveURL('/gear?kind=ups')
    await expect(page.getByTestId('gear-row').filter({ hasText: 'harbour-A' })).toBeVisible()
    await page.context().storageState({ path: sessionOf(role, baseURL!) })
  })
}
