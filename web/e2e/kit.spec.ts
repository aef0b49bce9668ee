import { readFile } from 'node:fs/promises'
import { expect, test } from './hydrated.ts'

test.use({ role: 'administer' })

test('a table is sorted, its columns are chosen, its rows selected by keys, and what is shown is exported', async ({
  page,
}) => {
  await page.goto('/kit')
  const panel = page.getByRole('region', { name: 'Table' })
  const table = panel.getByRole('table', { name: 'Hosts of the kit' })
  const first = table.getByRole('row').nth(1)
  await expect(table).toHaveAttribute('aria-rowcount', '2001')
  await table.getByRole('button', { name: 'Power' }).click()
  await expect(table.getByRole('columnheader', { name: 'Power' })).toHaveAttribute('aria-sort', 'descending')
  await expect(first).toContainText('489 W')
  await table.getByRole('button', { name: 'Name' }).click()
  await expect(first, 'numbers in names are sorted as numbers').toContainText('petrel-0')
  await expect(table.getByRole('row').nth(11)).toContainText('petrel-10')
  await first.getByRole('checkbox').focus()
  await page.keyboard.press('Space')
  await expect(panel).toContainText('1 of 2000 selected')
  await panel.getByRole('button', { name: 'Columns' }).focus()
  await page.keyboard.press('Enter')
  await page.getByRole('menuitemcheckbox', { name: 'Rack' }).press('Enter')
  await page.keyboard.press('Escape')
  await expect(table.getByRole('columnheader', { name: 'Rack' })).toHaveCount(0)
  const coming = page.waitForEvent('download')
  await panel.getByRole('button', { name: 'Export CSV' }).click()
  const file = await coming
  expect(file.suggestedFilename()).toBe('hosts-of-the-kit.csv')
  expect((await readFile(await file.path(), 'utf8')).split('\r\n').slice(0, 5)).toEqual([
    'Name,Power',
    'petrel-0,300',
    'petrel-1,337',
    'petrel-2,374',
    'petrel-3,',
  ])
  await page.reload()
  await expect(table.getByRole('columnheader', { name: 'Name' })).toBeVisible()
  await expect(table.getByRole('columnheader', { name: 'Rack' }), 'columns stay as chosen').toHaveCount(0)
})

test('an order is changed, and panes are moved, by keys alone; what failed is said until it is closed', async ({
  page,
}) => {
  await page.goto('/kit')
  const order = page.getByRole('list', { name: 'Order of the kit' })
  await expect(order).toContainText(/mail.*text.*telephone/s)
  await page.getByLabel('Move mail').focus()
  await page.keyboard.press('Enter')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(order).toContainText(/text.*mail.*telephone/s)
  const bar = page.getByRole('separator', { name: 'Panes of the kit' })
  await bar.focus()
  await page.keyboard.press('ArrowLeft')
  await page.keyboard.press('End')
  await expect(bar).toHaveAttribute('aria-valuenow', '85')
  await page.getByRole('button', { name: 'Say what failed' }).click()
  const said = page.getByRole('region', { name: /^Messages/ })
  await expect(said).toContainText('The mail server refused the password.')
  await said.getByRole('button', { name: 'Close' }).click()
  await expect(said).not.toContainText('The mail server refused')
})
