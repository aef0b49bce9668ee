// The web process: the built application behind a plain HTTP server on the loopback address.
import { createServer } from 'node:http'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { HOME } from './packages.mjs'

const port = Number(process.env['RACK_PORT'])
// The built server takes the scheme from a header; only this file sets it, whatever a client sends.
process.env['PROTOCOL_HEADER'] = 'x-rack-scheme'
// Files of readings have any size; everything else is held to a limit by the application itself.
process.env['BODY_SIZE_LIMIT'] = 'Infinity'
const { handler } = await import(pathToFileURL(join(HOME, 'build', 'handler.js')).href)

const server = createServer((request, response) => {
  request.headers['x-rack-scheme'] = process.env['RACK_BEHIND_TLS'] === 'yes' ? 'https' : 'http'
  handler(request, response)
})
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
