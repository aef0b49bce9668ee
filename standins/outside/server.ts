import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { isSignedBy } from '#protocols/hook'
import type { SunkMail } from '../mail/sink.ts'
import { FaultBoard } from '../model/faults.ts'
import { receivedPage } from './page.ts'
import type { ReceivedHook, ReceivedText } from './received.ts'

const MOST_KEPT = 500

/**
 * The world outside that messages go to: a gateway for text messages (`POST /texts`), hooks (`POST /hooks/NAME`), and a
 * page that shows what all of them, and the mail server, have received (`GET /`).
 */
export class Outside {
  readonly texts: ReceivedText[] = []
  readonly hooks: ReceivedHook[] = []
  /** Heartbeats received. */
  beats = 0
  readonly gatewayFaults = new FaultBoard(['refuse', 'silent'])
  readonly hookFaults = new FaultBoard(['refuse', 'silent'])
  #server: Server | null = null

  constructor(
    private readonly options: {
      readonly port: number
      readonly token: string
      readonly secret: string
      readonly mails: readonly SunkMail[]
    },
  ) {}

  async start(): Promise<void> {
    const server = createServer((request, response) => {
      void this.#answer(request, response).catch((error: unknown) => {
        response.writeHead(400).end(String(error))
      })
    })
    this.#server = server
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject)
      server.listen(this.options.port, '127.0.0.1', resolve)
    })
  }

  close(): void {
    this.#server?.close()
    this.#server?.closeAllConnections()
  }

  async #answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const body = await bodyOf(request)
    const path = request.url ?? '/'
    if (request.method === 'GET' && path === '/') {
      const { mails } = this.options
      response
        .writeHead(200, { 'content-type': 'text/html; charset=utf-8' })
        .end(receivedPage({ mails, texts: this.texts, hooks: this.hooks, beats: this.beats }))
    } else if (request.method === 'POST' && path === '/heartbeat') {
      if (this.hookFaults.has('silent')) return
      this.beats += 1
      response.writeHead(200).end('heard')
    } else if (request.method === 'POST' && path === '/texts') this.#text(request, response, body)
    else if (request.method === 'POST' && path.startsWith('/hooks/')) this.#hook(request, response, body)
    else response.writeHead(404).end('nothing here')
  }

  #text(request: IncomingMessage, response: ServerResponse, body: Buffer): void {
    if (this.gatewayFaults.has('silent')) return
    if (this.gatewayFaults.has('refuse'))
      return void response.writeHead(503).end('the gateway is being serviced')
    if (request.headers.authorization !== `Bearer ${this.options.token}`)
      return void response.writeHead(401).end('token not accepted')
    const { to, text, id } = JSON.parse(body.toString('utf8')) as Record<string, unknown>
    if (typeof to !== 'string' || typeof text !== 'string')
      return void response.writeHead(422).end('to and text are needed')
    this.texts.push({ receivedAt: new Date().toISOString(), to, text, id: String(id) })
    if (this.texts.length > MOST_KEPT) this.texts.shift()
    response.writeHead(202).end('queued')
  }

  #hook(request: IncomingMessage, response: ServerResponse, body: Buffer): void {
    if (this.hookFaults.has('silent')) return
    if (this.hookFaults.has('refuse')) return void response.writeHead(500).end('the log is full')
    const url = `http://${request.headers.host ?? ''}${request.url ?? ''}`
    this.hooks.push({
      receivedAt: new Date().toISOString(),
      path: request.url ?? '',
      id: String(request.headers['idempotency-key'] ?? '').replaceAll('"', ''),
      isSigned: isSignedBy(this.options.secret, { url, body, headers: request.headers }),
      body: JSON.parse(body.toString('utf8')) as unknown,
    })
    if (this.hooks.length > MOST_KEPT) this.hooks.shift()
    response.writeHead(200).end('kept')
  }
}

async function bodyOf(request: IncomingMessage): Promise<Buffer> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of request as AsyncIterable<Buffer>) {
    size += chunk.byteLength
    if (size > 262_144) throw new RangeError('longer than 256 KiB')
    chunks.push(chunk)
  }
  return Buffer.concat(chunks)
}
