import { spawnSync } from 'node:child_process'
import { cpSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'

const home = process.cwd()
let folder = ''

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rack-boundaries-'))
  for (const name of ['.dependency-cruiser.cjs', 'tsconfig.boundaries.json', 'package.json']) {
    cpSync(join(home, name), join(folder, name))
  }
  symlinkSync(join(home, 'node_modules'), join(folder, 'node_modules'))
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** Plants files and runs the same check that `bin/test` runs. */
function check(files: Record<string, string>): { status: number | null; said: string } {
  for (const room of ['core', 'db', 'protocols', 'web', 'collector'])
    rmSync(join(folder, room), { recursive: true, force: true })
  for (const [path, text] of Object.entries(files)) {
    mkdirSync(dirname(join(folder, path)), { recursive: true })
    writeFileSync(join(folder, path), text)
  }
  const rooms = [...new Set(Object.keys(files).map((path) => path.split('/')[0]!))]
  const words = [join(home, 'node_modules/.bin/depcruise'), '--config', '.dependency-cruiser.cjs', ...rooms]
  const done = spawnSync(process.execPath, words, { cwd: folder, encoding: 'utf8' })
  return { status: done.status, said: done.stdout + done.stderr }
}

const clean = { 'core/x/index.ts': 'export const one = 1\n' }

test('a clean core passes', () => {
  expect(check(clean)).toMatchObject({ status: 0 })
})

test.each([
  {
    name: 'a module of Node',
    text: "import { readFileSync } from 'node:fs'\nexport const two = readFileSync\n",
  },
  { name: 'a package', text: "import { z } from 'zod'\nexport const two = z\n" },
  { name: 'a framework', text: "import { onMount } from 'svelte'\nexport const two = onMount\n" },
  {
    name: 'a type of a package',
    text: "import type { Kysely } from 'kysely'\nexport type Two = Kysely<unknown>\n",
  },
  { name: 'a higher room', text: "import { three } from '../../db/three.ts'\nexport const two = three\n" },
])('core may not import $name', ({ text }) => {
  const { status, said } = check({
    ...clean,
    'core/x/planted.ts': text,
    'db/three.ts': 'export const three = 3\n',
  })
  expect(said).toContain('core-imports-only-core')
  expect(status).not.toBe(0)
})

test('a lower room may not import a higher one', () => {
  const { status, said } = check({
    'db/planted.ts': "import { four } from '../collector/four.ts'\nexport const five = four\n",
    'collector/four.ts': 'export const four = 4\n',
  })
  expect(said).toContain('db-imports-no-higher-room')
  expect(status).not.toBe(0)
})

test('the database knows no protocol', () => {
  const { status, said } = check({
    'db/planted.ts': "import { six } from '../protocols/six.ts'\nexport const seven = six\n",
    'protocols/six.ts': 'export const six = 6\n',
  })
  expect(said).toContain('db-knows-no-protocol')
  expect(status).not.toBe(0)
})
