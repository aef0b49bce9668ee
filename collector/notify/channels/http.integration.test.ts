import { createServer, type Server } from 'node:http'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { freePort } from '../../../bin/setup/postgres.mjs'
import { post } from './http.ts'

// What answers a hook may be large, or without an end: its beginning is all that is read.

const port = await freePort()
let server: Server
let sent = 0

beforeAll(async () => {
  server = createServer((_, response) => {
    response.on('error', () => undefined)
    const piece = Buffer.alloc(64 * 1024, 'y')
    const more = (): void => {
      if (response.destroyed || sent > 200 * 1024 * 1024) return
      sent += piece.byteLength
      if (response.write(piece)) setImmediate(more)
      else response.once('drain', more)
    }
    more()
  })
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve))
})
afterAll(() => {
  server.close()
  server.closeAllConnections()
})

test('an answer without an end is left where it is, at once', async () => {
  const startedMs = performance.now()
  const answer = await post(`http://127.0.0.1:${port}/`, '{}', {})
  expect(answer).toBe(`200 ${'y'.repeat(200)}`)
  expect(performance.now() - startedMs).toBeLessThan(20_000)
  expect(sent).toBeLessThan(20 * 1024 * 1024)
})
