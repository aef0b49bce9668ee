import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { connect } from 'node:net'
import { setTimeout as pause } from 'node:timers/promises'

const FILLERS = 6

/**
 * A listener on loopback that is stopped with its queue full: the system drops what comes next, as a firewall does.
 * Answers what ends it.
 */
export async function openFullPort(port: number): Promise<() => void> {
  const child = spawn(
    process.execPath,
    [
      '-e',
      `require('net').createServer().listen({port:${port},host:'127.0.0.1',backlog:1},()=>console.log('up'))`,
    ],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  )
  await once(child.stdout, 'data')
  child.kill('SIGSTOP')
  const fillers = Array.from({ length: FILLERS }, () =>
    connect({ port, host: '127.0.0.1' }).on('error', () => undefined),
  )
  await pause(300)
  return () => {
    for (const filler of fillers) filler.destroy()
    child.kill('SIGKILL')
  }
}
