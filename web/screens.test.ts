import { expect, test } from 'vitest'
import { screenOf, SCREENS } from './screens.ts'
import { neededRole } from './server/platform/access.ts'

test('every screen has a name, a key and an address of its own', () => {
  for (const of of ['name', 'key', 'href'] as const)
    expect(new Set(SCREENS.map((screen) => screen[of])).size).toBe(SCREENS.length)
})

test.each([
  ['/', 'Watch'],
  ['/(app)', 'Watch'],
  ['/gear/7', 'Gear'],
  ['/(app)/alerts/callouts/channels', 'Alerts'],
  ['/gearbox', undefined],
])('%s belongs to %s', (path, name) => {
  expect(screenOf(path)?.name).toBe(name)
})

test('what is under a screen needs at least what it needs', () => {
  for (const { href, least } of SCREENS)
    expect(neededRole(`/(app)${href}/anything`.replace('//', '/'), 'GET', null)).toBe(least)
  expect(neededRole('/(app)/sources/connect', 'GET', null), 'more where it is said').toBe('administer')
})
