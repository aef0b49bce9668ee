// The web process: the built application behind a plain HTTP server on the loopback address.
import { createServer } from 'node:http'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { constants } from 'node:zlib'
import compression from 'compression'
import { holdBody } from './bodies.mjs'
import { HOME } from './packages.mjs'

const port = Number(process.env['RACK_PORT'])
// The built server takes the scheme from a header; only this file sets it, whatever a client sends.
process.env['PROTOCOL_HEADER'] = 'x-rack-scheme'
// Files of readings have any size; everything else is held to a limit by the application itself.
process.env['BODY_SIZE_LIMIT'] = 'Infinity'
const { handler } = await import(pathToFileURL(join(HOME, 'build', 'handler.js')).href)

const isBehindTls =
  process.env['RACK_BEHIND_TLS'] === 'yes' || /(^|[\s,])https:/.test(process.env['RACK_ORIGIN'] ?? '')
/**
 * Pages and their data go out packed; what is streamed does not, nor the answer to a form: it may hold a secret. Packed
 * lightly: a page of 167 kB is 22 kB after 2 ms, and after 9 ms would be 19 kB.
 */
const pack = compression({
  threshold: 2048,
  level: 1,
  brotli: { params: { [constants.BROTLI_PARAM_QUALITY]: 1 } },
  filter: ({ method }, response) =>
    method === 'GET' && /^(text\/html|application\/json)\b/.test(String(response.getHeader('content-type'))),
})
const server = createServer(
  { headersTimeout: 15_000, connectionsCheckingInterval: 5000 },
  (request, response) => {
    // Balancers ask by HTTP/1.0 whether it is well, and name no host.
    request.headers.host ??= 'localhost'
    request.headers['x-rack-scheme'] = isBehindTls ? 'https' : 'http'
    if (request.method !== 'GET' && request.method !== 'HEAD' && !holdBody(request, response)) {
      response.writeHead(503, { 'content-type': 'application/json', 'retry-after': '5', connection: 'close' })
      response.end(JSON.stringify({ message: 'Too much is being sent at once. Try again in a few seconds.' }))
      return
    }
    pack(/** @type {any} */ (request), /** @type {any} */ (response), () => handler(request, response))
  },
)
server.maxConnections = 2000

server.listen(port, process.env['RACK_LISTEN'] ?? '127.0.0.1')

for (const signal of /** @type {const} */ (['SIGTERM', 'SIGINT'])) {
  process.once(signal, () => {
    // Event streams never end by themselves: the application closes them, and its database, on this event.
    process.emit(/** @type {any} */ ('sveltekit:shutdown'), /** @type {any} */ (signal))
    server.close()
    server.closeAllConnections()
    setTimeout(() => process.exit(0), 1500).unref()
  })
}
