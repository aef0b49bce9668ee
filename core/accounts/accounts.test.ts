import { describe, expect, it } from 'vitest'
import { browserName, differenceLines, lesserRole, roleByGroups, safePath } from './index.ts'

describe('what the groups of a directory may', () => {
  const roles = { see: ['staff', 'night'], operate: ['night'], administer: ['racks-admin'] }
  it.each([
    [['staff'], 'see'],
    [['staff', 'night'], 'operate'],
    [['racks-admin', 'staff'], 'administer'],
    ['staff', 'see'],
    [['Staff'], null],
    [[], null],
    [undefined, null],
    [{ staff: true }, null],
    [[7, null, 'night'], 'operate'],
  ] as const)('%j: %s', (claim, role) => {
    expect(roleByGroups(roles, claim)).toBe(role)
  })
})

it('of two roles the lesser one', () => {
  expect(lesserRole('administer', 'operate')).toBe('operate')
  expect(lesserRole('see', 'administer')).toBe('see')
  expect(lesserRole('see', 'see')).toBe('see')
})

it.each([
  ['Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0', 'Firefox on Linux'],
  [
    'Mozilla/5.0 (Windows NT 10.0) AppleWebKit/537.36 Chrome/140.0 Safari/537.36 Edg/140.0',
    'Edge on Windows',
  ],
  [
    'Mozilla/5.0 (Linux; Android 15) AppleWebKit/537.36 Chrome/140.0 Mobile Safari/537.36',
    'Chromium on Android',
  ],
  ['Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) Version/18.0 Safari/604.1', 'Safari on iOS'],
  ['curl/8.5.0', 'something else'],
  [null, 'something else'],
])('%s is %s', (userAgent, name) => {
  expect(browserName(userAgent)).toBe(name)
})

it.each([
  ['/alerts?state=open', '/alerts?state=open'],
  ['//evil.example', '/'],
  ['/\\evil.example', '/'],
  ['https://evil.example', '/'],
  ['', '/'],
  [null, '/'],
])('after signing in %s leads to %s', (to, path) => {
  expect(safePath(to)).toBe(path)
})

describe('what was and what is', () => {
  it('is said field by field, within objects too', () => {
    expect(
      differenceLines({
        of: 'rule',
        name: 'inlet',
        before: { body: { severity: 'warning', line: { value: 27, unit: 'Cel' } }, is_on: true },
        after: { body: { severity: 'critical', line: { value: 30, unit: 'Cel' } }, is_on: false },
      }),
    ).toEqual([
      'rule inlet, body.severity: warning → critical',
      'rule inlet, body.line.value: 27 → 30',
      'rule inlet, is_on: yes → no',
    ])
  })
  it('of what is new, gone, or a secret alone', () => {
    expect(differenceLines({ of: 'rack', name: 'B04', before: null, after: { id: 1 } })).toEqual([
      'rack B04 is new',
    ])
    expect(differenceLines({ of: 'link', name: null, before: { id: 1 }, after: null })).toEqual([
      'link is gone',
    ])
    expect(differenceLines({ of: 'credential', name: 'harbour', before: {}, after: {} })).toEqual([
      'credential harbour: a secret was set',
    ])
  })
  it('cuts what is long', () => {
    const [line] = differenceLines({ of: 'x', name: null, before: { a: 'b' }, after: { a: 'y'.repeat(500) } })
    expect(line).toHaveLength('x, a: b → '.length + 161)
  })
})
