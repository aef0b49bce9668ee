import { createServer, type Server } from 'node:http'
import type { SimProbes } from '../model/probes.ts'

/** The gateway's metrics over HTTP, `GET /metrics` with a bearer token. */
export async function startGateway(options: {
  readonly probes: SimProbes
  readonly host?: string
  readonly port: number
  readonly token: string
}): Promise<Server> {
  const { probes, host = '127.0.0.1', port, token } = options
  const server = createServer((request, response) => {
    if (probes.faults.has('deny') || request.headers.authorization !== `Bearer ${token}`) {
      response.writeHead(401, { 'www-authenticate': 'Bearer' }).end()
    } else if (request.url !== '/metrics') {
      response.writeHead(404).end()
    } else {
      response.writeHead(200, {
        'content-type': 'application/openmetrics-text; version=1.0.0; charset=utf-8',
      })
      response.end(probes.metricsAt(Date.now()))
    }
  })
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(port, host, resolve)
  })
  return server
}
