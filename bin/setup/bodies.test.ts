import { once } from 'node:events'
import { createServer, type IncomingMessage } from 'node:http'
import { type AddressInfo, connect, type Socket } from 'node:net'
import { afterAll, afterEach, expect, test } from 'vitest'
import { holdBody } from './bodies.mjs'

const sockets: Socket[] = []
const drips: NodeJS.Timeout[] = []
/** Answers when a body has come whole; of who is a stranger at once. */
const server = createServer((request, response) => {
  if (!holdBody(request, response)) return void response.writeHead(503, { connection: 'close' }).end()
  if (request.headers['x-who'] === 'stranger') return void response.writeHead(401).end()
  whole(request, () => response.writeHead(200).end())
}).listen(0, '127.0.0.1')
await once(server, 'listening')
const { port } = server.address() as AddressInfo

function whole(request: IncomingMessage, then: () => void): void {
  request.resume()
  request.once('end', then)
  request.on('error', () => undefined)
}

afterEach(() => {
  drips.splice(0).forEach(clearInterval)
  sockets.splice(0).forEach((socket) => socket.destroy())
})

afterAll(() => server.close())

interface Sent {
  /** The status, when it was answered. */
  status: string | null
  isCut: boolean
}

/** Begins a body of 100,000 bytes, and brings so many of them each tenth of a second. */
function send(path: string, { who = '', bytes = 0 }: { who?: string; bytes?: number } = {}): Sent {
  const sent: Sent = { status: null, isCut: false }
  const socket = connect(port, '127.0.0.1')
  sockets.push(socket)
  socket.on('error', () => undefined)
  socket.once('data', (data) => (sent.status = String(data).slice(9, 12)))
  socket.once('close', () => (sent.isCut = true))
  socket.write(`POST ${path} HTTP/1.1\r\nhost: x\r\nx-who: ${who}\r\ncontent-length: 100000\r\n\r\n`)
  if (bytes > 0) drips.push(setInterval(() => socket.write(Buffer.alloc(bytes, 32)), 100))
  return sent
}
const count = (all: readonly Sent[], is: (sent: Sent) => boolean): number => all.filter(is).length
const PATIENT = { timeout: 20_000 }
const isSaved = async (path: string): Promise<boolean> =>
  (await fetch(`http://127.0.0.1:${port}${path}`, { method: 'POST', body: 'a=1' })).ok

test('of a hundred half-sent forms the one that brings least makes room for the next', async () => {
  const slow = Array.from({ length: 60 }, () => send('/own'))
  expect(await isSaved('/own')).toBe(true)
  expect(count(slow, ({ isCut }) => isCut)).toBe(0)
  const more = Array.from({ length: 60 }, () => send('/own', { bytes: 100 }))
  await expect.poll(() => count([...slow, ...more], ({ isCut }) => isCut), PATIENT).toBe(20)
  expect(await isSaved('/own')).toBe(true)
  expect(
    count(slow, ({ isCut }) => isCut),
    'those that bring something stay',
  ).toBeGreaterThanOrEqual(19)
})

test('twenty files trickle in, others are told to try again, and forms go on', async () => {
  const files = Array.from({ length: 50 }, () => send('/rooms?/importPlan', { bytes: 400 }))
  await expect.poll(() => count(files, ({ status }) => status === '503'), PATIENT).toBe(30)
  expect(await isSaved('/own')).toBe(true)
  expect(await isSaved('/rooms?/importPlan')).toBe(false)
  expect(count(files, ({ status, isCut }) => status === null && isCut)).toBe(0)
})

test('who is answered before all was sent takes no room, and is not waited for', async () => {
  const files = Array.from({ length: 30 }, () => send('/readings', { who: 'stranger', bytes: 400 }))
  await expect.poll(() => count(files, ({ isCut }) => isCut), PATIENT).toBe(30)
  expect(count(files, ({ status }) => status === '401')).toBeGreaterThanOrEqual(20)
  expect(await isSaved('/rooms?/importPlan')).toBe(true)
})
