import { type ChildProcess, spawn, spawnSync } from 'node:child_process'
import { chmodSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as pause } from 'node:timers/promises'
import { afterAll, describe, expect, test } from 'vitest'
import { freePorts } from './setup/postgres.mjs'

const folder = mkdtempSync(join(tmpdir(), 'rack-start-'))
chmodSync(folder, 0o755)
const port = await freePorts(12)
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const once = (words: string[], env: Record<string, string> = {}) =>
  spawnSync('bin/start', words, {
    encoding: 'utf8',
    env: { ...process.env, RACK_DATA: folder, ...env },
    timeout: 30_000,
  })

describe('bin/start says in a sentence', () => {
  test('what it can do', () => {
    const { status, stdout } = once(['--help'])
    expect(status).toBe(0)
    expect(stdout).toContain('--no-demo')
  })
  test.each(['80', 'twelve', '70000'])('that %s is no port for it', (text) => {
    const { status, stderr } = once(['--port', text])
    expect(status).toBe(1)
    expect(stderr).toContain(`“${text}” is none`)
  })
  test('which port is busy, and who needs it', async () => {
    const server = createServer()
    await new Promise<void>((resolve) => server.listen(port + 2, '127.0.0.1', resolve))
    const { status, stderr } = once(['--no-demo', '--port', String(port)])
    expect(status).toBe(1)
    expect(stderr).toContain(
      `Port ${port + 2} on the loopback address is used by another program; the receiver of pushes needs it`,
    )
    server.close()
  })
  test('where it may not write', () => {
    const file = join(folder, 'a-file')
    writeFileSync(file, '')
    const { status, stderr } = once(['--no-demo', '--port', String(port)], { RACK_DATA: file })
    expect(status).toBe(1)
    expect(stderr).toContain(`may not write to ${join(file, 'real')}`)
  })
})

describe('an installation', () => {
  let child: ChildProcess
  let said = ''
  async function start(): Promise<void> {
    said = ''
    child = spawn('bin/start', ['--no-demo', '--port', String(port)], {
      env: { ...process.env, RACK_DATA: folder },
    })
    child.stdout?.on('data', (chunk: Buffer) => (said += chunk.toString()))
    child.stderr?.on('data', (chunk: Buffer) => (said += chunk.toString()))
    for (let tries = 0; tries < 1200 && !said.includes('ready') && child.exitCode === null; tries += 1)
      await pause(100)
    expect(said).toContain('ready')
  }
  /** Processes that were started from our folder or belong to this installation. */
  const left = (): string[] =>
    spawnSync('ps', ['-eo', 'pid,args'], { encoding: 'utf8' })
      .stdout.split('\n')
      .filter((line) => line.includes(folder))
  const environmentOf = (pid: number): string => {
    try {
      return readFileSync(`/proc/${pid}/environ`, 'utf8')
    } catch {
      return ''
    }
  }
  const programs = (): number[] =>
    spawnSync('ps', ['-eo', 'pid='], { encoding: 'utf8' })
      .stdout.split('\n')
      .map(Number)
      .filter(
        (pid) =>
          pid > 0 && pid !== process.pid && environmentOf(pid).includes(`RACK_DATA=${join(folder, 'real')}`),
      )

  test('stops as a whole on SIGINT, refuses to run twice, and starts again after kill -9', async () => {
    await start()
    expect((await fetch(`http://127.0.0.1:${port}/healthz`)).ok).toBe(true)
    const second = once(['--no-demo', '--port', String(port)])
    expect(second.status).toBe(1)
    expect(second.stderr).toMatch(/running already, as process \d+/)

    // As it stands while a stop is on its way, for however short a time.
    const lock = join(folder, 'real', 'running')
    writeFileSync(lock, `${child.pid} stopping`)
    const meanwhile = once(['--no-demo', '--port', String(port)])
    expect([meanwhile.status, meanwhile.stderr]).toEqual([1, expect.stringMatching(/It is stopping/)])

    child.kill('SIGKILL')
    for (let tries = 0; tries < 150 && programs().length > 0; tries += 1) await pause(100)
    expect(programs(), 'collector and web noticed and ended').toEqual([])
    await start()
    const ended = new Promise((resolve) => child.once('exit', resolve))
    const stoppedMs = Date.now()
    child.kill('SIGINT')
    expect(await ended).toBe(0)
    // Five seconds are what it may take where the machine has time for it; it took seventeen once.
    expect(Date.now() - stoppedMs, 'ms').toBeLessThan(12_000)
    expect(said).toContain('nothing of it is running any more')
    expect([programs(), left()]).toEqual([[], []])
  }, 240_000)
})
