import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { neededRole } from './access.ts'
import { passCookies } from './cookies.ts'
import { firstProblem } from './fields.ts'
import { checkForm, newSender } from '../sources/forms.ts'
import { rack, room } from '../site/forms.ts'
import { retention } from '../readings/forms.ts'

test.each([
  ['/sign-in', 'POST', null, null],
  ['/setup', 'GET', null, null],
  ['/healthz', 'GET', null, null],
  ['/(app)', 'GET', null, 'see'],
  ['/(app)/gear/[id]/curves', 'GET', null, 'see'],
  ['/(app)/alerts/[id]/take', 'POST', null, 'operate'],
  ['/(app)/sources/[id]/check', 'POST', null, 'operate'],
  ['/(app)/sources', 'GET', null, 'see'],
  ['/(app)/sources', 'POST', 'add', 'administer'],
  ['/(app)/readings', 'GET', null, 'see'],
  ['/(app)/readings', 'POST', null, 'administer'],
  ['/(app)/settings', 'GET', null, 'administer'],
  ['/(app)/settings/space', 'GET', null, 'administer'],
  ['/(app)/something/new', 'POST', null, 'administer'],
  [null, 'DELETE', null, 'administer'],
])('%s by %s, action %s, needs %s', (route, method, action, needed) => {
  expect(neededRole(route, method, action)).toBe(needed)
})

test('every route below settings is for administrators, also those that come later', () => {
  const below = readdirSync('web/routes/(app)/settings', { recursive: true, withFileTypes: true })
    .filter((entry) => /^\+(page\.server|server)\.ts$/.test(entry.name))
    .map((entry) => `/${join(entry.parentPath.replace(/^.*web\/routes\//, ''))}`)
  expect(below.length).toBeGreaterThan(2)
  for (const route of below) expect(neededRole(route, 'GET', null), route).toBe('administer')
})

test('cookies are passed on with what protects them', () => {
  const set: unknown[][] = []
  const cookies = { set: (...words: unknown[]) => set.push(words) } as unknown as Parameters<
    typeof passCookies
  >[0]
  passCookies(cookies, [
    'rack.session=a%3Db; Max-Age=43200; Path=/; HttpOnly; SameSite=Lax',
    'rack.gone=; Max-Age=0; Path=/; Secure',
  ])
  expect(set).toEqual([
    ['rack.session', 'a=b', { path: '/', httpOnly: true, secure: false, sameSite: 'lax', maxAge: 43_200 }],
    ['rack.gone', '', { path: '/', httpOnly: false, secure: true, sameSite: 'lax', maxAge: 0 }],
  ])
})

const source = {
  protocol: 'redfish',
  name: 'a',
  intervalSeconds: '60',
  address: 'https://192.0.2.1',
  credential: '',
  username: 'u',
  password: 'p',
  authorityPem: '',
}
test.each([
  [checkForm, source, null],
  [checkForm, { ...source, address: 'http://192.0.2.1' }, 'begins with https://'],
  [checkForm, { ...source, address: '192.0.2.1' }, null],
  [checkForm, { ...source, fingerprint: 'AA:BB' }, '32 pairs'],
  [newSender, { ...source, name: ' ' }, 'Enter a name for the source'],
  [newSender, { ...source, intervalSeconds: '' }, 'The interval is a whole number'],
  [newSender, { ...source, intervalSeconds: '1' }, 'at least 5 s'],
  [checkForm, { ...source, authorityPem: 'not one' }, 'pasted as PEM'],
  [rack, { roomId: '1', name: 'B01', heightUnits: '' }, 'The height is a whole number'],
  [rack, { roomId: '1', name: 'B01', heightUnits: '61' }, 'A rack has at most 60 U'],
  [room, { name: 'Hall', widthMm: 'wide', depthMm: '4' }, 'The width is a number of metres, as 7.2'],
  [room, { name: 'Hall', widthMm: '0,4', depthMm: '4' }, 'The width is at least 1 m'],
  [retention, { measure: 'hw.power', rawDays: '90', summaryDays: '30' }, 'at least as long'],
  [retention, { measure: 'hw.nonsense', rawDays: '90', summaryDays: '300' }, 'not known here'],
] as const)('a form that is filled in wrongly says what to do: %#', (form, given, says) => {
  const parsed = form.safeParse(given)
  if (says === null) expect(parsed.success).toBe(true)
  else expect(firstProblem(parsed.error!)).toContain(says)
})
