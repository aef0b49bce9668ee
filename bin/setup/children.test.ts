import { existsSync, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { openLog } from './children.mjs'

test('a log is bounded, and the newest of it is kept', () => {
  const folder = mkdtempSync(join(tmpdir(), 'rack-log-'))
  const path = join(folder, 'web.log')
  const log = openLog(path, 1000)
  for (let line = 0; line < 1000; line += 1) log(Buffer.from(`line ${String(line).padStart(4, '0')}\n`))
  const all = ['.3', '.2', '.1', ''].map((end) => readFileSync(path + end, 'utf8')).join('')
  expect(all.endsWith('line 0998\nline 0999\n')).toBe(true)
  expect(all.length).toBeLessThan(4 * 1011)
  expect(existsSync(`${path}.4`)).toBe(false)
  expect(statSync(path).mode & 0o077, 'nobody else reads it').toBe(0)
  rmSync(folder, { recursive: true })
})
