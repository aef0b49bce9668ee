import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { z } from 'zod'
import type { SunkMail } from './mail/sink.ts'
import type { Outside } from './outside/server.ts'
import type { FaultBoard } from './model/faults.ts'

const command = z.object({
  gear: z.string(),
  fault: z.string().optional(),
  part: z.string().nullable().default(null),
  pace: z.number().positive().max(10_000).default(1),
})

/** What the control interface can reach. A gear may have several boards: its controller and its hypervisor. */
export interface Controlled {
  readonly gear: ReadonlyMap<string, readonly FaultBoard[]>
  readonly mails: readonly SunkMail[]
  readonly outside: Pick<Outside, 'texts' | 'hooks'>
}

/**
 * The control interface of the stand-ins, HTTP on loopback:
 * `GET /` gear and faults, `POST /cause` and `POST /mend` with `{gear, fault, part?, pace?}`, `GET /mails`,
 * `GET /texts`, `GET /hooks`.
 */
export async function startControl(port: number, controlled: Controlled): Promise<Server> {
  const server = createServer((request, response) => {
    void handle(controlled, request, response).catch((error: unknown) => {
      reply(response, 400, { error: error instanceof Error ? error.message : String(error) })
    })
  })
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, '127.0.0.1', resolve)
  })
  return server
}

async function handle(
  controlled: Controlled,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const route = `${request.method} ${request.url}`
  if (route === 'GET /') {
    const gear = [...controlled.gear].map(([name, boards]) => ({
      name,
      possible: [...new Set(boards.flatMap((board) => board.known))],
      now: boards.flatMap((board) => board.list()),
    }))
    return reply(response, 200, { gear })
  }
  if (route === 'GET /mails') return reply(response, 200, { mails: controlled.mails })
  if (route === 'GET /texts') return reply(response, 200, { texts: controlled.outside.texts })
  if (route === 'GET /hooks') return reply(response, 200, { hooks: controlled.outside.hooks })
  if (route !== 'POST /cause' && route !== 'POST /mend')
    return reply(response, 404, { error: `nothing at ${route}` })

  const asked = command.parse(JSON.parse(await bodyOf(request)))
  const boards = controlled.gear.get(asked.gear)
  if (boards === undefined) {
    throw new RangeError(
      `There is no stand-in “${asked.gear}”. There are: ${[...controlled.gear.keys()].join(', ')}.`,
    )
  }
  if (route === 'POST /mend') {
    boards.forEach((board) => board.mend(asked.fault, asked.part))
  } else {
    const able = boards.filter((board) => board.known.includes(asked.fault ?? ''))
    if (able.length === 0) {
      const known = [...new Set(boards.flatMap((board) => board.known))]
      throw new RangeError(`${asked.gear} has no fault “${asked.fault ?? ''}”. It has: ${known.join(', ')}.`)
    }
    able.forEach((board) => board.cause(asked.fault!, asked.part, Date.now(), asked.pace))
  }
  reply(response, 200, { gear: asked.gear, now: boards.flatMap((board) => board.list()) })
}

async function bodyOf(request: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of request as AsyncIterable<Buffer>) {
    size += chunk.byteLength
    if (size > 65_536) throw new RangeError('the command is longer than 64 KiB')
    chunks.push(chunk)
  }
  return Buffer.concat(chunks).toString('utf8')
}

function reply(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { 'content-type': 'application/json' })
  response.end(JSON.stringify(body, null, 2) + '\n')
}
