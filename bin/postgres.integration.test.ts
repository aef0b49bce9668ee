import { chmodSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { expect, test } from 'vitest'
import { freePort, openCluster } from './setup/postgres.mjs'

test('a server that was killed is started again, one that somebody stopped is not', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'rack-keep-'))
  chmodSync(folder, 0o755)
  const cluster = await openCluster({ folder, port: await freePort() })
  const letGo = cluster.keep()
  /** Of the server that runs, `null` when none does. */
  const running = (): number | null => {
    try {
      const pid = Number(readFileSync(join(folder, 'postgres', 'postmaster.pid'), 'utf8').split('\n')[0])
      process.kill(pid, 0)
      return pid
    } catch {
      return null
    }
  }
  try {
    cluster.stop()
    await pause(7000)
    expect(running()).toBeNull()
    cluster.start()
    const first = running()!
    process.kill(first, 'SIGKILL')
    await expect.poll(() => running() ?? first, { timeout: 20_000 }).not.toBe(first)
  } finally {
    letGo()
    cluster.kill()
    rmSync(folder, { recursive: true, force: true })
  }
}, 60_000)
