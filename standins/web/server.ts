import { createServer, type Server } from 'node:http'
import type { FaultBoard } from '../model/faults.ts'

/** A camera or a recorder as its web page: it answers, or it does not. `isAlive` says whether anything reaches it. */
export async function startPage(options: {
  readonly name: string
  readonly host: string
  readonly port: number
  readonly faults: FaultBoard
  readonly isAlive: () => boolean
}): Promise<Server> {
  const { name, host, port, faults, isAlive } = options
  const server = createServer((_, response) => {
    if (faults.has('silent') || !isAlive()) return void response.destroy()
    response.writeHead(200, { 'content-type': 'text/plain' }).end(`${name}\n`)
  })
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, host, resolve)
  })
  return server
}
