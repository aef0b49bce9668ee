import { connect } from 'node:net'
import { lookup } from 'node:dns/promises'
import { spawn } from 'node:child_process'
import { expect, test } from 'vitest'
import { errorWords } from './words.ts'

const errorOf = (emitter: { once(event: 'error', hear: (error: Error) => void): unknown }): Promise<Error> =>
  new Promise((resolve) => emitter.once('error', resolve))

test('what the system says of a failure is said in words, also from below what a library made of it', async () => {
  const refused = await errorOf(connect(1, '127.0.0.1'))
  expect(errorWords(refused)).toBe('nothing listens on this port')
  expect(errorWords(new Error('fetch failed', { cause: refused }))).toBe('nothing listens on this port')
  expect(errorWords(Object.assign(refused, { code: 'ESOCKET' }))).toBe('nothing listens on this port')
  expect(errorWords(await lookup('no.such.host.invalid').catch((error: unknown) => error))).toMatch(
    /resolver/,
  )
  expect(errorWords(await errorOf(spawn('/no/such/program')))).toBe('there is no such file')
  expect(errorWords(new Error('550 no such mailbox'))).toBe('550 no such mailbox')
})
