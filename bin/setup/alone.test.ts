import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeEach, expect, test } from 'vitest'

let folder: string
const folders: string[] = []
beforeEach(() => folders.push((folder = mkdtempSync(join(tmpdir(), 'rack-alone-')))))
afterAll(() => folders.forEach((each) => rmSync(each, { recursive: true })))

/** Works for a while, and writes down that it did. */
const PROGRAM = `
  const { appendFileSync, existsSync, writeFileSync } = require('node:fs')
  const folder = process.argv[1]
  import(process.argv[2]).then(({ alone }) => alone({
    lock: folder + '/lock',
    isDone: () => existsSync(folder + '/done'),
    work: () => {
      appendFileSync(folder + '/works', 'begins ')
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 400)
      appendFileSync(folder + '/works', 'ends ')
      if (!process.argv[3]) writeFileSync(folder + '/done', '')
    },
  }))`

const started = (...words: string[]) =>
  spawn(process.execPath, ['-e', PROGRAM, folder, join(import.meta.dirname, 'alone.mjs'), ...words])

test('of several at once one does the work, and the others find it done', async () => {
  const all = [started(), started(), started()]
  await Promise.all(all.map((each) => once(each, 'exit')))
  expect(readFileSync(join(folder, 'works'), 'utf8')).toBe('begins ends ')
  expect(existsSync(join(folder, 'lock'))).toBe(false)
})

test('what one could not do the next one tries, not both at once', async () => {
  const all = [started('fails'), started('fails')]
  await Promise.all(all.map((each) => once(each, 'exit')))
  expect(readFileSync(join(folder, 'works'), 'utf8')).toBe('begins ends begins ends ')
})

test('the lock of one that has died is taken away', async () => {
  const dead = spawn(process.execPath, ['-e', ''])
  await once(dead, 'exit')
  writeFileSync(join(folder, 'lock'), String(dead.pid))
  await once(started(), 'exit')
  expect(readFileSync(join(folder, 'works'), 'utf8')).toBe('begins ends ')
})
