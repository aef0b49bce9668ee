import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { contentDigest, isSignedBy, signatureOf, signedHeaders } from './index.ts'

describe('a signature', () => {
  test('is that of RFC 9421, appendix B.2.5', () => {
    const secret = Buffer.from(
      'uzvJfB4u3N0Jy4T7NZ75MDVcr8zSTInedJtkgcu46YW4XByzNJjxBdtjUkdJPBtbmHhIDi6pcl8jsasjlTMtDQ==',
      'base64',
    )
    const { input, signature } = signatureOf(
      [
        { name: 'date', value: 'Tue, 20 Apr 2021 02:07:55 GMT' },
        { name: '@authority', value: 'example.com' },
        { name: 'content-type', value: 'application/json' },
      ],
      { createdS: 1618884473, keyId: 'test-shared-secret' },
      secret,
    )
    expect(input).toBe('("date" "@authority" "content-type");created=1618884473;keyid="test-shared-secret"')
    expect(signature).toBe('pxcQw6G3AjtMBQjwo8XzkZf/bws5LelbaMk5rGIGtE8=')
  })
  test('goes with the digest of RFC 9530, appendix B.1', () => {
    expect(contentDigest('{"hello": "world"}\n')).toBe(
      'sha-256=:RK/0qy18MlBSVnWgjwz6lZEWjP/lF5HF9bvEF8FabDg=:',
    )
  })
})

const url = 'http://127.0.0.1:9/hooks/a'
const given = { id: 'f3a1', createdS: 1_790_000_000, secret: 'shared' }

test('a receiver knows what was signed with its secret, and nothing else', () => {
  fc.assert(
    fc.property(fc.string(), fc.nat(50), (body, at) => {
      const headers = signedHeaders(url, body, given)
      const request = { url, body: Buffer.from(body), headers }
      expect(isSignedBy('shared', request)).toBe(true)
      expect(isSignedBy('other', request)).toBe(false)
      expect(isSignedBy('shared', { ...request, url: `${url}b` })).toBe(false)
      expect(isSignedBy('shared', { ...request, body: Buffer.from(`${body} `) })).toBe(false)
      const cut = headers['signature']!.slice(0, -2 - (at % 40))
      expect(isSignedBy('shared', { ...request, headers: { ...headers, signature: cut } })).toBe(false)
      expect(isSignedBy('shared', { ...request, headers: { ...headers, 'idempotency-key': '"x"' } })).toBe(
        false,
      )
    }),
  )
  expect(isSignedBy('shared', { url, body: Buffer.from(''), headers: {} })).toBe(false)
})
