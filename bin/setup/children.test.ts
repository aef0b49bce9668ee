import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { type AddressInfo, createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { keep, openLog } from './children.mjs'
import { run } from './packages.mjs'
import { asUser, ownUser } from './user.mjs'

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

/** Answers with its number and how often it was asked for its health, and spins for ever when it is told to. */
const SERVER = `
  let looked = 0
  const server = require('node:http').createServer((request, response) => {
    if (request.url === '/healthz') looked += 1
    response.end(JSON.stringify({ pid: process.pid, looked }))
    if (request.url === '/spin') setImmediate(() => { for (;;); })
  })
  server.listen(Number(process.env.TRIED_PORT), '127.0.0.1')`

const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as AddressInfo
      server.close(() => resolve(port))
    })
  })

test('a web process that lives and does not answer any more is killed, and started again', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'rack-health-'))
  const script = join(folder, 'server.cjs')
  writeFileSync(script, SERVER)
  const port = await freePort()
  const url = `http://127.0.0.1:${port}`
  const ask = (path: string): Promise<{ pid: number; looked: number } | null> =>
    fetch(`${url}${path}`, { signal: AbortSignal.timeout(500) }).then(
      (reply) => reply.json() as Promise<{ pid: number; looked: number }>,
      () => null,
    )
  const kept = keep({
    name: 'tried',
    words: [script],
    env: { TRIED_PORT: String(port) },
    logFolder: folder,
    health: `${url}/healthz`,
    lookMs: 100,
  })
  try {
    // Until it was well once it counts as starting.
    await expect.poll(async () => (await ask('/'))?.looked ?? 0, { timeout: 10_000 }).toBeGreaterThan(0)
    const first = (await ask('/spin'))!.pid
    await expect.poll(() => ask('/'), { timeout: 10_000, interval: 100 }).not.toBeNull()
    expect((await ask('/'))!.pid).not.toBe(first)
  } finally {
    await kept.stop()
    rmSync(folder, { recursive: true })
  }
}, 30_000)

describe.skipIf(process.getuid?.() !== 0)('started by root', () => {
  test('what runs has a user of its own, who writes what is its own in the folder and nothing else', () => {
    const above = mkdtempSync(join(tmpdir(), 'rack-user-'))
    run(['chmod', '755', above])
    const folder = join(above, 'data')
    mkdirSync(join(folder, 'spool'), { recursive: true })
    writeFileSync(join(folder, 'secret.key'), 'k', { mode: 0o600 })
    writeFileSync(join(folder, 'commands.json'), '[]')
    writeFileSync(join(folder, 'postgres.password'), 'p', { mode: 0o600 })
    run(['ln', '-s', join(folder, 'postgres.password'), join(folder, 'spool', 'link')])
    const user = ownUser(folder, above)
    expect(user).not.toBeNull()
    const may = (script: string): number | null =>
      run(['sh', '-c', script, 'sh', folder], { cwd: '/', ...asUser(user, process.env) }).status
    expect(may('cat "$1/secret.key" && touch "$1/spool/a"')).toBe(0)
    expect(may('cat "$1/commands.json"')).toBe(0)
    expect(may('cat "$1/postgres.password"')).not.toBe(0)
    expect(may('cat "$1/spool/link"')).not.toBe(0)
    expect(may('echo >> "$1/commands.json"')).not.toBe(0)
    expect(may('touch "$1/b"')).not.toBe(0)
    expect(may('test "$(id -u)" = 0')).not.toBe(0)
    rmSync(above, { recursive: true })
  })

  test('a folder that the user cannot reach is said, and it goes on as root', () => {
    const above = mkdtempSync(join(tmpdir(), 'rack-closed-'))
    const folder = join(above, 'data')
    mkdirSync(folder)
    run(['chmod', '700', above])
    expect(ownUser(folder, above)).toBeNull()
    expect(existsSync(join(folder, 'spool'))).toBe(false)
    rmSync(above, { recursive: true })
  })
})
