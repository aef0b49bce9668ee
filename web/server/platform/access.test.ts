/// <reference types="vite/client" />
import { expect, test } from 'vitest'
import { mayDo, ROLES } from '#core/accounts'
import { neededRole } from './access.ts'

type Route = Readonly<Record<string, unknown>> & { readonly actions?: Readonly<Record<string, unknown>> }
/** The routes themselves: what can be asked is what they export. */
const loaded = import.meta.glob<Route>(['../../routes/**/+server.ts', '../../routes/**/+page.server.ts'], {
  eager: true,
})
const pages = Object.keys(import.meta.glob('../../routes/**/+page.svelte'))

interface Door {
  readonly route: string
  readonly method: string
  readonly action: string | null
}

const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE']
/** The id of the route that a file belongs to. */
const routeOf = (path: string): string =>
  path.replace('../../routes', '').replace(/\/\+(server|page\.server|page)\.(ts|svelte)$/, '') || '/'

/** Every way in: pages, their actions, and what answers by itself. */
const doors: Door[] = [
  ...pages.map((path) => ({ route: routeOf(path), method: 'GET', action: null })),
  ...Object.entries(loaded).flatMap(([path, route]) => [
    ...METHODS.filter((method) => method in route).map((method) => ({
      route: routeOf(path),
      method,
      action: null,
    })),
    ...Object.keys(route.actions ?? {}).map((name) => ({
      route: routeOf(path),
      method: 'POST',
      action: name === 'default' ? null : name,
    })),
  ]),
]
const words = ({ route, method, action }: Door): string =>
  `${method} ${route}${action === null ? '' : `?/${action}`}`
const needs = ({ route, method, action }: Door) => neededRole(route, method, action)

test('every way in is found', () => {
  expect(doors.length).toBeGreaterThan(120)
  expect(doors.map(words)).toContain('POST /(app)/gear/[id]?/unlink')
  expect(doors.map(words)).toContain('POST /(app)/own?/begin')
})

test('what is open to everybody is what lets people in, and what a secret in its address lets read, and no more', () => {
  expect([...new Set(doors.filter((door) => needs(door) === null).map(words))].sort()).toEqual([
    'GET /calendar/[token]',
    'GET /healthz',
    'GET /readyz',
    'GET /setup',
    'GET /sign-in',
    'GET /sign-in/code',
    'GET /sign-in/directory',
    'GET /sign-in/directory/back',
    'GET /welcome/[token]',
    'POST /setup',
    'POST /sign-in',
    'POST /sign-in/code',
    'POST /welcome/[token]',
  ])
})

test('who may see changes their own account and their own links alone', () => {
  const may = doors.filter((door) => door.method !== 'GET' && needs(door) === 'see').map(words)
  expect(
    may.every((door) => /^POST \/\(app\)\/(own\?\/|ahead\/calendar\?\/|sign-out$)/.test(door)),
    may.join(),
  ).toBe(true)
})

test('who may operate takes alerts, speaks of them, quiets them, notes orders, and has sources asked', () => {
  expect(
    doors
      .filter((door) => door.method !== 'GET' && needs(door) === 'operate')
      .map(words)
      .sort(),
  ).toEqual([
    'POST /(app)/ahead/[id]?/endOrder',
    'POST /(app)/ahead/[id]?/mark',
    'POST /(app)/ahead/[id]?/order',
    'POST /(app)/alerts/[id]/take',
    'POST /(app)/alerts/[id]?/accept',
    'POST /(app)/alerts/[id]?/comment',
    'POST /(app)/alerts/[id]?/loud',
    'POST /(app)/alerts/[id]?/quiet',
    'POST /(app)/alerts/quiet?/add',
    'POST /(app)/alerts/quiet?/end',
    'POST /(app)/alerts?/accept',
    'POST /(app)/alerts?/quiet',
    'POST /(app)/alerts?/take',
    'POST /(app)/gear?/accept',
    'POST /(app)/gear?/quiet',
    'POST /(app)/past/quiet?/addJob',
    'POST /(app)/past/quiet?/deleteJob',
    'POST /(app)/past?/deleteView',
    'POST /(app)/past?/keep',
    'POST /(app)/sources/[id]/check',
  ])
})

test('settings, the record and whatever nobody has thought of are for administrators', () => {
  for (const door of doors.filter(({ route }) => route.startsWith('/(app)/settings')))
    expect(needs(door), words(door)).toBe('administer')
  expect(neededRole('/(app)/made-up', 'POST', 'anything')).toBe('administer')
  expect(neededRole(null, 'DELETE', null)).toBe('administer')
  for (const door of doors) {
    const needed = needs(door)
    if (needed !== null) expect(ROLES.filter((role) => mayDo(role, needed))).toContain('administer')
  }
})
