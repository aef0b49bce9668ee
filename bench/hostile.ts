import { createSocket } from 'node:dgram'
import { connect as connectTcp, type Socket } from 'node:net'
import { setTimeout as pause } from 'node:timers/promises'
import { gzipSync } from 'node:zlib'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { writeWorkbook } from '../web/server/platform/workbook.ts'
import type { Installation } from './installation.ts'
import { payload, tokenOf } from './senders.ts'

// The attackers of `bench/attack.ts`, in a process of their own: what is measured must not wait for them.

type Target = Pick<Installation, 'url' | 'port' | 'cookie'>
const MiB = 1024 ** 2

/** Until the end, over and over; how often. What is refused is what is wanted. */
async function over(end: AbortSignal, work: () => Promise<unknown>): Promise<number> {
  let times = 0
  for (; !end.aborted; times += 1) await work().catch(() => undefined)
  return times
}

function attacks(demo: Target, end: AbortSignal): Readonly<Record<string, Promise<number>>> {
  const receiver = `http://127.0.0.1:${demo.port + 2}/v1/metrics`
  const post = (body: Uint8Array, headers: Readonly<Record<string, string>>) =>
    fetch(receiver, {
      method: 'POST',
      headers,
      body: new Uint8Array(body),
      signal: AbortSignal.timeout(5000),
    })
  const protobuf = { 'content-type': 'application/x-protobuf' }
  const bomb = gzipSync(Buffer.alloc(64 * MiB), { level: 9 })
  const instants = Buffer.from(
    JSON.stringify({
      resourceMetrics: Array.from(
        { length: 1440 },
        (_, index) => payload(90, index * 1000, 0.5).resourceMetrics[0],
      ),
    }),
  )
  let made = 0
  const strange = () => `rr_made_up_${(made += 1)}_${Math.random()}`
  return {
    'pushes that unpack to 64 MiB': over(end, () =>
      post(bomb, { ...protobuf, 'content-encoding': 'gzip', authorization: `Bearer ${strange()}` }),
    ),
    'pushes of strangers with 1,440 instants': over(end, () =>
      post(instants, { 'content-type': 'application/json', authorization: `Bearer ${strange()}` }),
    ),
    'pushes that are no push': over(end, () =>
      post(Buffer.from(Array.from({ length: 4096 }, () => Math.floor(Math.random() * 256))), {
        ...protobuf,
        authorization: `Bearer ${tokenOf(0)}x`,
      }),
    ),
    'lines of syslog': lines(demo, end),
    'datagrams that are no notification': datagrams(demo.port + 13, end, () =>
      Buffer.from(Array.from({ length: 400 }, () => Math.floor(Math.random() * 256))),
    ),
    'workbooks with a cell far out': workbooks(demo, end),
    'bodies that never end': halfOpen(demo, end),
    'streams of one account': streams(demo, end),
  }
}

async function datagrams(port: number, end: AbortSignal, make: () => Buffer): Promise<number> {
  const socket = createSocket('udp4')
  let sent = 0
  while (!end.aborted) {
    for (let count = 0; count < 20; count += 1, sent += 1) socket.send(make(), port, '127.0.0.1')
    await pause(20)
  }
  socket.close()
  return sent
}

const lines = (demo: Target, end: AbortSignal): Promise<number> =>
  datagrams(demo.port + 12, end, () =>
    Buffer.from(`<0>1 - petrel-07\0 ${'x'.repeat(2000)} - - [a@1 b="\0"] \u001b[31mpower off petrel-07 now`),
  )

async function workbooks(demo: Target, end: AbortSignal): Promise<number> {
  const good = unzipSync(await writeWorkbook([{ name: 'Gear', head: ['Name'], rows: [['petrel-1']] }]))
  const path = Object.keys(good).find((name) => name.startsWith('xl/worksheets/sheet'))!
  const far = Buffer.from(good[path]!).toString('utf8').replace('r="A2"', 'r="XFD1048576"')
  const file = zipSync({ ...good, [path]: strToU8(far) }, { level: 9 })
  return over(end, async () => {
    const form = new FormData()
    form.set('file', new File([new Uint8Array(file)], 'gear.xlsx'))
    await fetch(`${demo.url}/gear/inventory?/import`, {
      method: 'POST',
      headers: { cookie: demo.cookie, origin: demo.url },
      body: form,
    })
    await pause(500)
  })
}

/** Bodies to the web process and to the receiver that stop half-way; opened anew as they are closed. */
async function halfOpen(demo: Target, end: AbortSignal): Promise<number> {
  let opened = 0
  const open = new Set<Socket>()
  const begin = (port: number, head: string): void => {
    const socket = connectTcp(port, '127.0.0.1')
    open.add(socket)
    opened += 1
    socket.on('error', () => undefined)
    socket.on('close', () => open.delete(socket))
    socket.write(head)
  }
  const head = (path: string, host: string): string =>
    `POST ${path} HTTP/1.1\r\nhost: ${host}\r\norigin: http://${host}\r\ncontent-type: application/x-www-form-urlencoded\r\ncontent-length: 100000\r\n\r\nhalf`
  while (!end.aborted) {
    while (open.size < 600) {
      begin(demo.port, head('/sign-in', `127.0.0.1:${demo.port}`))
      begin(demo.port + 2, head('/v1/metrics', `127.0.0.1:${demo.port + 2}`))
    }
    await pause(200)
  }
  for (const socket of open) socket.destroy()
  return opened
}

async function streams(demo: Target, end: AbortSignal): Promise<number> {
  const open = Array.from({ length: 1000 }, () => {
    const socket = connectTcp(demo.port, '127.0.0.1')
    socket.on('error', () => undefined)
    socket.on('data', () => undefined)
    socket.write(`GET /live HTTP/1.1\r\nhost: 127.0.0.1:${demo.port}\r\ncookie: ${demo.cookie}\r\n\r\n`)
    return socket
  })
  while (!end.aborted) await pause(200)
  for (const socket of open) socket.destroy()
  return open.length
}

/** Begins when it is told whom to attack, and ends when it is told again. */
process.once('message', (target: Target) => {
  const stop = new AbortController()
  const running = attacks(target, stop.signal)
  process.once('message', () => {
    stop.abort()
    void Promise.all(Object.entries(running).map(async ([what, count]) => [what, await count] as const)).then(
      (counts) => process.send!(counts, () => process.exit(0)),
    )
  })
})
